"""Whether copy can be read on a picture, wherever it lands.

Letters are strokes, and a stroke is read against what is right beside it. So the picture is
averaged, as light, over squares as wide as a stroke: smaller specks vanish under the stroke's
edge, larger ones swallow part of a letter.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.legible import Letters, Scrim
from brightcanvas.basics.raster import Raster
from brightcanvas.basics.shapes import Point, Rect, Size
from brightcanvas.tone.contrast import channels, contrast, luminance, over
from brightcanvas.tone.resample import resize

STEPS_PER_STROKE = 2
MOST_STEPS = 1500
"""Pixels that a side of the averaged picture may have."""

STRONGEST = 0.95
"""A scrim stronger than this leaves nothing of the picture; it counts as none that helps."""

SPARE = 1.01
"""A scrim is made to reach this many times the contrast that is wanted: browsers resample the
picture in ways of their own."""

FINENESS = 1000
"""Steps of strength that are told apart."""

Field = NDArray[np.floating[Any]]


@dataclass(frozen=True)
class Lowest:
    """The lowest contrast of letters, and where in the picture (fractions of it) that is."""

    contrast: float
    place: Point


@dataclass(frozen=True)
class Ground:
    """A part of a picture that copy may land on, at the scale of the strokes."""

    area: Rect
    """In fractions of the picture."""
    codes: Field
    """sRGB values in 0..1, (rows, columns, 3); STEPS_PER_STROKE of them make a stroke."""


def grounds(
    picture: Raster, areas: Sequence[Rect], drawn: float, letters: Letters, behind: Colour
) -> tuple[Ground, ...]:
    """The parts of a picture under the copy, reduced to the scale of its strokes.

    Args:
        picture: what is shipped.
        areas: what comes under the copy, in fractions of it.
        drawn: CSS px across at which the largest box draws the picture: there strokes cover
            least of it, so nothing is averaged away that counts in some window.
        letters: of the copy.
        behind: colour behind transparent parts.
    """
    step = letters.stroke / STEPS_PER_STROKE * picture.size.width / drawn
    return tuple(_ground(picture, area, step, behind) for area in dict.fromkeys(areas))


def _ground(picture: Raster, area: Rect, step: float, behind: Colour) -> Ground:
    size = picture.size
    left = min(max(area.left * size.width, 0.0), size.width - 1)
    top = min(max(area.top * size.height, 0.0), size.height - 1)
    right = max(min(area.right * size.width, size.width), left + 1)
    bottom = max(min(area.bottom * size.height, size.height), top + 1)
    inside = Rect(left, top, right, bottom)
    columns = min(MOST_STEPS, max(1, round(inside.width / step)))
    rows = min(MOST_STEPS, max(1, round(inside.height / step)))
    reduced = resize(picture, inside, columns, rows).pixels.astype(np.float32) / 255
    codes = reduced[..., :3]
    if picture.has_alpha:
        alpha = reduced[..., 3:]
        codes = codes * alpha + channels(behind) * (1 - alpha)
    return Ground(inside.scaled(Size(1 / size.width, 1 / size.height)), codes)


def lowest_contrast(
    parts: Sequence[Ground], letters: Letters, scrim: Scrim | None = None
) -> Lowest:
    """The lowest contrast of the letters over all grounds."""
    return min((_lowest_on(part, letters, scrim) for part in parts), key=lambda low: low.contrast)


def _lowest_on(ground: Ground, letters: Letters, scrim: Scrim | None) -> Lowest:
    layers = _layers(ground.codes, scrim)
    backs = [_pooled(luminance(layer)) for layer in layers]
    inked = [_pooled(luminance(over(layer, letters.colour))) for layer in layers]
    ratios = contrast(_mean(backs), _mean(inked))
    row, column = np.unravel_index(int(np.argmin(ratios)), ratios.shape)
    area = ground.area
    place = Point(
        float(area.left + (column + 0.5) * area.width / ratios.shape[1]),
        float(area.top + (row + 0.5) * area.height / ratios.shape[0]),
    )
    return Lowest(float(ratios.min()), place)


def _layers(codes: Field, scrim: Scrim | None) -> tuple[Field, ...]:
    """The ground as it is seen; where a scrim has lines, on them and between them."""
    if scrim is None:
        return (codes,)
    tinted = over(codes, scrim.colour, scrim.strength)
    return (tinted, codes) if scrim.lines else (tinted,)


def _mean(fields: Sequence[Field]) -> Field:
    """Lines finer than a stroke are seen as the mean of their light."""
    return np.asarray(sum(fields[1:], start=fields[0]) / len(fields))


def _pooled(light: Field) -> Field:
    return np.asarray(ndimage.uniform_filter(light, STEPS_PER_STROKE, mode="nearest"))


def plain_contrast(behind: Colour, letters: Letters, scrim: Scrim | None = None) -> float:
    """The contrast of the letters on an even colour, before the picture is there."""
    layers = _layers(channels(behind), scrim)
    back = _mean([luminance(layer) for layer in layers])
    ink = _mean([luminance(over(layer, letters.colour)) for layer in layers])
    return float(contrast(back, ink))


def least_scrim(
    parts: Sequence[Ground],
    letters: Letters,
    behind: Colour,
    colour: Colour,
    *,
    lines: bool = False,
) -> Scrim | None:
    """The weakest scrim of a colour, to a tenth of a percent, with which the contrast is reached.

    On the picture wherever the copy lands, and on the colour behind it. None where no scrim
    reaches it.
    """
    wanted = letters.wanted_contrast * SPARE

    def reached(steps: int) -> bool:
        scrim = Scrim(colour, steps / FINENESS, lines=lines)
        lowest = lowest_contrast(parts, letters, scrim).contrast
        return min(lowest, plain_contrast(behind, letters, scrim)) >= wanted

    weak, strong = 0, math.floor(STRONGEST * FINENESS)
    if reached(weak):
        return Scrim(colour, 0.0, lines=lines)
    if not reached(strong):
        return None
    while strong - weak > 1:
        middle = (weak + strong) // 2
        weak, strong = (weak, middle) if reached(middle) else (middle, strong)
    return Scrim(colour, strong / FINENESS, lines=lines)


BLACK, WHITE = Colour(0, 0, 0), Colour(1, 1, 1)


def scrim_colour_for(letters: Letters) -> Colour:
    """Black behind light letters, white behind dark ones: whichever contrasts more."""
    return max((BLACK, WHITE), key=lambda one: plain_contrast(one, letters))


BUSY_FROM = 6.0
"""Detail (see busyness) from which a ground competes with the copy even at a fine contrast.

