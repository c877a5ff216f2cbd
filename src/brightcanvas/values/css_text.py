"""Texts of CSS before they are parsed: what nobody wrote by hand is left alone."""

from __future__ import annotations

import re
from typing import Any

import tinycss2

MOST_NESTED = 60
"""Brackets within brackets."""

_LONG_NUMBER = re.compile(r"\d{300}")
"""Longer than any number that a computer calculates with."""


def is_unbearable(text: str) -> bool:
    """Whether reading a text is not worth the risk: brackets nested deeply, endless numbers."""
    return _is_too_deep(text) or bool(_LONG_NUMBER.search(text))


def _is_too_deep(text: str) -> bool:
    depth = 0
    for sign in text:
        if sign in "([{":
            depth += 1
            if depth > MOST_NESTED:
                return True
        elif sign in ")]}":
            depth = max(0, depth - 1)
    return False


def component_values(text: str) -> list[Any]:
    """The tokens of a value; none of one that is unbearable."""
    return [] if is_unbearable(text) else list(tinycss2.parse_component_value_list(text))
