"""A small picture that stands for a large one: some of its regions, side by side.

The regions are picked by how hard they are to compress, as a quick trial tells: at even steps
through the ranking, so that their mean is the picture's, and the hardest ones besides.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.basics.raster import Raster
from brightcanvas.weight.likeness import Original, Score, Viewing

SHARE = 6
"""One region of so many is picked."""

LEAST_PICKED = 24
"""With fewer regions a mosaic's mean strays too far from the picture's."""

HARDEST = 2
"""How many of the hardest regions are added; they count for the worst, not for the mean."""

Place = tuple[float, float]
"""The left upper corner of a region, in fractions of the picture: x, y."""


@dataclass(frozen=True)
class Picked:
    """Which regions a mosaic is made of; the last ones are the hardest."""

    places: tuple[Place, ...]


def pick(original: Original, trial: NDArray[np.float64]) -> Picked | None:
    """The regions that stand for a picture; None where the whole is small enough.

    Args:
        original: the picture.
        trial: the scores of its regions in a quick trial, shape ``original.grid``.
    """
    whole = _whole_regions(original)
    if whole is None:
        return None
    scores, weights = trial[: whole[0], : whole[1]], original.weights[: whole[0], : whole[1]]
    count = max(LEAST_PICKED, math.ceil(scores.size / SHARE))
    if scores.size < 2 * count:
        return None
    ranking = np.argsort(scores, axis=None, kind="stable")
    passed = np.cumsum(weights.ravel()[ranking])
    wanted = (np.arange(count) + 0.5) / count * passed[-1]
    chosen = [*ranking[np.searchsorted(passed, wanted)], *ranking[:HARDEST]]
    return Picked(tuple(_place(original, int(one), whole[1]) for one in chosen))


def _whole_regions(original: Original) -> tuple[int, int] | None:
    """Rows and columns of the grid that are not cut off by the picture's edges."""
    size, region = original.size, original.region
    rows, columns = int(size.height // region), int(size.width // region)
    rows, columns = min(rows, original.grid[0]), min(columns, original.grid[1])
    return (rows, columns) if rows and columns else None


def _place(original: Original, number: int, columns: int) -> Place:
    row, column = divmod(number, columns)
    size, region = original.size, original.region
    return column * region / size.width, row * region / size.height


class Mosaic:
    """The picked regions of a picture, as a picture."""

    def __init__(self, picture: Raster, region: int, picked: Picked, viewing: Viewing) -> None:
        tiles = [_tile(picture, region, place) for place in picked.places]
        columns = math.ceil(math.sqrt(len(tiles)))
        blank = [np.zeros_like(tiles[0])] * (-len(tiles) % columns)
        rows = [
            np.concatenate((tiles + blank)[start : start + columns], axis=1)
            for start in range(0, len(tiles), columns)
        ]
        self.picture = Raster(np.ascontiguousarray(np.concatenate(rows)))
        self._original = Original(self.picture, Viewing(viewing.density, (), viewing.veil))
        self._count = len(tiles)

    def score(self, shown: Raster) -> Score:
        """The score of the picture that it stands for, as far as these regions tell."""
        regions = self._original.regions(shown).ravel()[: self._count]
        return Score(float(regions[:-HARDEST].mean()), float(regions.min()))


def _tile(picture: Raster, region: int, place: Place) -> NDArray[np.uint8]:
    height, width = picture.pixels.shape[:2]
    left = min(max(round(place[0] * width), 0), width - region)
    top = min(max(round(place[1] * height), 0), height - region)
    return picture.pixels[top : top + region, left : left + region]