A chequerboard of two tones 12 apart in L*, with fields as large as the letters, has 6."""

SOFTENINGS = (1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0, 24.0, 32.0, 48.0)
"""Radii of blurs that are tried, CSS px."""


def busyness(parts: Sequence[Ground], letters: Letters, blur: float = 0.0) -> float:
    """How much detail of the letters' own scale there is behind them, in steps of L*.

    Root of the mean squared difference, in CIE lightness (0..100), between the ground at the
    scale of a stroke and at the scale of a whole letter; of the busiest ground. Coarser
    structure and grain finer than a stroke don't count.

    Args:
        parts: what comes under the copy.
        letters: of the copy.
        blur: radius of a blur put over the ground first, CSS px.
    """
    return max(_busyness_of(part, letters, blur) for part in parts)


def _busyness_of(ground: Ground, letters: Letters, blur: float) -> float:
    step = letters.stroke / STEPS_PER_STROKE
    light = luminance(ground.codes)
    if blur:
        light = ndimage.gaussian_filter(light, blur / step)
    fine = _lightness(_pooled(light))
    coarse = ndimage.uniform_filter(fine, max(3, round(2 * letters.size / step)), mode="nearest")
    return float(np.sqrt(((fine - coarse) ** 2).mean()))


def _lightness(light: Field) -> Field:
    """CIE L* of relative luminance (ISO/CIE 11664-4)."""
    cubes = np.where(light > (6 / 29) ** 3, np.cbrt(light), light * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.asarray(116 * cubes - 16)


def calming_blur(parts: Sequence[Ground], letters: Letters) -> float | None:
    """The least of SOFTENINGS (CSS px) that makes the ground calm; None if none does."""
    return next((r for r in SOFTENINGS if busyness(parts, letters, r) < BUSY_FROM), None)
