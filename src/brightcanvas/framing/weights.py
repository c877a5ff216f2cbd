"""What quick trials of a picture foretell of its files: bytes, px and qualities."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from brightcanvas.values.geometry import Rect


@dataclass(frozen=True)
class Weights:
    """The bytes of a picture's files in one format, at one score, as a law in three figures."""

    base: float = 45_000.0
    """Bytes of the whole picture in a million px, seen at one px to a CSS px."""
    growth: float = 0.85
    """Power with which bytes grow with the px: larger files show smoother detail."""
    relief: float = -0.6
    """Power with which bytes change with the density: what is too fine to see costs less."""

    def bytes(self, px: float, density: float) -> float:
        """Of a file of the whole picture in so many px.

        Args:
            px: of the file.
            density: px of it that make a CSS px.
        """
        return float(self.base * (px / 1e6) ** self.growth * max(density, 0.25) ** self.relief)


USUAL_WEIGHTS = Weights()
"""Of photographs that nothing is known of yet."""


@dataclass(frozen=True)
class Places:
    """Where in a picture its bytes lie: a sharp subject before a soft ground has most of them."""

    sums: tuple[tuple[float, ...], ...] = ((0.0, 0.0), (0.0, 1.0))
    """Of an even lattice over the picture, corners included: the share (0..1) of the bytes above
    and left of each of its points."""

    def share(self, area: Rect) -> float:
        """Of the bytes (0..1) in an area, in fractions of the picture."""
        high = self._before(area.right, area.bottom) - self._before(area.right, area.top)
        return high - self._before(area.left, area.bottom) + self._before(area.left, area.top)

    def _before(self, x: float, y: float) -> float:
        """Above and left of a point: the bytes of one cell of the lattice are spread evenly."""
        row, down = _cell(y, len(self.sums) - 1)
        column, across = _cell(x, len(self.sums[0]) - 1)
        above, below = (
            one[column] * (1 - across) + one[column + 1] * across
            for one in (self.sums[row], self.sums[row + 1])
        )
        return above * (1 - down) + below * down


def _cell(fraction: float, cells: int) -> tuple[int, float]:
    """Which of some cells, and how far in it."""
    place = min(max(fraction, 0.0), 1.0) * cells
    cell = min(int(place), cells - 1)
    return cell, place - cell


EVEN_PLACES = Places()


@dataclass(frozen=True)
class Fitting:
    """How files of one format fit one picture, at one density."""

    curve: str
    """Its name."""
    density: float
    """Px to a CSS px."""
    shrink: float
    """The share of the px across that files have (0..1]."""
    lift: float
    """How much higher than the usual one its curve of quality lies (see weight.search)."""
    bytes: float
    """Of the squares that were tried."""


@dataclass(frozen=True)
class KnownPicture:
    """What is known of one picture."""

    weights: Weights = USUAL_WEIGHTS
    fittings: tuple[Fitting, ...] = ()
    """Each share of the px was tried at the same densities, the least of them first."""
    places: Places = EVEN_PLACES

    def fitting(self, curve: str, density: float) -> Fitting | None:
        """At a density, with the share of the px that was lightest nearest to it."""
        found = [one for one in self.fittings if one.curve == curve]
        if not found:
            return None
        nearest = min(abs(math.log(one.density / density)) for one in found)
        near = [one for one in found if abs(math.log(one.density / density)) == nearest]
        best = min(near, key=lambda one: one.bytes)
        alike = [one for one in found if one.shrink == best.shrink]
        return replace(best, density=density, lift=_on_line(alike[0], alike[-1], density))


def _on_line(plain: Fitting, dense: Fitting, density: float) -> float:
    """The lift between two densities, and a little beyond."""
    way = math.log(max(density, 0.5) / plain.density) / math.log(dense.density / plain.density)
    return plain.lift + (dense.lift - plain.lift) * way


UNTRIED = KnownPicture()
"""Of photographs that nothing is known of yet."""


def logarithms(px: float, density: float) -> tuple[float, float, float]:
    """What the logarithm of the bytes is linear in: of 1, of the px, of the density."""
    return 1.0, math.log(px / 1e6), math.log(density)
