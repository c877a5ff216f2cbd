"""An element's box: its width and height as rules or as measured, and the room within it.

A rule is written as CSS writes lengths: ``420px``, ``80svh``, ``56vw``, ``30rem``, ``16/9`` (an
aspect), or a mix with ``min()``, ``max()``, ``clamp()`` and ``calc()``.
"""

from __future__ import annotations

import math
import re
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import tinycss2

from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.lengths import (
    ABSOLUTE,
    Amount,
    Calculation,
    Combined,
    NotALengthError,
    is_balanced,
    is_length,
    never_falls,
    parse_text,
    parse_token,
)
from brightcanvas.values.page_text import component_values

Column = tuple[tuple[float, Size], ...]
"""Boxes of one window width, by the window's height, the lowest first."""


@dataclass(frozen=True)
class MeasuredBoxes:
    """Boxes in some windows; between two of them, what lies between."""

    windows: tuple[tuple[Size, Size], ...]
    """Viewport and box, CSS px; at least one."""

    @cached_property
    def columns(self) -> tuple[tuple[float, Column], ...]:
        """By the windows' width, the narrowest first."""
        found: dict[float, dict[float, Size]] = {}
        for viewport, box in self.windows:
            found.setdefault(viewport.width, {})[viewport.height] = box
        return tuple((width, tuple(sorted(column.items()))) for width, column in sorted(
            found.items(), key=lambda one: one[0]
        ))  # fmt: skip

    def at(self, viewport: Size) -> Size:
        """The box in a window (CSS px): linear between the windows that were measured."""
        columns = self.columns
        low, high, share = _around([width for width, _ in columns], viewport.width)
        narrow, wide = (_at_height(columns[one][1], viewport.height) for one in (low, high))
        return _between(narrow, wide, share)


def _at_height(column: Column, height: float) -> Size:
    low, high, share = _around([one for one, _ in column], height)
    return _between(column[low][1], column[high][1], share)


def _around(steps: Sequence[float], wanted: float) -> tuple[int, int, float]:
    """The steps on both sides, by their numbers, and how far it is on the way from one to two."""
    high = bisect_right(steps, wanted)
    if high == 0 or high == len(steps):
        only = min(high, len(steps) - 1)
        return only, only, 0.0
    below, above = steps[high - 1], steps[high]
    return high - 1, high, (wanted - below) / (above - below)


def _between(first: Size, second: Size, share: float) -> Size:
    return Size(
        first.width + (second.width - first.width) * share,
        first.height + (second.height - first.height) * share,
    )


_WIDTHS_WANTED = "a width such as 60%, 1200px or min(60%, 1200px)"


@dataclass(frozen=True)
class ElementWidth:
    """An element's width; by default it spans the viewport."""

    share: float = 1.0
    most: float = math.inf

    def pixels(self, viewport_width: float) -> float:
        """The width in CSS px."""
        return min(self.share * viewport_width, self.most)

    @property
    def capped_from(self) -> float:
        """The viewport width (CSS px) from which on the element grows no wider."""
        return self.most / self.share


FULL_WIDTH = ElementWidth()


def parse_width(text: str) -> ElementWidth:
    """Read a width; ValueError says what was expected."""
    try:
        length = parse_text(text)
    except NotALengthError:
        raise ValueError(_WIDTHS_WANTED) from None
    is_least = isinstance(length, Combined) and length.function == "min"
    parts = length.parts if isinstance(length, Combined) and is_least else (length,)
    amounts = [one for one in parts if isinstance(one, Amount)]
    shares = [one.number / 100 for one in amounts if one.unit in ("%", "vw")]
    lengths = [one.number * ABSOLUTE[one.unit] for one in amounts if one.unit in ABSOLUTE]
    if len(shares) + len(lengths) < len(parts):
        raise ValueError(_WIDTHS_WANTED)
    share, most = min(shares, default=1.0), min(lengths, default=math.inf)
    if not (0 < share <= 1 and most > 0):
        raise ValueError(f"{_WIDTHS_WANTED}; a share is above 0 and at most 100%")
    return ElementWidth(share, most)


UNITS = (*ABSOLUTE, "vw", "vh", "svh", "lvh", "dvh")
_ASPECT = re.compile(r"\s*(\d+(?:\.\d+)?)\s*/\s*(\d+(?:\.\d+)?)\s*")
_HEIGHTS_WANTED = "a height such as 420px, 80svh, 16/9 or max(420px, 70svh)"


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
        raise ValueError(_HEIGHTS_WANTED) from None
    if not is_length(length, UNITS):
        raise ValueError(_HEIGHTS_WANTED)
    if not never_falls(length) or in_viewport(length, Size(1000, 1000)) <= 0:
        raise ValueError(f"{_HEIGHTS_WANTED}, above zero and with nothing taken off")
    return LengthHeight(length)


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
