"""The room between an element's edges and its content."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

import tinycss2

from brightcanvas.values.css_text import component_values
from brightcanvas.values.geometry import Size
from brightcanvas.values.heights import UNITS, in_viewport
from brightcanvas.values.lengths import (
    Amount,
    Calculation,
    NotALengthError,
    is_balanced,
    is_length,
    never_falls,
    parse_token,
)

WANTED = "one to four lengths such as 64px, 4rem, 5vw, clamp(2rem, 5vw, 6rem) or 0"

NOTHING = Amount(0.0)

_NEWER = re.compile(r"(?<=\d)[sld]vh")


def check_padding(text: str) -> str:
    """The lengths with single spaces between; ValueError says what was expected."""
    try:
        parts = [parse_token(one) for one in _tokens(text)] if is_balanced(text) else []
    except NotALengthError:
        raise ValueError(WANTED) from None
    are_lengths = all(is_length(one, (*UNITS, "%")) and never_falls(one) for one in parts)
    if not (1 <= len(parts) <= 4 and are_lengths):
        raise ValueError(WANTED)
    return " ".join(one.serialize() for one in _tokens(text))


def _tokens(text: str) -> Iterator[tinycss2.ast.Node]:
    """One for each length."""
    return (one for one in component_values(text) if one.type not in ("whitespace", "comment"))


@dataclass(frozen=True)
class PaddingHeight:
    """What padding above and below makes of an element's height at least."""

    above: Calculation = NOTHING
    below: Calculation = NOTHING

    def pixels(self, viewport: Size) -> float:
        """In a viewport, both in CSS px.

        Shares in % are of the width of what holds the element, which is taken for the viewport
        (CSS Box Model 3, section 4.2).
        """
        both = (self.above, self.below)
        return sum(in_viewport(one, viewport, viewport.width) for one in both)


NO_PADDING = PaddingHeight()


def padding_height(padding: str) -> PaddingHeight:
    """Of a padding that was checked."""
    if not padding:
        return NO_PADDING
    parts = [parse_token(one) for one in _tokens(padding)]
    return PaddingHeight(parts[0], parts[2] if len(parts) > 2 else parts[0])


def padding_lines(padding: str) -> list[str]:
    """CSS declarations: the padding counts into the least height, in every browser.

    Browsers that don't know the newer viewport units take the plain one.
    """
    if not padding:
        return []
    older = _NEWER.sub("vh", padding)
    lines = ["box-sizing: border-box;", f"padding: {older};"]
    return lines if older == padding else [*lines, f"padding: {padding};"]
