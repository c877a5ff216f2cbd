"""A sensor's grain: how strong it is, and frames without it.

Grain is another in each frame, so it is what codecs find hardest, and nobody misses it behind
copy. Where nothing moves, frames are averaged with their neighbours; where something does, which
is told from means over small blocks (grain is weak in them), the frame stays by itself. What is
left of the grain is taken out within the frame, where its surroundings are flat (the local
Wiener estimate: J. S. Lee, IEEE PAMI 2, 1980).
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.formats.clips.clip_reading import Codes

SEEN_FROM = 1.0
"""Codes of grain from which it is taken out."""

REACH = 3
"""Frames before and after that a frame is averaged with."""

BLOCK = 4
"""Px of the blocks by which motion is told."""

MOTION = 3.0
"""Times the grain in a block's mean at which nothing is averaged any more."""

CELL = 16
"""Px of the cells in which grain is measured."""

SHARE = 0.7
"""Of all cells that have no more grain than is told: dark ones have less, and what moves and is
textured seems to have more."""

WHITE = 0.45
"""Of a difference's deviation that is left in the means of blocks: a quarter of grain's, more of
what moves."""

MOST_PAIRS = 16
"""Of frames in which grain is measured."""

Plane = NDArray[np.float32]


def grain_of(frames: Sequence[Codes]) -> float:
    """The grain of some frames in a row: standard deviation of their luma, in codes.

    In each cell it is what differs from frame to frame or, within each, from px to px: the lesser
    of both, so that neither motion nor texture counts.

    Args:
        frames: YCbCr 4:2:0, shape (height * 3 / 2, width).
    """
    if len(frames) < 2:
        return 0.0
    return grain_in([_luma(one).astype(np.float32) for one in frames])


