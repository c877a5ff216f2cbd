"""What a cut has to hold to, as bounds that are linear in the cut's size.

A cut is six numbers: its width and height, where it starts on each axis (``start``), and
where on each axis the smallest window starts (``inner``), which is the position's doing. The
windows between the smallest and the whole cut lie evenly between the two (see ``cuts``), so
every wish about all boxes of a stage is a bound on ``start`` or ``inner`` at the two ends:

- the narrowest box shows, from left to right, ``inner .. inner + a * height``, and all rows;
- the widest shows all columns, and from top to bottom ``inner .. inner + width / b``;

with a and b the least and the greatest aspect. For a fixed size the bounds are intervals;
``start`` and ``inner`` can be eliminated from them (Fourier and Motzkin's way), which leaves
half-planes for the size alone. So whether any cut at all holds is decided exactly.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from enum import Enum
from typing import NamedTuple

from brightcanvas.values.geometry import Rect, Size, Span

HAIR = 1e-9
"""Source px by which a condition may be missed, relative to the source's longer side."""


class Linear(NamedTuple):
    """The amount ``across * width + down * height + rest`` for a cut of width x height."""

    across: float
    down: float
    rest: float

    def at(self, width: float, height: float) -> float:
        """The amount for one cut size."""
        return self.across * width + self.down * height + self.rest

    def __sub__(self, other: Linear) -> Linear:
        return Linear(self.across - other.across, self.down - other.down, self.rest - other.rest)

    def plus(self, other: Linear) -> Linear:
        """The sum of both amounts."""
        return Linear(self.across + other.across, self.down + other.down, self.rest + other.rest)


CutSize = tuple[float, float]
Polygon = tuple[CutSize, ...]
"""Corners (width, height) in order; empty where no size is left."""


def clipped(polygon: Polygon, conditions: Iterable[Linear], slack: float) -> Polygon:
    """The part of a polygon in which every condition's amount is at least ``-slack``.

    Sutherland and Hodgman, "Reentrant Polygon Clipping", CACM 17, 1974.
    """
    for across, down, rest in conditions:
        if not polygon:
            break
        amounts = [across * width + down * height + rest + slack for width, height in polygon]
        if min(amounts) >= 0:
            continue
        polygon = _clip(polygon, amounts)
    return polygon


def _clip(polygon: Polygon, amounts: list[float]) -> Polygon:
    kept: list[CutSize] = []
    for index, (corner, amount) in enumerate(zip(polygon, amounts, strict=True)):
        before, amount_before = polygon[index - 1], amounts[index - 1]
        if (amount >= 0) != (amount_before >= 0):
            share = amount_before / (amount_before - amount)
            kept.append(
                (
                    before[0] + share * (corner[0] - before[0]),
                    before[1] + share * (corner[1] - before[1]),
                )
            )
        if amount >= 0:
            kept.append(corner)
    return tuple(kept)


@dataclass(frozen=True)
class CutWish:
    """What must hold in every box of a stage."""

    source: Size
    """In source px, like the subjects."""
    aspects: Span
    subjects: tuple[Rect, ...]
    copy: Rect | None = None
    """Where the copy lies, in fractions of the box; None: it may lie anywhere."""
    hidden: float = 0.0
    """Share of the picture's height, above and below, that may be out of the box (drift)."""

    @property
    def subject(self) -> Rect:
        """The box round all subjects: a window that shows it shows them all."""
        return Rect(
            min(one.left for one in self.subjects),
            min(one.top for one in self.subjects),
            max(one.right for one in self.subjects),
            max(one.bottom for one in self.subjects),
        )


class CopySide(Enum):
    """Where the copy lies, seen from a subject, in narrow boxes and in wide ones.

    Within the narrow boxes (down to the cut's own aspect) only the columns that are shown
    change, within the wide ones only the rows; so one relation serves each of them.
    """

    LEFT = ("left", "left")
    RIGHT = ("right", "right")
    ABOVE = ("above", "above")
    BELOW = ("below", "below")
    ABOVE_THEN_LEFT = ("above", "left")
    ABOVE_THEN_RIGHT = ("above", "right")
    BELOW_THEN_LEFT = ("below", "left")
    BELOW_THEN_RIGHT = ("below", "right")


WIDTH = Linear(1, 0, 0)
HEIGHT = Linear(0, 1, 0)


def constant(value: float) -> Linear:
    """The same amount for every size."""
    return Linear(0, 0, value)


