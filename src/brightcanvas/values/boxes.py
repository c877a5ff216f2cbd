"""An element's boxes as they were measured on a page, where no rule has to be known."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from brightcanvas.values.geometry import Size

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
