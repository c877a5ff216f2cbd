"""Whether copy can be read on a picture, wherever it lands.

Letters are strokes, and a stroke is read against what is right beside it. So the picture is
averaged, as light, over squares as wide as a stroke: smaller specks vanish under the stroke's
edge, larger ones swallow part of a letter. The stem of a text face is about a tenth of its
size, that of a bold one about a seventh.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.raster import Raster
from brightcanvas.basics.shapes import Point, Rect
from brightcanvas.tone.contrast import channels, contrast, luminance, over
from brightcanvas.tone.resample import resize

STEM, BOLD_STEM = 1 / 10, 1 / 7
STEPS_PER_STROKE = 3
MOST_STEPS = 1500
"""Pixels that a side of the averaged picture may have."""

STRONGEST = 0.95
"""A scrim stronger than this leaves nothing of the picture; it counts as none that helps."""

Field = NDArray[np.float64]


@dataclass(frozen=True)
class Letters:
    """The copy's letters."""

    colour: Colour
    size: float
    """In CSS px."""
    bold: bool = False

    @property
    def stroke(self) -> float:
        """Width of a stem in CSS px."""
        return self.size * (BOLD_STEM if self.bold else STEM)

    @property
    def wanted_contrast(self) -> float:
        """WCAG 2.2, 1.4.3: 3 for large text (24 px, or 18.66 px bold), else 4.5."""
        return 3.0 if self.size >= (18.66 if self.bold else 24) else 4.5


@dataclass(frozen=True)
class Scrim:
    """A tint between picture and copy, even under all of the copy."""

    colour: Colour
    strength: float
    """0..1."""


@dataclass(frozen=True)
class Lowest:
    """The lowest contrast of letters, and where in the source (source px) it is."""

    contrast: float
    place: Point


@dataclass(frozen=True)
class Ground:
    """A part of a picture that copy may land on, at the scale of the strokes."""

    area: Rect
    """In source px."""
    codes: Field
    """sRGB values in 0..1, (rows, columns, 3); STEPS_PER_STROKE of them make a stroke."""


def grounds(
    picture: Raster, areas: Sequence[Rect], stroke: float, scale: float, behind: Colour
) -> tuple[Ground, ...]:
    """The parts of a picture under the copy, reduced to the scale of its strokes.

    Args:
        picture: the source.
        areas: in source px.
        stroke: width of a stem in CSS px.
        scale: CSS px per source px at the largest box: there strokes cover least of the
            source, so nothing is averaged away that counts in some window.
        behind: colour behind transparent parts.
    """
    step = max(stroke / STEPS_PER_STROKE / scale, 1e-3)
    return tuple(_ground(picture, area, step, behind) for area in dict.fromkeys(areas))


def _ground(picture: Raster, area: Rect, step: float, behind: Colour) -> Ground:
    width, height = picture.size.width, picture.size.height
    left, top = min(max(area.left, 0.0), width - 1), min(max(area.top, 0.0), height - 1)
    inside = Rect(
        left, top, max(min(area.right, width), left + 1), max(min(area.bottom, height), top + 1)
    )
    columns = min(MOST_STEPS, max(1, round(inside.width / step)))
    rows = min(MOST_STEPS, max(1, round(inside.height / step)))
    reduced = resize(picture, inside, columns, rows).pixels.astype(np.float64) / 255
    codes = reduced[..., :3]
    if picture.has_alpha:
        alpha = reduced[..., 3:]
        codes = codes * alpha + channels(behind) * (1 - alpha)
    return Ground(inside, codes)


def lowest_contrast(
    parts: Sequence[Ground], letters: Letters, scrim: Scrim | None = None
) -> Lowest:
    """The lowest contrast of the letters over all grounds."""
    return min((_lowest_on(part, letters, scrim) for part in parts), key=lambda low: low.contrast)


def _lowest_on(ground: Ground, letters: Letters, scrim: Scrim | None) -> Lowest:
    below = over(ground.codes, scrim.colour, scrim.strength) if scrim else ground.codes
    inked = over(below, letters.colour)
    ratios = contrast(_pooled(luminance(below)), _pooled(luminance(inked)))
    row, column = np.unravel_index(int(np.argmin(ratios)), ratios.shape)
    area = ground.area
    place = Point(
        area.left + (column + 0.5) * area.width / ratios.shape[1],
        area.top + (row + 0.5) * area.height / ratios.shape[0],
    )
    return Lowest(float(ratios.min()), place)


def _pooled(light: Field) -> Field:
    return np.asarray(ndimage.uniform_filter(light, STEPS_PER_STROKE, mode="nearest"))


def plain_contrast(behind: Colour, letters: Letters, scrim: Scrim | None = None) -> float:
    """The contrast of the letters on an even colour, before the picture is there."""
    below = channels(behind)
    if scrim:
        below = over(below, scrim.colour, scrim.strength)
    return float(contrast(luminance(below), luminance(over(below, letters.colour))))


def least_scrim(
    parts: Sequence[Ground], letters: Letters, behind: Colour, colour: Colour, wanted: float
) -> Scrim | None:
    """The weakest scrim of a colour, in whole percent, with which the contrast is reached.

    On the picture wherever the copy lands, and on the colour behind it. None where no scrim
    reaches it.
    """

    def reached(percent: int) -> bool:
        scrim = Scrim(colour, percent / 100)
        lowest = lowest_contrast(parts, letters, scrim).contrast
        return min(lowest, plain_contrast(behind, letters, scrim)) >= wanted

    weak, strong = 0, math.floor(STRONGEST * 100)
    if reached(weak):
        return Scrim(colour, 0.0)
    if not reached(strong):
        return None
    while strong - weak > 1:
        middle = (weak + strong) // 2
        weak, strong = (weak, middle) if reached(middle) else (middle, strong)
    return Scrim(colour, strong / 100)


BLACK, WHITE = Colour(0, 0, 0), Colour(1, 1, 1)


def scrim_colour_for(letters: Letters) -> Colour:
    """Black behind light letters, white behind dark ones: whichever contrasts more."""
    return max((BLACK, WHITE), key=lambda one: plain_contrast(one, letters))
