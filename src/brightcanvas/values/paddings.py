"""The room between an element's edges and its content."""

from __future__ import annotations

import re
from dataclasses import dataclass

from brightcanvas.values.geometry import Size

WANTED = "one to four lengths such as 64px, 4rem, 5vw, 8svh or 0"

_LENGTH = re.compile(r"0|(\d+(?:\.\d+)?)(px|rem|em|vw|vh|svh|lvh|dvh|%)")
_NEWER = re.compile(r"(?<=\d)[sld]vh")


def check_padding(text: str) -> str:
    """The lengths with single spaces between; ValueError says what was expected."""
    parts = text.split()
    if not 1 <= len(parts) <= 4 or not all(_LENGTH.fullmatch(part) for part in parts):
        raise ValueError(WANTED)
    return " ".join(parts)


@dataclass(frozen=True)
class PaddingHeight:
    """What padding above and below makes of an element's height at least."""

    px: float = 0.0
    of_width: float = 0.0
    """Share of the viewport's width."""
    of_height: float = 0.0
    """Share of its height."""

    def pixels(self, viewport: Size) -> float:
        """In a viewport, both in CSS px."""
        return self.px + self.of_width * viewport.width + self.of_height * viewport.height


NO_PADDING = PaddingHeight()

FONT_SIZE = 16.0
"""CSS px that rem and em are taken as: the browsers' own size."""


def padding_height(padding: str) -> PaddingHeight:
    """Of a padding that was checked.

    Shares in % are of the width of what holds the element, which is taken for the viewport
    (CSS Box Model 3, section 4.2).
    """
    if not padding:
        return NO_PADDING
    parts = padding.split()
    px = of_width = of_height = 0.0
    for length in (parts[0], parts[2] if len(parts) > 2 else parts[0]):
        found = _LENGTH.fullmatch(length)
        number, unit = (found[1], found[2]) if found and found[1] else ("0", "px")
        if unit in ("vw", "%"):
            of_width += float(number) / 100
        elif unit.endswith("vh"):
            of_height += float(number) / 100
        else:
            px += float(number) * (FONT_SIZE if unit in ("rem", "em") else 1)
    return PaddingHeight(px, of_width, of_height)


def padding_lines(padding: str) -> list[str]:
    """CSS declarations: the padding counts into the least height, in every browser.

    Browsers that don't know the newer viewport units take the plain one.
    """
    if not padding:
        return []
    older = _NEWER.sub("vh", padding)
    lines = ["box-sizing: border-box;", f"padding: {older};"]
    return lines if older == padding else [*lines, f"padding: {padding};"]
