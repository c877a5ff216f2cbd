"""Selectors, compiled as far as that can be borne, and declarations with what decides who wins."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import cssselect2

from brightcanvas.values.page_text import exceeds_limits

_BRACKETS = re.compile(r"""\[(?:"[^"]*"|'[^']*'|[^\]"'])*\]|\([^()]*\)""")
_NAMED = re.compile(r"([.#])(-?[\w-]+)")


@dataclass(frozen=True)
class Names:
    """What a page's elements are called."""

    classes: frozenset[str]
    ids: frozenset[str]


def may_match(selectors: str, names: Names) -> bool:
    """Whether one of a list's selectors names only what there is.

    What stands in brackets says nothing: it may name what must not be there.
    """
    if "\\" in selectors:
        return True
    without = _BRACKETS.sub("", selectors)
    while without != selectors:
        selectors, without = without, _BRACKETS.sub("", without)
    return any(_has_names(part, names) for part in selectors.split(","))


def _has_names(selector: str, names: Names) -> bool:
    return all(
        name in (names.classes if mark == "." else names.ids)
        for mark, name in _NAMED.findall(selector)
    )


LONGEST = 10_000
"""Characters of a list of selectors."""


@lru_cache(maxsize=4096)
def compiled(selectors: str) -> tuple[Any, ...] | None:
    """A list of selectors; None for what is wrong, newer than the library, or without measure."""
    if len(selectors) > LONGEST or exceeds_limits(selectors):
        return None
    try:
        return tuple(cssselect2.compile_selector_list(selectors))
    except (cssselect2.SelectorError, SyntaxError, RecursionError, MemoryError, ValueError):
        return None  # the library writes a program for each, which may become too deep


INLINE = "style attribute"

Element = Any
"""An element as cssselect2 wraps it, which has no types."""

Rank = tuple[Any, ...]


@dataclass(frozen=True)
class Declared:
    """A declaration that applies to an element under some conditions."""

    name: str
    value: Sequence[Any]
    media: tuple[str, ...]
    base: str
    rank: Rank
    """The greatest wins."""
    origin: str
    """URL of the sheet in which it stands, or ``style attribute``."""
    line: int = 0
    """In that file; 0: not known."""
    selector: str = ""
    """Of its rule; empty in a style attribute."""


NEVER_SHOWN = frozenset(
    ("area", "base", "basefont", "datalist", "head", "link", "meta", "noembed", "noframes", "param",
     "rp", "script", "style", "template", "title", "noscript", "source", "track")
)  # fmt: skip

BOLD = frozenset(("b", "strong", "h1", "h2", "h3", "h4", "h5", "h6", "th"))
ITALIC = frozenset(("address", "cite", "dfn", "em", "i", "var"))
FIXED_WIDTH = frozenset(("code", "kbd", "pre", "samp", "tt", "listing", "plaintext", "xmp"))
CONTROLS = frozenset(("button", "input", "select", "textarea", "meter", "progress"))
"""They have a font and a colour of their own, whatever is round them says."""
