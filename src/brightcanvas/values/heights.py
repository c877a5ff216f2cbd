"""Height rules: how high an element is, as CSS would compute it.

A rule is written as CSS writes lengths: ``420px``, ``80svh``, ``56vw``, ``30rem``, ``16/9`` (an
aspect), or a mix with ``min()``, ``max()``, ``clamp()`` and ``calc()``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.lengths import (
    ABSOLUTE,
    Amount,
    Calculation,
    NotALengthError,
    is_length,
    never_falls,
    parse_text,
)

UNITS = (*ABSOLUTE, "vw", "vh", "svh", "lvh", "dvh")
_ASPECT = re.compile(r"\s*(\d+(?:\.\d+)?)\s*/\s*(\d+(?:\.\d+)?)\s*")
_WANTED = "a height such as 420px, 80svh, 16/9 or max(420px, 70svh)"


@dataclass(frozen=True)
class LengthHeight:
    """A height that depends on the viewport alone."""

    length: Calculation

    def pixels(self, viewport: Size, width: float) -> float:  # noqa: ARG002 - see AspectHeight
        """The height in CSS px in ``viewport`` (CSS px)."""
        return in_viewport(self.length, viewport)

    def css(self, *, modern: bool) -> str:
        """As CSS; not ``modern`` writes ``vh`` for the newer viewport units."""
        return self.length.css(modern=modern)


@dataclass(frozen=True)
class AspectHeight:
    """The height that gives the element the aspect ``across / down``."""

    across: float
    down: float

    def pixels(self, viewport: Size, width: float) -> float:  # noqa: ARG002 - see LengthHeight
        """The height in CSS px of an element ``width`` CSS px wide."""
        return width * self.down / self.across

    def css(self, *, modern: bool) -> str:  # noqa: ARG002 - see LengthHeight
        """As CSS."""
        return f"{plain_number(self.across)} / {plain_number(self.down)}"


HeightRule = LengthHeight | AspectHeight

DEFAULT_HEIGHT = LengthHeight(Amount(60, "svh"))


def in_viewport(length: Calculation, viewport: Size, whole: float = 0.0) -> float:
    """A length in CSS px.

    Args:
        length: that depends on the viewport, and on what holds the element.
        viewport: CSS px.
        whole: what percentages are of, CSS px.
    """

    def size(unit: str) -> float | None:
        if unit in ABSOLUTE:
            return ABSOLUTE[unit]
        if unit == "%":
            return whole / 100
        return (viewport.width if unit == "vw" else viewport.height) / 100

    return length.value(size)


def parse_height(text: str) -> HeightRule:
    """Read a height rule; ValueError says what was expected."""
    if aspect := _ASPECT.fullmatch(text):
        across, down = float(aspect[1]), float(aspect[2])
        if not across or not down:
            raise ValueError("an aspect of two numbers above zero, such as 16/9")
        return AspectHeight(across, down)
    try:
        length = parse_text(text)
    except NotALengthError:
        raise ValueError(_WANTED) from None
    if not is_length(length, UNITS):
        raise ValueError(_WANTED)
    if not never_falls(length) or in_viewport(length, Size(1000, 1000)) <= 0:
        raise ValueError(f"{_WANTED}, above zero and with nothing taken off")
    return LengthHeight(length)
