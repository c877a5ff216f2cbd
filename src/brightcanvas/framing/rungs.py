"""Rungs: the pixel sizes in which a cut is shipped, and which screens get which."""

from __future__ import annotations

import math
from dataclasses import dataclass

from brightcanvas.basics.fits import Fit
from brightcanvas.basics.shapes import Size, Span
from brightcanvas.framing.stages import Sight, Stage

DENSITIES = (1.0, 2.0)
EVERY_DENSITY = Span(0.0, math.inf)


@dataclass(frozen=True)
class Shortfall:
    """The screen at which a rung has fewer pixels than are shown."""

    sight: Sight
    density: float
    needed_width: int
    """Pixels across that the screen shows of the whole cut."""


@dataclass(frozen=True)
class Rung:
    """One pixel size of a cut, and the screens that get it."""

    width: int
    height: int
    densities: Span
    """Device pixels per CSS px: above ``low``, up to and including ``high``."""
    shortfall: Shortfall | None = None


def rungs_for(cut: Size, stage: Stage, fit: Fit) -> tuple[Rung, ...]:
    """A rung for each density, never larger than the cut itself.

    Args:
        cut: size in source px.
        stage: the boxes it is drawn in.
        fit: how it is drawn in them.
    """
    sight = max(stage.corners, key=lambda s: fit.drawn_width(cut.aspect, s.box))
    drawn = fit.drawn_width(cut.aspect, sight.box)
    rungs: list[Rung] = []
    for density in DENSITIES:
        rung = _rung(cut, sight, drawn, density)
        if rungs and rung.width <= rungs[-1].width:
            rungs[-1] = _spread(rungs[-1], rung)
        else:
            rungs.append(rung)
    return tuple(_joined(rungs))


def _rung(cut: Size, sight: Sight, drawn: float, density: float) -> Rung:
    needed = math.ceil(round(drawn * density, 6))
    largest = max(1, math.floor(cut.width + 1e-6))
    width = min(needed, largest)
    height = max(1, round(width / cut.aspect))
    shortfall = Shortfall(sight, density, needed) if needed > largest else None
    return Rung(width, height, Span(0, density), shortfall)


def _spread(rung: Rung, denser: Rung) -> Rung:
    """The same file for the denser screens too."""
    return Rung(rung.width, rung.height, denser.densities, denser.shortfall)


def _joined(rungs: list[Rung]) -> list[Rung]:
    """Density ranges that leave none out: each begins where the one before ends."""
    starts = [0.0] + [rung.densities.high for rung in rungs[:-1]]
    ends = [rung.densities.high for rung in rungs[:-1]] + [math.inf]
    return [
        Rung(rung.width, rung.height, Span(start, end), rung.shortfall)
        for rung, start, end in zip(rungs, starts, ends, strict=True)
    ]
