"""Selectors, compiled, as far as that can be borne."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import cssselect2

from brightcanvas.values.css_text import is_unbearable

LONGEST = 10_000
"""Characters of a list of selectors."""


@lru_cache(maxsize=4096)
def compiled(selectors: str) -> tuple[Any, ...] | None:
    """A list of selectors; None for what is wrong, newer than the library, or without measure."""
    if len(selectors) > LONGEST or is_unbearable(selectors):
        return None
    try:
        return tuple(cssselect2.compile_selector_list(selectors))
    except (cssselect2.SelectorError, SyntaxError, RecursionError, MemoryError, ValueError):
        return None  # the library writes a program for each, which may become too deep
