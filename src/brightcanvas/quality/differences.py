"""What the eye sees of an error, window by window, at one scale of a picture.

An error counts by the contrast that the eye needs to see it: more for details that are too fine
(contrast sensitivity; J. Mannos, D. Sakrison, "The effects of a visual fidelity criterion on the
encoding of images", IEEE Trans. Information Theory 20(4), 1974, equation for A(f); K. Mullen,
"The contrast sensitivity of human colour vision", J. Physiology 359, 1985, for the two axes of
colour), and more where the original is itself uneven there (masking; G. Legge, J. Foley,
"Contrast masking in human vision", J. Opt. Soc. America 70(12), 1980: thresholds rise with the
masker's contrast to a power of about 0.6 to 0.7). What masks is the original alone: an edge that
a codec has added hides nothing.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from brightcanvas.quality.seeing import Plane, smoothed

PX_PER_DEGREE = 40.0
"""CSS px to a degree of the visual field. CSS's own reference px makes 47 at arm's length;
people lean in."""

BAND_CENTRE = 0.3
"""Cycles to a sample in the middle of the band that one scale adds to the coarser ones."""

JUST_SEEN = 0.008
"""Standard deviation of an error in OKLab lightness, at the peak of sensitivity on an even ground,
that can be pointed at side by side."""

JUST_SEEN_COLOUR = 0.009
"""The same along OKLab's axes of colour."""

MASKING = 0.65
"""Power with which the threshold rises with the original's own contrast."""

LOST_TEXTURE = 1.0
"""How much contrast that is missing counts beside the error that its loss is anyway."""

EDGE_SEEN = 0.004
"""Step of OKLab lightness along a straight line that can be pointed at: a long edge is seen at
about half of the contrast of scattered errors (D. Field, A. Hayes, R. Hess, "Contour integration
by the human visual system", Vision Research 33, 1993)."""

GRID = 8
"""Px of the file between the lines on which codecs' blocks may end."""

RUN = 8
"""Samples along a line over which a step is averaged: scattered errors cancel out."""

BAND_STEP = 0.002
"""Step of OKLab lightness at the threshold of seeing, for smooth areas side by side: 0.5 % of
luminance at mid grey, the peak of contrast sensitivity (P. Barten, "Contrast Sensitivity of the
Human Eye", 1999, chapter 3)."""

SMOOTH = 0.012
"""Standard deviation of OKLab lightness within a window below which an area is smooth."""


def sensitivity(octave: float) -> float:
    """Of the eye to lightness at an octave of CSS px to a sample; 1 at its peak.

    Coarser than the peak it is taken to stay: large errors are judged by their edges.
    """
    cycles = BAND_CENTRE * PX_PER_DEGREE / 2**octave
    return _mannos(max(cycles, 8.0)) / _mannos(8.0)


def _mannos(cycles: float) -> float:
    return 2.6 * (0.0192 + 0.114 * cycles) * math.exp(-((0.114 * cycles) ** 1.1))


def colour_sensitivity(octave: float) -> float:
    """Of the eye to OKLab's a and b: it falls by half for each 4 cycles to a degree, about."""
    cycles = BAND_CENTRE * PX_PER_DEGREE / 2**octave
    return 2 ** -(cycles / 4)


@dataclass(frozen=True, eq=False)
class OriginalPlane:
    """One plane of the original at one scale, with what comparisons need of it."""

    plane: Plane
    step: int
    """Samples between windows."""
    mean: Plane
    """Of each window."""
    contrast: Plane
    """Standard deviation in each window."""
    threshold: Plane
    """Square of the error's standard deviation that is just seen in each window."""


def described(plane: Plane, step: int, just_seen: float) -> OriginalPlane:
    """Make ready one plane of the original.

    Args:
        plane: of one channel, shape (height, width).
        step: samples between windows.
        just_seen: an error's standard deviation that is just seen on an even ground.
    """
    mean = smoothed(plane, step)
    contrast = np.sqrt(np.maximum(smoothed(plane, step, plane) - mean * mean, 0))
    masked = (contrast / np.float32(just_seen)) ** np.float32(2 * MASKING)
    threshold = np.asarray(np.float32(just_seen**2) * (1 + masked), np.float32)
    return OriginalPlane(plane, step, mean, np.asarray(contrast, np.float32), threshold)


