"""Convex polygons in the plane of cut sizes, cut down by one half-plane after another."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

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