@dataclass(frozen=True)
class Axis:
    """The bounds of one axis: lower and upper ones of ``start`` and of ``inner``."""

    spare: Linear
    """By how much the cut is longer than the smallest window."""
    start_low: list[Linear] = field(default_factory=list)
    start_high: list[Linear] = field(default_factory=list)
    inner_low: list[Linear] = field(default_factory=list)
    inner_high: list[Linear] = field(default_factory=list)

    def conditions(self) -> Iterator[Linear]:
        """Amounts that are at least zero exactly when some start and inner keep the bounds."""
        pairs = (
            (self.start_low, self.start_high, None),
            (self.inner_low, self.inner_high, None),
            (self.start_low, self.inner_high, None),
            (self.inner_low, self.start_high, self.spare),
        )
        for lows, highs, extra in pairs:
            for high in highs:
                across, down, rest = high.plus(extra) if extra else high
                for low in lows:
                    yield Linear(across - low[0], down - low[1], rest - low[2])

    def place(
        self, size: tuple[float, float], start: float, inner: float, step: float
    ) -> tuple[float, float]:
        """The start and inner nearest to the wanted ones that keep all bounds, for a size.

        The start lies at a multiple of ``step`` where the bounds leave one.
        """
        spare = self.spare.at(*size)
        start_low, start_high = _range(self.start_low, self.start_high, size)
        inner_low, inner_high = _range(self.inner_low, self.inner_high, size)
        low, high = max(start_low, inner_low - spare), min(start_high, inner_high)
        start = _on_lattice(_between(start, low, high), low, high, step)
        inner = _between(inner, max(inner_low, start), min(inner_high, start + spare))
        return start, inner


def _on_lattice(value: float, low: float, high: float, step: float) -> float:
    """The multiple of ``step`` nearest to a value, if one lies within its range."""
    nearest = round(value / step) * step
    tried = (nearest, nearest + step, nearest - step)
    return next((one for one in tried if low <= one <= high), value)


def _range(
    lows: list[Linear], highs: list[Linear], size: tuple[float, float]
) -> tuple[float, float]:
    return max(low.at(*size) for low in lows), min(high.at(*size) for high in highs)


def _between(value: float, low: float, high: float) -> float:
    """The value within its range; the middle where rounding has crossed the range's ends."""
    return min(max(value, low), high) if low <= high else (low + high) / 2


@dataclass(frozen=True)
class Bounds:
    """The bounds of both axes."""

    across: Axis
    down: Axis


def bounds_for(wish: CutWish, sides: tuple[CopySide, ...]) -> Bounds:
    """The bounds of a wish; ``sides`` has the copy's place for each subject, or is empty."""
    narrow = Linear(0, wish.aspects.low, 0)  # columns that the narrowest box shows
    wide = Linear(1 / wish.aspects.high, 0, 0)  # rows that the widest box shows
    bounds = Bounds(Axis(WIDTH - narrow), Axis(HEIGHT - wide))
    _stay_in_source(bounds, wish.source)
    _show(bounds, wish, narrow, wide)
    for subject, side in zip(wish.subjects, sides, strict=False):
        _keep_clear(bounds, wish, subject, side)
    return bounds


def _stay_in_source(bounds: Bounds, source: Size) -> None:
    for axis, length, side in (
        (bounds.across, source.width, WIDTH),
        (bounds.down, source.height, HEIGHT),
    ):
        axis.start_low.append(constant(0))
        axis.start_high.append(constant(length) - side)


def _show(bounds: Bounds, wish: CutWish, narrow: Linear, wide: Linear) -> None:
    """The subject lies in the smallest window, and off what drift may hide."""
    subject, hidden = wish.subject, wish.hidden
    bounds.across.inner_high.append(constant(subject.left))
    bounds.across.inner_low.append(constant(subject.right) - narrow)
    bounds.down.inner_high.append(constant(subject.top) - _times(wide, hidden))
    bounds.down.inner_low.append(constant(subject.bottom) - _times(wide, 1 - hidden))
    if hidden:
        bounds.down.start_high.append(constant(subject.top) - _times(HEIGHT, hidden))
        bounds.down.start_low.append(constant(subject.bottom) - _times(HEIGHT, 1 - hidden))


def _times(amount: Linear, factor: float) -> Linear:
    return Linear(amount.across * factor, amount.down * factor, amount.rest * factor)


def _keep_clear(bounds: Bounds, wish: CutWish, subject: Rect, side: CopySide) -> None:
    in_narrow, in_wide = side.value
    if in_narrow in ("left", "right"):
        window = Linear(0, wish.aspects.low, 0)
        _beside(bounds.across, wish, subject, in_narrow, window, inner=True)
    if in_wide in ("left", "right"):
        _beside(bounds.across, wish, subject, in_wide, WIDTH, inner=False)
    if in_wide in ("above", "below"):
        window = Linear(1 / wish.aspects.high, 0, 0)
        _beside(bounds.down, wish, subject, in_wide, window, inner=True)
    if in_narrow in ("above", "below"):
        _beside(bounds.down, wish, subject, in_narrow, HEIGHT, inner=False)


def _beside(
    axis: Axis, wish: CutWish, subject: Rect, where: str, window: Linear, *, inner: bool
) -> None:
    """One bound: in this window the copy ends before the subject, or begins after it."""
    copy = wish.copy
    assert copy is not None
    across = where in ("left", "right")
    begin, end = (copy.left, copy.right) if across else (copy.top, copy.bottom)
    low, high = (subject.left, subject.right) if across else (subject.top, subject.bottom)
    if where in ("left", "above"):
        (axis.inner_high if inner else axis.start_high).append(constant(low) - _times(window, end))
    else:
        (axis.inner_low if inner else axis.start_low).append(constant(high) - _times(window, begin))
