"""What quick trials of a picture foretell of its files: bytes, px and qualities."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Weights:
    """The bytes of a picture's files in one format, at one score, as a law in three figures."""

    base: float = 45_000.0
    """Bytes of the whole picture in a million px, seen at one px to a CSS px."""
    growth: float = 0.85
    """Power with which bytes grow with the px: larger files show smoother detail."""
    relief: float = -0.6
    """Power with which bytes change with the density: what is too fine to see costs less."""

    def bytes(self, px: float, density: float, fraction: float = 1.0) -> float:
        """Of a file of so many px.

        Args:
            px: of the file.
            density: px of it that make a CSS px.
            fraction: of the picture's area that it shows (0..1).
        """
        whole = px / fraction / 1e6
        return float(fraction * self.base * whole**self.growth * max(density, 0.25) ** self.relief)


USUAL_WEIGHTS = Weights()
"""Of photographs that nothing is known of yet."""


@dataclass(frozen=True)
class Fitting:
    """How files of one format fit one picture, at one density."""

    shrink: float
    """The least share of the px across that may make the lightest file."""
    lift: float
    """How much higher than the usual one its curve of quality lies (see weight.search)."""
    lift_shrunk: float
    """The same with the least share of the px."""
    is_lighter: bool
    """Whether squares of the picture were lighter with it than with all px."""


@dataclass(frozen=True)
class Tried:
    """What is known of one picture."""

    weights: Weights = USUAL_WEIGHTS
    fittings: tuple[tuple[str, Fitting, Fitting], ...] = ()
    """The name of a ladder each, and how it fits at 1 and at 2 px to a CSS px."""

    def fitting(self, ladder: str, density: float) -> Fitting | None:
        """At a density, between the two that were tried."""
        found = [(plain, dense) for name, plain, dense in self.fittings if name == ladder]
        if not found:
            return None
        plain, dense = found[0]
        way = min(max(math.log2(max(density, 1.0)), 0.0), 1.0)
        return Fitting(
            plain.shrink ** (1 - way) * dense.shrink**way,
            _on_line(plain.lift, dense.lift, density),
            _on_line(plain.lift_shrunk, dense.lift_shrunk, density),
            dense.is_lighter if density > BETWEEN else plain.is_lighter,
        )


BETWEEN = 1.4
"""Px to a CSS px from which a picture counts as seen at 2 rather than at 1."""


def _on_line(plain: float, dense: float, density: float) -> float:
    """Between a figure at 1 px to a CSS px and one at 2, and a little beyond."""
    return plain + (dense - plain) * math.log2(max(density, 0.5))


UNTRIED = Tried()
"""Of photographs that nothing is known of yet."""


def logarithms(px: float, density: float) -> tuple[float, float, float]:
    """What the logarithm of the bytes is linear in: of 1, of the px, of the density."""
    return 1.0, math.log(px / 1e6), math.log(density)