def error_seen(seen: OriginalPlane, shown: Plane, *, with_means: bool) -> tuple[Plane, Plane]:
    """How far over its threshold an error is, squared, and the means of what is shown.

    Args:
        seen: the original.
        shown: the same plane of what is compared with it.
        with_means: whether a difference of the windows' means counts as well: at the coarsest
            scale, where no other one tells of it.
    """
    error = shown - seen.plane
    mean = smoothed(error, seen.step)
    squares = smoothed(error, seen.step, error)
    own = seen.mean + mean
    variance = np.maximum(smoothed(shown, seen.step, shown) - own * own, 0)
    lost = np.maximum(seen.contrast - np.sqrt(variance), 0)
    power = squares if with_means else np.maximum(squares - mean * mean, 0)
    power += np.float32(LOST_TEXTURE) * lost * lost
    return power / seen.threshold, own


def blocks_seen(seen: OriginalPlane, shown: Plane, grid: float) -> tuple[Plane, Plane]:
    """Straight steps on a codec's grid that the original does not have, squared, over threshold.

    Args:
        seen: the original's lightness at the finest scale.
        shown: that of what is compared with it.
        grid: samples between the grid's lines.

    Returns:
        Along each vertical line, of shape (runs, lines), and along each horizontal one, of shape
        (lines, runs). Empty where no line lies within.
    """
    error = shown - seen.plane
    down = _steps(error, grid)
    across = _steps(error.T, grid).T
    return _over(down, _around(seen, down.shape)), _over(across, _around(seen, across.shape))


def _steps(error: Plane, grid: float) -> Plane:
    """Steps across vertical lines beyond those beside them, means over runs along the lines."""
    count = int((error.shape[1] - 3) // grid)
    lines = np.round(np.arange(1, count + 1) * grid).astype(np.intp)
    lines = lines[(lines >= 2) & (lines < error.shape[1] - 1)]
    rows = error.shape[0] // RUN * RUN
    if not len(lines) or not rows:
        return np.zeros((0, 0), np.float32)
    runs = error[:rows].reshape(-1, RUN, error.shape[1]).sum(axis=1) * np.float32(1 / RUN)
    four = [runs[:, lines + offset] for offset in (-2, -1, 0, 1)]
    beside = (np.abs(four[1] - four[0]) + np.abs(four[3] - four[2])) / 2
    return np.asarray(np.maximum(np.abs(four[2] - four[1]) - beside, 0))


def _over(steps: Plane, contrast: Plane) -> Plane:
    masked = 1 + (contrast / np.float32(JUST_SEEN)) ** np.float32(2 * MASKING)
    return np.asarray(steps * steps / (np.float32(EDGE_SEEN**2) * masked))


def _around(seen: OriginalPlane, shape: tuple[int, int]) -> Plane:
    """The original's contrast in the windows nearest to the samples of a coarser lattice."""
    rows, columns = (
        np.linspace(0, have - 1, max(want, 1)).round().astype(np.intp)
        for have, want in zip(seen.contrast.shape, shape, strict=True)
    )
    return np.asarray(seen.contrast[np.ix_(rows, columns)][: shape[0], : shape[1]])


def banding(seen: OriginalPlane, own: Plane) -> Plane:
    """0 (none) to 1: steps in smooth areas that the original does not have, or lost slopes.

    Args:
        seen: the original's lightness.
        own: the windows' means of what is compared with it.
    """
    smooth = 1 / (1 + (seen.contrast / np.float32(SMOOTH)) ** 4)
    found = np.zeros_like(seen.mean)
    for axis in (0, 1):
        slope = np.diff(seen.mean, axis=axis, append=np.take(seen.mean, [-1], axis=axis))
        shown = np.diff(own, axis=axis, append=np.take(own, [-1], axis=axis))
        threshold = np.float32(BAND_STEP**2)
        alike = (2 * slope * shown + threshold) / (slope * slope + shown * shown + threshold)
        found += 1 - alike
    return np.asarray(np.minimum(found, 1) * smooth)
