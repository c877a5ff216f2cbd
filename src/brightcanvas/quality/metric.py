"""How much a compressed picture looks like its original, as it is displayed.

Errors count by what the eye sees of them (see ``differences``), scale by scale in octaves
of CSS px, in lightness and colour of OKLab, where equal distances look equal; steps on the grid
of a codec's blocks and bands in smooth areas count besides. A file of fewer px than its place on
the screen is scaled to it first, as browsers do. All is judged region by region, so that no bad
place hides behind a good mean.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.quality.differences import (
    GRID,
    JUST_SEEN,
    JUST_SEEN_COLOUR,
    OriginalPlane,
    banding,
    blocks_seen,
    colour_sensitivity,
    described,
    error_seen,
    sensitivity,
)
from brightcanvas.quality.seeing import (
    COARSEST,
    RADIUS,
    TAPS,
    Plane,
    Seeing,
    halved,
    scaled,
    seen,
    seen_finely,
)
from brightcanvas.values.colours import Colour
from brightcanvas.values.raster import Raster

COARSEST_OCTAVE = 4
"""Log2 of CSS px to a sample of the coarsest scale that is compared."""

LEAST_SENSITIVITY = 0.1
"""Scales that the eye sees no better than this share of its best are left out."""

LEAST_SENSITIVITY_TO_COLOUR = 0.2
"""The same for its colour."""

REGION = 64
"""CSS px across one region."""

STRICTNESS = 0.06
"""Turns what is seen into a score; it only sets the figures' scale."""

BLOCKS = 0.5
"""How much steps on a codec's grid count beside other errors."""

BANDS = 6.0
"""What banding all over a region counts."""

BAND_OCTAVE = 2
"""Bands are looked for in detail from this octave of CSS px on."""

POOLING = 2.0
"""Power of the mean over regions: bad ones count more than good ones make up for."""

WORST = 2.0
"""How many times as unlike as the whole the worst region may be before it decides alone."""


@dataclass(frozen=True)
class Viewing:
    """How a picture is seen."""

    density: float = 1.0
    """Px of the original that make a CSS px, where it is shown largest."""
    veil: Colour | None = None
    """An even scrim above it; its alpha is the scrim's strength."""


@dataclass(frozen=True)
class Score:
    """1 is the original; lower is less like it."""

    mean: float
    """Over all regions, bad ones counting more."""
    worst: float
    """Of the worst region."""
    place: tuple[float, float] = (0.5, 0.5)
    """The middle of the worst region, in fractions of the picture."""

    @property
    def figure(self) -> float:
        """Both in one: a worst region that is far worse than the mean decides alone."""
        return min(self.mean, 1 - (1 - self.worst) / WORST)


@dataclass(frozen=True, eq=False)
class Scale:
    """The original at one scale."""

    channels: tuple[OriginalPlane, ...]
    """Lightness; with a and b at all scales but the finest."""
    octave: float
    """Log2 of CSS px to a sample."""
    level: int
    """Log2 of px to a sample."""

    @property
    def step(self) -> int:
        """Samples between windows."""
        return self.channels[0].step


def step_at(plane: Plane) -> int:
    """Samples between windows, which overlap anyway; small planes are looked at closely."""
    shorter = min(plane.shape)
    return 4 if shorter >= 384 else 2 if shorter >= 64 else 1


