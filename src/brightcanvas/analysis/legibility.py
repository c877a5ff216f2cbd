"""Whether copy can be read on a picture, wherever it lands.

Letters are strokes, and a stroke is read against what is right beside it. So the picture is
averaged, as light, over squares as wide as a stroke: smaller specks vanish under the stroke's
edge, larger ones swallow part of a letter.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.contrast import LUMINANCE_WEIGHTS, channels, contrast, luminance, over
from brightcanvas.colour.resample import resize
from brightcanvas.colour.spaces import to_light
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Point, Rect, Size
from brightcanvas.values.legible import Letters, Scrim
from brightcanvas.values.raster import Raster

STEPS_PER_STROKE = 2
MOST_STEPS = 1500
"""Samples that a side of one ground may have; what is larger is parted, so that none is missed."""

STRONGEST = 0.95
"""A scrim stronger than this leaves nothing of the picture; it counts as none that helps."""

SPARE = 1.035
"""What is measured on one rung must be this many times what is promised: other rungs are
compressed in their own way, and browsers resample the picture in theirs. The worst of both
that was seen in a browser is 1.027 (6 backdrops in 40 windows, tests/test_legibility.py)."""

FINENESS = 1000
"""Steps of strength that are told apart."""

PLACES = 300
ROUNDS = 6
"""How many of the worst places the search for a scrim goes by, and how often it is checked."""

Field = NDArray[np.floating[Any]]
Codes = NDArray[np.uint8]


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
    codes: Codes
    """sRGB codes, (rows, columns, 3); STEPS_PER_STROKE of them make a stroke."""


def steps_across(drawn: float, letters: Letters) -> float:
    """How many px across a picture needs for grounds to show all that strokes are seen against.

    Args:
        drawn: CSS px across at which it is drawn.
        letters: of the copy.
    """
    return drawn * STEPS_PER_STROKE / letters.stroke


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
    step = picture.size.width / steps_across(drawn, letters)
    inside = (_within(picture.size, area) for area in dict.fromkeys(areas))
    return tuple(
        _ground(picture, part, step, behind) for one in inside for part in _parts(one, step)
    )


def _within(size: Size, area: Rect) -> Rect:
    """An area in fractions of a picture, in its px: at least one of them."""
    left = min(max(area.left * size.width, 0.0), size.width - 1)
    top = min(max(area.top * size.height, 0.0), size.height - 1)
    right = max(min(area.right * size.width, size.width), left + 1)
    bottom = max(min(area.bottom * size.height, size.height), top + 1)
    return Rect(left, top, right, bottom)


def _parts(area: Rect, step: float) -> Iterator[Rect]:
    """The area in parts of MOST_STEPS samples at most, which share a stroke where they meet."""
    shared = STEPS_PER_STROKE * step
    for top, bottom in _spans(area.top, area.bottom, MOST_STEPS * step, shared):
        for left, right in _spans(area.left, area.right, MOST_STEPS * step, shared):
            yield Rect(left, top, right, bottom)


def _spans(low: float, high: float, longest: float, shared: float) -> Iterator[tuple[float, float]]:
    count = max(1, math.ceil((high - low - shared) / (longest - shared)))
    stride = (high - low - shared) / count
    for number in range(count):
        yield low + number * stride, min(low + (number + 1) * stride + shared, high)


def _ground(picture: Raster, inside: Rect, step: float, behind: Colour) -> Ground:
    size = picture.size
    columns = max(STEPS_PER_STROKE, round(inside.width / step))
    rows = max(STEPS_PER_STROKE, round(inside.height / step))
    codes = resize(picture, inside, columns, rows).pixels
    if picture.has_alpha:
        alpha = codes[..., 3:].astype(np.float32) / 255
        mixed = codes[..., :3] * alpha + channels(behind) * 255 * (1 - alpha)
        codes = np.asarray(np.round(mixed), np.uint8)
    return Ground(inside.scaled(Size(1 / size.width, 1 / size.height)), codes)


def lowest_contrast(
    parts: Sequence[Ground], letters: Letters, scrim: Scrim | None = None
) -> Lowest:
    """The lowest contrast of the letters over all grounds."""
    return min((_lowest_on(part, letters, scrim) for part in parts), key=lambda low: low.contrast)


def _lowest_on(ground: Ground, letters: Letters, scrim: Scrim | None) -> Lowest:
    ratios = _ratios(ground.codes, letters, scrim)
    row, column = np.unravel_index(int(np.argmin(ratios)), ratios.shape)
    area = ground.area
    place = Point(
        float(area.left + (column + 1) * area.width / (ratios.shape[1] + 1)),
        float(area.top + (row + 1) * area.height / (ratios.shape[0] + 1)),
    )
    return Lowest(float(ratios.min()), place)


def _ratios(codes: Codes, letters: Letters, scrim: Scrim | None) -> Field:
    """The contrast at each place, against the mean light of a stroke's samples.

    ``codes`` is (..., rows, columns, 3); the result has one row and one column less.
    """
    back = _pooled(_seen_light(codes, scrim, None))
    if letters.colour.alpha == 1:
        return contrast(back, luminance(channels(letters.colour)))
    return contrast(back, _pooled(_seen_light(codes, scrim, letters.colour)))


def _pooled(light: Field) -> Field:
    """Means over two by two samples, as large as a stroke."""
    beside = light[..., :-1] + light[..., 1:]
    return np.asarray((beside[..., :-1, :] + beside[..., 1:, :]) / 4)


def _seen_light(codes: Codes, scrim: Scrim | None, ink: Colour | None) -> Field:
    """Luminance of codes under a scrim and, if given, ink; fine lines as their mean."""
    tables = _light_tables(scrim, ink)
    red, green, blue = (table.take(codes[..., i], mode="clip") for i, table in enumerate(tables.T))
    return np.asarray(red + green + blue)


@lru_cache(maxsize=64)
def _light_tables(scrim: Scrim | None, ink: Colour | None) -> NDArray[np.float32]:
    """What each code of each channel adds to the luminance, shape (256, 3)."""
    codes = np.repeat(np.arange(256, dtype=np.float32)[:, None] / 255, 3, axis=1)
    layers = _layers(codes, scrim)
    seen = [over(layer, ink) if ink else layer for layer in layers]
    parts = [to_light(layer) * LUMINANCE_WEIGHTS for layer in seen]
    return np.asarray(sum(parts[1:], start=parts[0]) / len(parts), np.float32)


def _layers(codes: Field, scrim: Scrim | None) -> tuple[Field, ...]:
    """The ground as it is seen; where a scrim has lines, on them and between them."""
    if scrim is None:
        return (codes,)
    tinted = over(codes, scrim.colour, scrim.strength)
    return (tinted, codes) if scrim.lines else (tinted,)


def plain_contrast(behind: Colour, letters: Letters, scrim: Scrim | None = None) -> float:
    """The contrast of the letters on an even colour, before the picture is there."""
    lights, inks = [], []
    for layer in _layers(channels(behind), scrim):
        lights.append(float(luminance(layer)))
        inks.append(float(luminance(over(layer, letters.colour))))
    return float(contrast(sum(lights) / len(lights), sum(inks) / len(inks)))


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
    reaches it. The search goes by the worst places alone; the result is checked on all, and
    places that turn out worse join them.
    """
    wanted, weakest = letters.wanted_contrast * SPARE, 0
    places: list[Codes] = []
    for _ in range(ROUNDS):
        scrim = Scrim(colour, weakest / FINENESS, lines=lines)
        plain = plain_contrast(behind, letters, scrim)
        if plain >= wanted and lowest_contrast(parts, letters, scrim).contrast >= wanted:
            return scrim
        places += [_worst_places(part, letters, scrim) for part in parts]
        found = _weakest_for(places, letters, behind, replace(scrim, strength=0.0), weakest)
        if found is None:
            return None
        weakest = found
    return None


