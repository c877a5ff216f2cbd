"""Gaussian windows over whole planes, as products with banded matrices.

Like the resizing in ``tone``, each product is cut into small dense blocks: that is several
times as fast as a filter that walks over the samples.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.resample import WeightBlock

TAPS = 11
SIGMA = 1.5
"""Samples; the window of Z. Wang et al., "Image quality assessment: from error visibility to
structural similarity", IEEE Trans. Image Processing 13(4), 2004, section III C."""
RADIUS = TAPS // 2

BLOCK = 48
"""Samples that the windows computed at once begin in."""

Plane = NDArray[np.float32]


def smoothed(plane: Plane, step: int = 1, times: Plane | None = None) -> Plane:
    """Weighted means over all windows that lie wholly within the plane.

    Args:
        plane: of shape (height, width), both at least TAPS.
        step: how many samples apart the windows lie.
        times: another plane; with it, the means of the product of both.

    Returns:
        Means of shape (1 + (height - TAPS) // step, 1 + (width - TAPS) // step).
    """
    rows = _blocks(plane.shape[0], step)
    columns = _blocks(plane.shape[1], step)
    squeezed = np.empty((rows[-1].stop, plane.shape[1]), np.float32)
    for block in rows:
        part = plane[block.first : block.last]
        if times is not None:
            part = part * times[block.first : block.last]
        np.matmul(block.weights, part, squeezed[block.start : block.stop])
    result = np.empty((squeezed.shape[0], columns[-1].stop), np.float32)
    for block in columns:
        part = squeezed[:, block.first : block.last]
        np.matmul(part, block.weights.T, result[:, block.start : block.stop])
    return result


@lru_cache(maxsize=64)
def _blocks(length: int, step: int) -> tuple[WeightBlock, ...]:
    count = 1 + (length - TAPS) // step
    size = max(8, BLOCK // step)
    return tuple(_block(start, min(start + size, count), step) for start in range(0, count, size))


def _block(start: int, stop: int, step: int) -> WeightBlock:
    rows = stop - start
    weights = np.zeros((rows, (rows - 1) * step + TAPS), np.float32)
    for row in range(rows):
        weights[row, row * step : row * step + TAPS] = gaussian()
    return WeightBlock(start, start * step, weights)


@lru_cache(maxsize=1)
def gaussian() -> NDArray[np.float64]:
    """The window's weights along one axis, shape (TAPS,), summing to 1."""
    distances = np.arange(TAPS) - RADIUS
    weights = np.exp(-(distances**2) / (2 * SIGMA**2))
    return np.asarray(weights / weights.sum())