class Original:
    """A picture that others are compared with."""

    def __init__(self, picture: Raster, viewing: Viewing) -> None:
        self._viewing = viewing
        self.size = picture.size
        self.region = region_px(viewing.density)
        self.grid = _grid(picture, self.region)
        self._octave = -math.log2(max(viewing.density, 0.25))
        self._first = _first_level(self._octave, picture)
        self._last = max(self._first, COARSEST_OCTAVE + math.ceil(-self._octave))
        self._grounds = (0.0, 1.0) if picture.has_alpha else (0.0,)
        self._scales = [self._described(self._planes(picture, ground)) for ground in self._grounds]

    def regions(self, shown: Raster) -> NDArray[np.float64]:
        """The score of every region of a compressed version of it, shape ``grid``.

        A version of another size is brought to the original's, as browsers do.
        """
        grid = GRID * self.size.width / shown.size.width
        shown = scaled(shown, self.size)
        scores = [
            self._compared(scales, self._planes(shown, ground), grid)
            for scales, ground in zip(self._scales, self._grounds, strict=True)
        ]
        return np.asarray(np.min(scores, axis=0))

    def score(self, shown: Raster) -> Score:
        """How much a compressed version looks like it."""
        return self.pooled(self.regions(shown))

    def pooled(self, regions: NDArray[np.float64]) -> Score:
        """Mean and worst of the regions' scores."""
        row, column = np.unravel_index(int(regions.argmin()), regions.shape)
        middle = (np.array([column, row]) + 0.5) * self.region
        x, y = np.minimum(middle / (self.size.width, self.size.height), 1.0)
        return Score(pooled_mean(regions), float(regions.min()), (float(x), float(y)))

    def _planes(self, picture: Raster, ground: float) -> list[tuple[Plane, ...]]:
        """Lightness at every scale that counts, the finest first; with a and b from the second."""
        finest, planes = seen_finely(picture, Seeing(self._viewing.veil, ground), self._first)
        pyramid: list[tuple[Plane, ...]] = [(finest,)]
        for _ in range(self._first + 1, self._last + 1):
            if min(planes[0].shape) < TAPS:
                break
            pyramid.append(planes)
            planes = tuple(halved(plane) for plane in planes)
        if len(pyramid) == 1:  # too small for a second scale: its colour is looked at in the first
            pyramid = [seen(picture, Seeing(self._viewing.veil, ground), self._first)]
        return pyramid

    def _described(self, pyramid: list[tuple[Plane, ...]]) -> list[Scale]:
        scales = []
        for number, planes in enumerate(pyramid):
            octave = self._octave + self._first + number
            light = JUST_SEEN / sensitivity(octave)
            colour = JUST_SEEN_COLOUR / colour_sensitivity(octave)
            is_grey = colour_sensitivity(octave) < LEAST_SENSITIVITY_TO_COLOUR
            channels = tuple(
                described(plane, step_at(plane), colour if channel else light)
                for channel, plane in enumerate(planes[:1] if is_grey else planes)
            )
            scales.append(Scale(channels, octave, self._first + number))
        return scales

    def _compared(
        self, scales: list[Scale], pyramid: list[tuple[Plane, ...]], grid: float
    ) -> NDArray[np.float64]:
        total = np.zeros(self.grid)
        bands = min(scales, key=lambda scale: abs(scale.octave - BAND_OCTAVE))
        for scale, planes in zip(scales, pyramid, strict=True):
            is_last = scale is scales[-1]
            for channel, (original, plane) in enumerate(zip(scale.channels, planes, strict=False)):
                found, mean = error_seen(original, plane, with_means=is_last)
                total += self._pool(found, scale)
                if scale is bands and channel == 0:
                    total += BANDS * self._pool(banding(original, mean), scale)
        finest = scales[0]
        for steps in blocks_seen(finest.channels[0], pyramid[0][0], grid / 2**finest.level):
            total += BLOCKS * self._spread(steps)
        return np.asarray(np.exp(-STRICTNESS * total))

    def _pool(self, values: Plane, scale: Scale) -> NDArray[np.float64]:
        """Means over the windows whose middle lies in each region."""
        size = self.region / 2**scale.level
        rows = _starts(values.shape[0], scale.step, size, self.grid[0])
        columns = _starts(values.shape[1], scale.step, size, self.grid[1])
        return _means(values, rows, columns)

    def _spread(self, values: Plane) -> NDArray[np.float64]:
        """Means over the lattice points that lie in each region, of an even lattice."""
        if not values.size:
            return np.zeros(self.grid)
        rows, columns = (
            np.minimum(np.arange(regions) * have // regions, have - 1)
            for have, regions in zip(values.shape, self.grid, strict=True)
        )
        return _means(values, rows, columns)


def pooled_mean(regions: NDArray[np.float64]) -> float:
    """The scores of regions as one: the mean of a power of how unlike they are."""
    return float(1 - ((1 - regions) ** POOLING).mean() ** (1 / POOLING))


def _means(values: Plane, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.float64]:
    sums = np.add.reduceat(np.add.reduceat(values, rows, axis=0), columns, axis=1)
    counts = np.outer(_counts(rows, values.shape[0]), _counts(columns, values.shape[1]))
    return np.asarray(sums / counts)


def region_px(density: float) -> int:
    """Px of the file across one region, a multiple of 16 as codecs' blocks are."""
    return max(32, round(REGION * density / 16) * 16)


def _grid(picture: Raster, region: int) -> tuple[int, int]:
    """Regions down and across; a rest of less than half a region goes to its neighbour."""
    height, width = picture.pixels.shape[:2]
    return max(1, round(height / region)), max(1, round(width / region))


def _first_level(octave: float, picture: Raster) -> int:
    """The finest scale that counts; a tiny picture is taken as it is."""
    level = 0
    while (
        level < COARSEST - 1
        and sensitivity(octave + level) < LEAST_SENSITIVITY
        and min(picture.pixels.shape[:2]) >= 4 * TAPS << level
    ):
        level += 1
    return level


def _starts(count: int, step: int, region: float, regions: int) -> NDArray[np.intp]:
    """For each region the first window whose middle lies in it."""
    middles = RADIUS + np.arange(count) * step
    starts = np.searchsorted(middles, np.arange(regions) * region)
    return np.asarray(np.minimum(starts, count - 1))


def _counts(starts: NDArray[np.intp], count: int) -> NDArray[np.intp]:
    """How many windows each region takes its mean of."""
    return np.asarray(np.maximum(np.diff([*starts, count]), 1))