def grain_in(lumas: Sequence[Plane] | Plane) -> float:
    """The same of luma alone, in codes."""
    if len(lumas) < 2:
        return 0.0
    every = max(1, len(lumas) // MOST_PAIRS)
    pairs = ((lumas[at], lumas[at + 1]) for at in range(0, len(lumas) - 1, every))
    return float(np.median([np.quantile(_grain_between(a, b), SHARE) for a, b in pairs]))


def _grain_between(before: Plane, luma: Plane) -> Plane:
    """In each cell; none where what differs is not from px to px: there something moves."""
    apart = (luma - before) / np.float32(np.sqrt(2))
    between, within = _cells(apart, CELL), _cells(_finest(luma), CELL)
    coarse = _cells(_means(apart), CELL // BLOCK)
    rows, columns = (min(a, b) for a, b in zip(between.shape, coarse.shape, strict=True))
    between, within, coarse = (one[:rows, :columns] for one in (between, within, coarse))
    return np.asarray(np.where(coarse < WHITE * between, np.minimum(between, within), 0))


def _luma(planar: Codes) -> Codes:
    return planar[: planar.shape[0] * 2 // 3]


def _finest(luma: Plane) -> Plane:
    """What differs from all neighbours, scaled so that grain keeps its deviation.

    The mask of J. Immerkaer, Computer Vision and Image Understanding 64, 1996.
    """
    down = np.pad(luma, 1, mode="edge")
    down = down[:-2] - 2 * down[1:-1] + down[2:]
    return np.asarray((down[:, :-2] - 2 * down[:, 1:-1] + down[:, 2:]) / np.float32(6))


def _cells(plane: Plane, size: int) -> Plane:
    """The deviation in each cell of so many px across."""
    cells = _tiles(plane, size)
    return np.asarray(cells.std(axis=(1, 3)))


def _means(plane: Plane | Codes) -> Plane:
    """Of its blocks."""
    down = _tiles(plane, BLOCK).mean(axis=1, dtype=np.float32)
    return np.asarray(down.mean(axis=2))


def _tiles(plane: Plane | Codes, size: int) -> Plane | Codes:
    """Shape (rows, size, columns, size); a small plane is one tile."""
    rows, columns = plane.shape[0] // size, plane.shape[1] // size
    if not rows or not columns:
        return plane[None, :, None, :]
    return plane[: rows * size, : columns * size].reshape(rows, size, columns, size)


@dataclass(frozen=True, eq=False)
class _Seen:
    """A frame, and means over its blocks."""

    planar: Codes
    blocks: Plane


def smoothed(frames: Iterable[Codes], grain: float) -> Iterator[Codes]:
    """The frames without their grain, as many, holding a few of them at once.

    Args:
        frames: YCbCr 4:2:0, shape (height * 3 / 2, width).
        grain: standard deviation, codes.
    """
    near, middle = deque[_Seen](maxlen=2 * REACH + 1), 0
    for planar in frames:
        if len(near) == near.maxlen:
            middle -= 1
        near.append(_Seen(planar, _means(_luma(planar))))
        if len(near) > REACH + middle:
            yield _cleaned(near, middle, grain)
            middle += 1
    while middle < len(near):
        yield _cleaned(near, middle, grain)
        middle += 1


def _cleaned(near: Sequence[_Seen], middle: int, grain: float) -> Codes:
    """One frame, averaged with those around it where nothing moves."""
    this = near[middle]
    height, width = _luma(this.planar).shape
    luma, total = _luma(this.planar).astype(np.float32), np.ones((height, width), np.float32)
    chroma = this.planar[height:].astype(np.float32)
    chroma_total = np.ones_like(chroma)
    for number in range(max(0, middle - REACH), min(len(near), middle + REACH + 1)):
        if number == middle:
            continue
        other = near[number]
        share = _alike(this.blocks, other.blocks, grain)
        fine, coarse = _enlarged(share, (height, width)), _for_chroma(share, chroma.shape)
        luma += fine * _luma(other.planar)
        total += fine
        chroma += coarse * other.planar[height:]
        chroma_total += coarse
    luma /= total
    chroma /= chroma_total
    luma = _flattened(luma, np.asarray(grain / np.sqrt(total), np.float32))
    whole = np.concatenate([luma, chroma]) + np.float32(0.5)
    return np.asarray(np.clip(whole, 0, 255)).astype(np.uint8)


def _alike(one: Plane, other: Plane, grain: float) -> Plane:
    """How much each block of another frame counts, 0..1."""
    apart = (one - other) * np.float32(BLOCK / (MOTION * np.sqrt(2) * max(grain, 1.0)))
    return np.asarray(np.maximum(1 - apart * apart, 0), np.float32)


def _enlarged(share: Plane, shape: tuple[int, ...]) -> Plane:
    """Of blocks for px; a rest at the edge counts like the last block."""
    whole = np.repeat(np.repeat(share, BLOCK, axis=0), BLOCK, axis=1)
    return _filled(whole, shape)


def _for_chroma(share: Plane, shape: tuple[int, ...]) -> Plane:
    """For both chroma planes, which lie one below the other, two rows of each in one row."""
    half = BLOCK // 2
    rows, columns = shape[0], shape[1] // 2
    plane = np.repeat(np.repeat(share, half, axis=0), half, axis=1)
    plane = _filled(plane, (rows, columns))
    both = np.concatenate([plane, plane])
    return both.reshape(shape)


def _filled(plane: Plane, shape: tuple[int, ...]) -> Plane:
    missing = [(0, max(0, want - have)) for want, have in zip(shape, plane.shape, strict=True)]
    if any(after for _, after in missing):
        plane = np.pad(plane, missing, mode="edge")
    return plane[: shape[0], : shape[1]]


def _flattened(luma: Plane, left: Plane) -> Plane:
    """What is left of the grain taken out, where nothing else is drawn."""
    from scipy import ndimage

    mean = ndimage.uniform_filter(luma, 3, mode="nearest")
    spread = ndimage.uniform_filter(luma * luma, 3, mode="nearest") - mean * mean
    grain = left * left
    kept = np.maximum(spread - grain, 0) / np.maximum(spread, np.float32(1e-3))
    return np.asarray(mean + kept * (luma - mean), np.float32)
