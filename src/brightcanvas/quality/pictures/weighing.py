"""Quick trials on a picture, which foretell what its files weigh and how they are made lightest.

A few squares at even places stand for the whole. As they are displayed at 1 and at 2 px to a CSS
px, they tell at which size and quality together a file is lightest, how bytes grow with px, and
where each codec's curve of quality lies. Nothing in it depends on a crop: a subject that moves
leaves it as it is.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import cache

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.resample import Reducible, resize
from brightcanvas.formats.codecs.avif import AVIF
from brightcanvas.formats.codecs.codec import RateCurve
from brightcanvas.formats.codecs.jpeg import EVEN_JPEG, JPEGS
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.framing.weights import (
    EVEN_PLACES,
    Fitting,
    KnownPicture,
    Places,
    Weights,
    logarithms,
)
from brightcanvas.quality.metric import Original, Viewing
from brightcanvas.quality.search import Prediction, Study, best_of, predicted
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

ACROSS = 1600
"""Px across at which the whole picture is tried, of which squares are taken."""

SQUARES = (4, 3)
SIDE = 192
"""How many squares, across and down, and px of a side."""

PLACED = 1024
"""Px across of the whole picture at which its bytes are looked for."""

CELLS = (8, 6)
"""In how many places, across and down."""

SMALLEST = 64
"""Px of a side below which it doesn't matter where they lie."""

PLACING = replace(EVEN_JPEG.encoding(70), draft=True)

SHRINK = 0.72
"""Px across of a smaller file that is tried, of those that are shown. As AVIF it is no lighter at
the same score, as a JPEG on a dense screen by a third (``python -m bench.pairs``)."""

DENSITIES = (1.0, 2.0)
OLD_DENSITIES = (1.0, 1.5)
"""Px to a CSS px that browsers get which know JPEG only."""


class Squares:
    """Some squares of a picture, side by side, as they are displayed."""

    def __init__(self, picture: Reducible, across: int, veil: Colour | None) -> None:
        """Cut them out.

        Args:
            picture: the whole, in source px.
            across: px across of the whole at which they are taken.
            veil: under which they are seen.
        """
        self._side, self._squares = _cut_out(picture, across)
        self._veil = veil
        self.whole_px = across**2 / picture.picture.size.aspect
        """Px of the whole picture."""

    @cache  # noqa: B019 - lives as long as the squares
    def at(self, shrink: float) -> Raster:
        """All of them, with sides of so many of their px."""
        px = max(16, round(self._side * shrink))
        area = Rect(0, 0, self._side, self._side)
        small = [[resize(one, area, px, px).pixels for one in row] for row in self._squares]
        return Raster(np.concatenate([np.concatenate(row, 1) for row in small]))

    @cache  # noqa: B019
    def original(self, density: float) -> Original:
        """What their files are compared with."""
        return Original(self.at(1.0), Viewing(density, self._veil))

    def study(self, density: float, shrink: float) -> Study:
        """Of files of one size, at one density."""
        viewing = Viewing(density, self._veil)
        return Study(self.at(shrink), viewing, None, self.original(density))


