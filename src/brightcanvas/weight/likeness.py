"""How much a compressed picture looks like its original, as it is displayed.

Multi-scale structural similarity (Z. Wang, E. Simoncelli, A. Bovik, "Multi-scale structural
similarity for image quality assessment", Asilomar 2003) over lightness and colour in OKLab,
where equal distances look equal. Four things are added to it:

- The weights of its scales belong to octaves of CSS px, not of the file's px: what a dense
  screen shows too small to be seen hardly counts.
- It is computed region by region, so that the worst place counts beside the mean.
- Regions that show the subject count more.
- Where the original is smooth, steps in lightness that it does not have (banding) count by
  the eye's threshold for them; the constants of structural similarity are blind to them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.raster import Raster
from brightcanvas.basics.shapes import Rect
from brightcanvas.weight.seeing import (
    COARSEST,
    STRIP,
    STRIP_STEP,
    WINDOWS,
    Seeing,
    Strips,
    halved,
    lightness,
    seen,
    seen_finely,
    strips_of,
)
from brightcanvas.weight.smoothing import RADIUS, TAPS, Plane, smoothed

C1, C2 = 0.01**2, 0.03**2
"""Constants of structural similarity for a range of 1 (Wang 2004, section III B)."""

OCTAVE_WEIGHTS = (0.0448, 0.2856, 0.3001, 0.2363, 0.1333)
"""Of the octaves of detail from 1 CSS px on (Wang 2003, section 3.2).

They were measured at 32 px to a degree of the visual field: a screen of 1 CSS px = 1/96 inch
seen from 48 cm, nearer than the arm's length that CSS assumes, so on the safe side."""

LEAST_WEIGHT = 0.02
"""Scales that count for less are left out."""

STRIPPED = 384
"""Samples of a plane's shorter side from which detail that counts for less than COUNTS is
looked at in one strip of each row of regions only: most of the work for a twentieth of the
score."""

COUNTS = 0.1

LIGHTNESS_SHARE = 0.8
"""Of lightness in a region's score; the rest is shared by the two axes of colour."""

REGION = 64
"""CSS px across one region."""

SUBJECT_WEIGHT = 3.0
"""A region that shows the subject counts as much as three others."""

BAND_STEP = 0.002
"""Step of OKLab lightness at the threshold of seeing, for smooth areas side by side: 0.5 % of
luminance at mid grey, the peak of contrast sensitivity (P. Barten, "Contrast Sensitivity of the
Human Eye", 1999, chapter 3)."""

SMOOTH = 0.012
"""Standard deviation of OKLab lightness within a window below which an area is smooth."""

BAND_SHARE = 0.25
"""How much of a region's score banding all over it takes away."""

WORST_SHARE = 0.1
"""Of the worst region in the one figure that targets are about."""

SPREAD = 2.0
"""Power of the scores, so that their figures lie about as far apart as those of the plain
single-scale measure do; see ``python -m bench.weight``."""

BAND_OCTAVE = 2
"""Bands are looked for in detail from this octave of CSS px on."""


@dataclass(frozen=True)
class Viewing:
    """How a picture is seen."""

    density: float = 1.0
    """Px of the file that make a CSS px, where it is shown largest."""
    subjects: tuple[Rect, ...] = ()
    """In fractions of the picture."""
    veil: Colour | None = None
    """An even scrim above it; its alpha is the scrim's strength."""


@dataclass(frozen=True)
class Score:
    """1 is the original; lower is less like it."""

    mean: float
    """Over all regions, the subject's counting more."""
    worst: float
    """Of the worst region."""
    place: tuple[float, float] = (0.5, 0.5)
    """The middle of the worst region, in fractions of the picture."""

    @property
    def figure(self) -> float:
        """Both in one: the worst region counts for a tenth."""
        return (1 - WORST_SHARE) * self.mean + WORST_SHARE * self.worst


