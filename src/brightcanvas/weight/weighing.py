"""Quick trials on a picture, which foretell what its files weigh and how they are made lightest.

A few squares at even places stand for the whole. As they are displayed at 1 and at 2 px to a CSS
px, they tell at which size and quality together a file is lightest, how bytes grow with px, and
where each codec's curve of quality lies. Nothing in it depends on a crop: a subject that moves
leaves it as it is.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache

import numpy as np

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.raster import Raster
from brightcanvas.basics.shapes import Rect
from brightcanvas.framing.weights import Fitting, Tried, Weights, logarithms
from brightcanvas.tone.resample import resize
from brightcanvas.weight.ladders import AVIF, Ladder
from brightcanvas.weight.likeness import Original, Viewing
from brightcanvas.weight.search import Foretold, Study, best_jpeg, foretold

ACROSS = 1600
"""Px across at which the whole picture is tried, of which squares are taken."""

SQUARES = (4, 3)
SIDE = 192
"""How many squares, across and down, and px of a side."""

SHRINKS = (1.0, 0.72)
"""Px across of a file that are tried, of those that are shown."""

WORSE = 1.05
"""A size whose files are this much heavier than the lightest so far is not tried on real files."""

DENSITIES = (1.0, 2.0)


class Squares:
    """Some squares of a picture, side by side, as they are displayed."""

    def __init__(self, picture: Raster, across: int, veil: Colour | None) -> None:
        """Cut them out.

        Args:
            picture: the whole, in source px.
            across: px across of the whole at which they are taken.
            veil: under which they are seen.
        """
        self._side, self._squares = _cut_out(picture, across)
        self._veil = veil
        self.whole_px = across**2 / picture.size.aspect
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


def _cut_out(picture: Raster, across: int) -> tuple[int, list[list[Raster]]]:
    size, scale = picture.size, picture.size.width / across
    side = max(16, min(SIDE, across // SQUARES[0], int(across / size.aspect) // SQUARES[1]))
    return side, [
        [_square(picture, x, y, side, scale) for x in range(SQUARES[0])] for y in range(SQUARES[1])
    ]


def _square(picture: Raster, x: int, y: int, side: int, scale: float) -> Raster:
    size, long = picture.size, side * scale
    left = max(0.0, (size.width - long) * (x + 0.5) / SQUARES[0])
    top = max(0.0, (size.height - long) * (y + 0.5) / SQUARES[1])
    area = Rect(left, top, min(left + long, size.width), min(top + long, size.height))
    return resize(picture, area, side, side)


_Row = list[tuple[float, Foretold]]


def weighed(picture: Raster, target: float, veil: Colour | None) -> Tried:
    """Try a photograph.

    Args:
        picture: the prepared and treated source.
        target: the score that files have to reach.
        veil: an even scrim under which it is seen.

    Returns:
        What is foretold of its files.
    """
    across = min(ACROSS, int(picture.size.width))
    fine = Squares(picture, across, veil)
    coarse = Squares(picture, max(SQUARES[0] * 16, across // 2), veil)
    jpeg = best_jpeg(fine.study(1.0, 1.0), target)[0]
    rows = {
        ladder: {density: _row(fine, ladder, density, target) for density in DENSITIES}
        for ladder in (AVIF, jpeg)
    }
    fittings = tuple(
        (ladder.name, _fitting(row[1.0]), _fitting(row[2.0])) for ladder, row in rows.items()
    )
    points = [_point(fine, density, rows[AVIF][density][0][1]) for density in DENSITIES]
    for density in DENSITIES:
        lift = rows[AVIF][density][0][1].lift
        points.append(
            _point(coarse, density, foretold(coarse.study(density, 1.0), AVIF, target, lift))
        )
    return Tried(_fitted(points), fittings)


def _row(squares: Squares, ladder: Ladder, density: float, target: float) -> _Row:
    """One density: ever smaller sizes, as long as they may be lightest."""
    least, lift, row = math.inf, 0.0, _Row()
    for shrink in SHRINKS:
        tried = foretold(squares.study(density, shrink), ladder, target, lift)
        if tried.bytes > WORSE * least:
            break
        least, lift = min(least, tried.bytes), tried.lift
        row.append((shrink, tried))
    return row


def _fitting(row: _Row) -> Fitting:
    """The smallest size that may make the lightest file, and where the curves lie."""
    (_, whole), (shrink, shrunk) = row[0], row[-1]
    is_lighter = shrunk.bytes < whole.bytes
    return Fitting(shrink, round(whole.lift, 3), round(shrunk.lift, 3), is_lighter)


_Point = tuple[tuple[float, float, float], float]
"""What a weight depends on, and its logarithm."""


def _point(squares: Squares, density: float, tried: Foretold) -> _Point:
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
        round(float(np.clip(growth, 0.4, 1.0)), 3),
        round(float(np.clip(relief, -1.5, 0.0)), 3),
    )
