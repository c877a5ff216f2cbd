"""Few colours for flat art: a palette of our own finding.

Colours are points in OKLab, with alpha as a fourth axis. They are split into boxes at the mean
of their widest axis, the box with the largest spread first (after P. Heckbert, "Color image
quantization for frame buffer display", SIGGRAPH 1982), then moved to the middle of what is
nearest to them (S. Lloyd, "Least squares quantization in PCM", 1982). A colour that makes up
most of its box is kept exactly, so that even areas stay what they are.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.spaces import (
    codes_from_light,
    light_from_oklab,
    light_of_code,
    oklab_from_light,
)
from brightcanvas.values.raster import Raster

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

ROUNDS = 4
"""Of moving the palette's colours."""

DOMINANT = 0.5
"""A colour with this share of its box's pixels is kept exactly."""

ALPHA_WEIGHT = 0.5
"""Full transparency against half of the way from black to white."""

Points = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Colours:
    """The different colours of a picture."""

    codes: NDArray[np.uint8]
    """Shape (colours, channels)."""
    points: Points
    """In OKLab, with alpha; shape (colours, 3 or 4)."""
    counts: NDArray[np.int64]
    index: NDArray[np.intp]
    """Of each pixel's colour, in reading order."""


def colours_of(picture: Raster) -> Colours:
    """Count the colours of a picture."""
    channels = picture.pixels.shape[2]
    flat = np.ascontiguousarray(picture.pixels).reshape(-1, channels)
    steps = 256 ** np.arange(channels, dtype=np.uint32)
    packed, index, counts = np.unique(
        flat.astype(np.uint32) @ steps, return_inverse=True, return_counts=True
    )
    codes = ((packed[:, None] // steps) % 256).astype(np.uint8)
    return Colours(codes, _points(codes), counts, index.ravel())


def _points(codes: NDArray[np.uint8]) -> Points:
    lab = oklab_from_light(light_of_code()[codes[:, :3]]).astype(np.float64)
    if codes.shape[1] == 3:
        return lab
    alpha = codes[:, 3:] / 255
    return np.concatenate([lab * alpha, alpha * ALPHA_WEIGHT], axis=1)


def reduced(picture: Raster, count: int, colours: Colours | None = None) -> Raster:
    """The picture in at most ``count`` colours (2..256), mixed only where it is not flat."""
    colours = colours or colours_of(picture)
    if len(colours.codes) <= count:
        return picture
    palette = _exact_where_dominant(colours, _moved(colours, _split(colours, count)))
    tree = _tree_of(_points(palette))
    if len(palette) < 2:
        return Raster(np.broadcast_to(palette[0], picture.pixels.shape).copy())
    near, two = (np.asarray(part) for part in tree.query(colours.points, k=2))
    chosen = _mixed(picture, colours, near, two)
    return Raster(palette[chosen].reshape(picture.pixels.shape))


def _split(colours: Colours, count: int) -> Points:
    """The means of ``count`` boxes."""
    boxes = [np.arange(len(colours.codes))]
    spreads = [_spread(colours, boxes[0])]
    while len(boxes) < count and max(spreads) > 0:
        widest = int(np.argmax(spreads))
        box = boxes.pop(widest)
        spreads.pop(widest)
        for part in _halves(colours, box):
            boxes.append(part)
            spreads.append(_spread(colours, part))
    return np.array([_mean(colours, box) for box in boxes])


def _mean(colours: Colours, box: NDArray[np.intp]) -> Points:
    return np.average(colours.points[box], axis=0, weights=colours.counts[box])


def _variances(colours: Colours, box: NDArray[np.intp]) -> Points:
    away = (colours.points[box] - _mean(colours, box)) ** 2
    return np.asarray((away * colours.counts[box, None]).sum(axis=0))


def _spread(colours: Colours, box: NDArray[np.intp]) -> float:
    return float(_variances(colours, box).max()) if len(box) > 1 else 0.0


def _halves(colours: Colours, box: NDArray[np.intp]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    axis = int(np.argmax(_variances(colours, box)))
    values = colours.points[box, axis]
    low = values <= _mean(colours, box)[axis]
    if low.all():  # by rounding
        low = values < values.max()
    return box[low], box[~low]


def _tree_of(points: Points) -> cKDTree:
    """For finding the nearest of some points; the library is loaded where palettes are made."""
    from scipy.spatial import cKDTree

    return cKDTree(points)


def _moved(colours: Colours, middles: Points) -> Points:
    """The middles after a few rounds of moving each to the mean of what is nearest to it."""
    for _ in range(ROUNDS):
        nearest = _tree_of(middles).query(colours.points)[1]
        weights = np.bincount(nearest, colours.counts, len(middles))
        sums = [
            np.bincount(nearest, colours.counts * axis, len(middles)) for axis in colours.points.T
        ]
        kept = weights > 0
        middles = np.stack([one[kept] / weights[kept] for one in sums], axis=1)
    return middles


def _exact_where_dominant(colours: Colours, middles: Points) -> NDArray[np.uint8]:
    """The palette's codes, shape (colours, channels)."""
    palette = _codes(middles)
    nearest = np.asarray(_tree_of(middles).query(colours.points)[1])
    order = np.lexsort((-colours.counts, nearest))
    boxes, firsts = np.unique(nearest[order], return_index=True)
    totals = np.bincount(nearest, colours.counts, len(middles))
    for box, first in zip(boxes, firsts, strict=True):
        commonest = order[first]
        if colours.counts[commonest] >= DOMINANT * totals[box]:
            palette[box] = colours.codes[commonest]
    return np.unique(palette, axis=0)


def _codes(points: Points) -> NDArray[np.uint8]:
    if points.shape[1] == 3:
        return codes_from_light(light_from_oklab(points).astype(np.float32))
    alpha = np.clip(points[:, 3:] / ALPHA_WEIGHT, 0, 1)
    lab = points[:, :3] / np.maximum(alpha, 1e-3)
    opaque = codes_from_light(light_from_oklab(lab).astype(np.float32))
    return np.concatenate([opaque, np.round(alpha * 255).astype(np.uint8)], axis=1)


def _mixed(
    picture: Raster, colours: Colours, near: Points, two: NDArray[np.intp]
) -> NDArray[np.intp]:
    """For each pixel the nearest entry, or the second by a pattern where areas are not flat."""
    share = near[:, 0] / np.maximum(near.sum(axis=1), 1e-9)
    height, width = picture.pixels.shape[:2]
    pattern = np.tile(_thresholds(), (height // 8 + 1, width // 8 + 1))[:height, :width].ravel()
    second = (share[colours.index] > pattern) & ~_is_even(picture).ravel()
    return np.asarray(np.where(second, two[colours.index, 1], two[colours.index, 0]))


def _is_even(picture: Raster) -> NDArray[np.bool_]:
    """Where a pixel equals a neighbour to its right or left exactly, and one above or below."""
    pixels = picture.pixels
    across = np.pad((pixels[:, 1:] == pixels[:, :-1]).all(axis=2), ((0, 0), (1, 1)))
    down = np.pad((pixels[1:] == pixels[:-1]).all(axis=2), ((1, 1), (0, 0)))
    return np.asarray((across[:, 1:] | across[:, :-1]) & (down[1:] | down[:-1]))


def _thresholds() -> Points:
    """An ordered pattern of 8 by 8 thresholds in 0..1 (B. Bayer, 1973)."""
    pattern = np.zeros((1, 1))
    for _ in range(3):
        pattern = np.block([[4 * pattern, 4 * pattern + 2], [4 * pattern + 3, 4 * pattern + 1]])
    return np.asarray((pattern + 0.5) / 64)