@dataclass(frozen=True, eq=False)
class Scale:
    """The original at one scale, with everything that comparisons need of it."""

    planes: tuple[Plane, ...]
    means: tuple[Plane, ...]
    variances: tuple[Plane, ...]
    octave: float
    """Log2 of CSS px to a sample."""
    level: int
    """Log2 of px to a sample."""
    step: int
    """Samples between windows."""
    strips: Strips | None = None
    """Where the planes hold strips of the picture only."""


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
        self._last = len(OCTAVE_WEIGHTS) - 1 + math.ceil(-self._octave)
        self._strips = self._sampled(picture)
        self._grounds = (0.0, 1.0) if picture.has_alpha else (0.0,)
        self._scales = [self._described(self._planes(picture, ground)) for ground in self._grounds]
        self.weights = region_weights(self.grid, self.region, picture, viewing.subjects)

    def regions(self, shown: Raster) -> NDArray[np.float64]:
        """The score of every region of a compressed version of it, shape ``grid``."""
        scores = [
            self._compared(scales, self._planes(shown, ground))
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
        mean = float((regions * self.weights).sum() / self.weights.sum())
        return Score(mean, float(regions.min()), (float(x), float(y)))

    def _sampled(self, picture: Raster) -> Strips | None:
        """Strips for the finest scale of a large picture, where that counts for little."""
        block = 1 << self._first
        height, width = (side // block for side in picture.pixels.shape[:2])
        region = self.region / block
        counts = octave_weight(self._octave + self._first) >= COUNTS
        if counts or min(height, width) < STRIPPED or region < STRIP:
            return None
        return strips_of(height, region, self.grid[0], block)

    def _planes(self, picture: Raster, ground: float) -> list[tuple[Plane, ...]]:
        """Lightness at every scale that counts, the finest first; with a and b from the third."""
        seeing, coarser = Seeing(self._viewing.veil, ground), self._first + 1
        if self._strips:
            finest = lightness(self._strips.of(picture), seeing, self._first)
            planes = seen(picture, seeing, coarser)
        else:
            finest, planes = seen_finely(picture, seeing, self._first)
        pyramid: list[tuple[Plane, ...]] = [(finest,)]
        for level in range(coarser, self._last + 1):
            if min(planes[0].shape) < TAPS:
                break
            pyramid.append(planes if level > coarser else planes[:1])
            planes = tuple(halved(plane) for plane in planes)
        return pyramid

    def _described(self, pyramid: list[tuple[Plane, ...]]) -> list[Scale]:
        scales = []
        for number, planes in enumerate(pyramid):
            level = self._first + number
            strips = self._strips if number == 0 else None
            step = STRIP_STEP if strips else step_at(planes[0])
            means = tuple(smoothed(plane, step) for plane in planes)
            variances = tuple(
                smoothed(plane, step, plane) - mean * mean
                for plane, mean in zip(planes, means, strict=True)
            )
            scales.append(
                Scale(planes, means, variances, self._octave + level, level, step, strips)
            )
        return scales

    def _compared(
        self, scales: list[Scale], pyramid: list[tuple[Plane, ...]]
    ) -> NDArray[np.float64]:
        logarithms = np.zeros(self.grid)
        shares = _shares([scale.octave for scale in scales])
        bands = min(scales, key=lambda scale: abs(scale.octave - BAND_OCTAVE))
        banding = np.ones(self.grid)
        for scale, planes, share in zip(scales, pyramid, shares, strict=True):
            is_last = scale is scales[-1]
            for number, one in enumerate(planes):
                likeness, mean = _likeness(scale, number, one, with_means=is_last)
                part = _channel_share(number, len(scale.planes))
                pooled = self._pool(likeness, scale)
                logarithms += share * part * np.log(np.maximum(pooled, 1e-3))
                if scale is bands and number == 0:
                    banding = 1 - BAND_SHARE * self._pool(_banding(scale, mean), scale)
        return np.asarray(np.exp(SPREAD * logarithms) * banding)

    def _pool(self, values: Plane, scale: Scale) -> NDArray[np.float64]:
        """Means over the windows whose middle lies in each region."""
        size = self.region / 2**scale.level
        if scale.strips:
            values = scale.strips.whole(values)
            rows = np.arange(self.grid[0]) * WINDOWS
        else:
            rows = _starts(values.shape[0], scale.step, size, self.grid[0])
        columns = _starts(values.shape[1], scale.step, size, self.grid[1])
        sums = np.add.reduceat(np.add.reduceat(values, rows, axis=0), columns, axis=1)
        counts = np.outer(_counts(rows, values.shape[0]), _counts(columns, values.shape[1]))
        return np.asarray(sums / counts)


def region_px(density: float) -> int:
    """Px of the file across one region, a multiple of 16 as codecs' blocks are."""
    return max(32, round(REGION * density / 16) * 16)


def octave_weight(octave: float) -> float:
    """The weight of detail at an octave of CSS px; finer than one CSS px it falls to nothing."""
    return float(np.interp(octave, range(-1, len(OCTAVE_WEIGHTS)), (0.0, *OCTAVE_WEIGHTS)))


def _shares(octaves: Sequence[float]) -> list[float]:
    """How much each scale counts, summing to 1; all alike where all are finer than is seen."""
    weights = [octave_weight(octave) for octave in octaves]
    total = sum(weights)
    return [weight / total if total else 1 / len(weights) for weight in weights]


def _grid(picture: Raster, region: int) -> tuple[int, int]:
    """Regions down and across; a rest of less than half a region goes to its neighbour."""
    height, width = picture.pixels.shape[:2]
    return max(1, round(height / region)), max(1, round(width / region))


def _first_level(octave: float, picture: Raster) -> int:
    """The finest scale that counts; a tiny picture is taken as it is."""
    level = 0
    while (
        level < COARSEST
        and octave_weight(octave + level) < LEAST_WEIGHT
        and min(picture.pixels.shape[:2]) >= 4 * TAPS << level
    ):
        level += 1
    return level


def region_weights(
    grid: tuple[int, int], region: int, picture: Raster, subjects: Sequence[Rect]
) -> NDArray[np.float64]:
    """How much each region counts."""
    weights = np.ones(grid)
    height, width = picture.pixels.shape[:2]
    for subject in subjects:
        top, bottom = subject.top * height / region, subject.bottom * height / region
        left, right = subject.left * width / region, subject.right * width / region
        rows = slice(int(min(top, grid[0] - 1)), math.ceil(max(bottom, top + 1e-6)))
        columns = slice(int(min(left, grid[1] - 1)), math.ceil(max(right, left + 1e-6)))
        weights[rows, columns] = SUBJECT_WEIGHT
    return weights


def _starts(count: int, step: int, region: float, regions: int) -> NDArray[np.intp]:
    """For each region the first window whose middle lies in it."""
    middles = RADIUS + np.arange(count) * step
    starts = np.searchsorted(middles, np.arange(regions) * region)
    return np.asarray(np.minimum(starts, count - 1))


def _counts(starts: NDArray[np.intp], count: int) -> NDArray[np.intp]:
    """How many windows each region takes its mean of."""
    return np.asarray(np.maximum(np.diff([*starts, count]), 1))


def _channel_share(number: int, channels: int) -> float:
    if channels == 1:
        return 1.0
    return LIGHTNESS_SHARE if number == 0 else (1 - LIGHTNESS_SHARE) / (channels - 1)


def _likeness(scale: Scale, number: int, shown: Plane, *, with_means: bool) -> tuple[Plane, Plane]:
    """Structural similarity of one plane, window by window, and the means of what is shown.

    Contrast and structure (Wang 2004, equation 13 without its first factor); with the means
    also compared it is the whole equation.
    """
    mean, variance = scale.means[number], scale.variances[number]
    own = smoothed(shown, scale.step)
    own_variance = smoothed(shown, scale.step, shown) - own * own
    both = smoothed(shown, scale.step, scale.planes[number]) - own * mean
    likeness = (2 * both + np.float32(C2)) / (variance + own_variance + np.float32(C2))
    if with_means:
        likeness *= (2 * mean * own + np.float32(C1)) / (mean * mean + own * own + np.float32(C1))
    return likeness, own


def _banding(scale: Scale, shown: Plane) -> Plane:
    """0 (none) to 1: steps in smooth areas that the original does not have, or lost slopes."""
    mean, variance = scale.means[0], scale.variances[0]
    smooth = 1 / (1 + (variance / np.float32(SMOOTH**2)) ** 2)
    found = np.zeros_like(mean)
    for axis in (0, 1):
        slope = np.diff(mean, axis=axis, append=np.take(mean, [-1], axis=axis))
        own = np.diff(shown, axis=axis, append=np.take(shown, [-1], axis=axis))
        threshold = np.float32(BAND_STEP**2)
        found += 1 - (2 * slope * own + threshold) / (slope * slope + own * own + threshold)
    return np.asarray(np.minimum(found, 1) * smooth)


def structural_similarity(one: Plane, other: Plane) -> float:
    """The plain measure over one plane with a range of 1 (Wang 2004, equation 13)."""
    means = smoothed(one)
    scale = Scale((one,), (means,), (smoothed(one, 1, one) - means * means,), 0.0, 0, 1)
    return float(_likeness(scale, 0, other, with_means=True)[0].mean())