def _worst_places(ground: Ground, letters: Letters, scrim: Scrim) -> Codes:
    """The samples behind the strokes with the lowest contrast, (places, 2, 2, 3)."""
    ratios = _ratios(ground.codes, letters, scrim)
    count = min(PLACES, ratios.size)
    worst = np.argpartition(ratios, count - 1, axis=None)[:count]
    rows, columns = np.unravel_index(worst, ratios.shape)
    down, across = np.meshgrid(np.arange(2), np.arange(2), indexing="ij")
    return np.asarray(ground.codes[rows[:, None, None] + down, columns[:, None, None] + across])


def _weakest_for(
    places: Sequence[Codes], letters: Letters, behind: Colour, scrim: Scrim, weakest: int
) -> int | None:
    """The least step of strength from ``weakest`` on that serves these places and the colour."""
    wanted = letters.wanted_contrast * SPARE

    def reached(steps: int) -> bool:
        tried = replace(scrim, strength=steps / FINENESS)
        if plain_contrast(behind, letters, tried) < wanted:
            return False
        return all(float(_ratios(one, letters, tried).min()) >= wanted for one in places)

    strong = math.floor(STRONGEST * FINENESS)
    if not reached(strong):
        return None
    weak = weakest - 1
    while strong - weak > 1:
        middle = (weak + strong) // 2
        weak, strong = (weak, middle) if reached(middle) else (middle, strong)
    return strong


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
    from scipy import ndimage

    light = _seen_light(ground.codes, None, None)
    strokes = _pooled(light)[::STEPS_PER_STROKE, ::STEPS_PER_STROKE]
    if blur:
        strokes = ndimage.gaussian_filter(strokes, blur / letters.stroke)
    fine = _lightness(strokes)
    letter = max(3, round(2 * letters.size / letters.stroke))
    coarse = ndimage.uniform_filter(fine, letter, mode="nearest")
    return float(np.sqrt(((fine - coarse) ** 2).mean()))


def _lightness(light: Field) -> Field:
    """CIE L* of relative luminance (ISO/CIE 11664-4)."""
    cubes = np.where(light > (6 / 29) ** 3, np.cbrt(light), light * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.asarray(116 * cubes - 16)


def calming_blur(parts: Sequence[Ground], letters: Letters) -> float | None:
    """The least of SOFTENINGS (CSS px) that makes the ground calm; None if none does."""
    index = bisect_left(
        SOFTENINGS, 1, key=lambda radius: int(busyness(parts, letters, radius) < BUSY_FROM)
    )
    return SOFTENINGS[index] if index < len(SOFTENINGS) else None