def _cut_out(picture: Reducible, across: int) -> tuple[int, list[list[Raster]]]:
    size = picture.picture.size
    scale = size.width / across
    side = max(16, min(SIDE, across // SQUARES[0], int(across / size.aspect) // SQUARES[1]))
    return side, [
        [_square(picture, x, y, side, scale) for x in range(SQUARES[0])] for y in range(SQUARES[1])
    ]


def _square(picture: Reducible, x: int, y: int, side: int, scale: float) -> Raster:
    size, long = picture.picture.size, side * scale
    left = max(0.0, (size.width - long) * (x + 0.5) / SQUARES[0])
    top = max(0.0, (size.height - long) * (y + 0.5) / SQUARES[1])
    area = Rect(left, top, min(left + long, size.width), min(top + long, size.height))
    return picture.resized(area, side, side)


_Row = list[tuple[float, Prediction]]


def weighed(picture: Reducible, target: float, veil: Colour | None) -> KnownPicture:
    """Try a photograph.

    Args:
        picture: the prepared and treated source.
        target: the score that files have to reach.
        veil: an even scrim under which it is seen.

    Returns:
        What is foretold of its files.
    """
    across = min(ACROSS, int(picture.picture.size.width))
    fine = Squares(picture, across, veil)
    coarse = Squares(picture, max(SQUARES[0] * 16, across // 2), veil)
    told = {density: predicted(fine.study(density, 1.0), AVIF, target) for density in DENSITIES}
    points = [_point(fine, density, told[density]) for density in DENSITIES]
    for density in DENSITIES:
        study, lift = coarse.study(density, 1.0), told[density].lift
        points.append(_point(coarse, density, predicted(study, AVIF, target, lift)))
    avif = (_fitting(AVIF, density, 1.0, told[density]) for density in DENSITIES)
    fittings = (*avif, *_jpegs(fine, target))
    return KnownPicture(_fitted(points), fittings, places_of(picture))


def places_of(picture: Reducible) -> Places:
    """Where in a picture its bytes lie: those of small JPEGs, side by side all over it."""
    size, (across, down) = picture.picture.size, CELLS
    if min(size.width, size.height) < SMALLEST:
        return EVEN_PLACES
    side = min(PLACED, int(size.width)) // across
    tall = max(1, round(side * across / size.aspect / down))
    whole = Rect(0, 0, size.width, size.height)
    pixels = picture.resized(whole, side * across, tall * down).pixels[..., :3]
    empty = _jpeg_bytes(np.zeros((tall, side, 3), np.uint8))
    bytes_ = [
        [_jpeg_bytes(cell) - empty + 1 for cell in np.hsplit(row, across)]
        for row in np.vsplit(pixels, down)
    ]
    sums = np.cumsum(np.cumsum(np.pad(bytes_, ((1, 0), (1, 0))), axis=0), axis=1)
    return Places(tuple(tuple(row) for row in (sums / sums[-1, -1]).round(4).tolist()))


def _jpeg_bytes(pixels: NDArray[np.uint8]) -> int:
    return len(encode(Raster(np.ascontiguousarray(pixels)), PLACING))


def _jpegs(squares: Squares, target: float) -> Iterator[Fitting]:
    """Those of fewer px besides."""
    curve, lift = best_of(JPEGS, squares.study(1.0, 1.0), target)
    for density in OLD_DENSITIES:
        for shrink in (1.0, SHRINK):
            told = predicted(squares.study(density, shrink), curve, target, lift)
            yield _fitting(curve, density, shrink, told)
            lift = told.lift


def _fitting(curve: RateCurve, density: float, shrink: float, told: Prediction) -> Fitting:
    return Fitting(curve.name, density, shrink, round(told.lift, 3), round(told.bytes))


_Point = tuple[tuple[float, float, float], float]
"""What a weight depends on, and its logarithm."""


def _point(squares: Squares, density: float, tried: Prediction) -> _Point:
    """Of the whole picture, from its squares."""
    px = squares.at(1.0).size
    whole = max(tried.bytes, 1.0) * squares.whole_px / (px.width * px.height)
    return logarithms(squares.whole_px, density), math.log(whole)


def _fitted(points: Sequence[_Point]) -> Weights:
    """The law that fits the trials best (least squares of logarithms), within reason."""
    matrix, values = np.array([one for one, _ in points]), np.array([one for _, one in points])
    base, growth, relief = np.linalg.lstsq(matrix, values, rcond=None)[0]
    return Weights(
        round(float(math.exp(base)), 1),
        round(float(np.clip(growth, 0.4, 1.2)), 3),
        round(float(np.clip(relief, -1.5, 0.0)), 3),
    )
