"""Quantisation tables of JPEGs: what they tell of a file, and those that we write.

Most encoders scale the example tables of ITU-T T.81, annex K, by a factor that follows
from a quality of 1 to 100 in the way of the Independent JPEG Group's library. The
quality whose table comes nearest is the estimate; encoders with tables of their own are
placed on that same scale.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

# ITU-T T.81, table K.1, row by row.
LUMINANCE = np.array([
    16, 11, 10, 16, 24, 40, 51, 61, 12, 12, 14, 19, 26, 58, 60, 55,
    14, 13, 16, 24, 40, 57, 69, 56, 14, 17, 22, 29, 51, 87, 80, 62,
    18, 22, 37, 56, 68, 109, 103, 77, 24, 35, 55, 64, 81, 104, 113, 92,
    49, 64, 78, 87, 103, 121, 120, 101, 72, 92, 95, 98, 112, 100, 103, 99,
])  # fmt: skip

# Table K.2; all that is not listed is 99.
CHROMINANCE = np.full(64, 99)
CHROMINANCE[[0, 1, 2, 3, 8, 9, 10, 11, 16, 17, 18, 19, 24, 25]] = [
    17, 18, 24, 47, 18, 21, 26, 66, 24, 26, 56, 99, 47, 66,
]  # fmt: skip

_FREQUENCY = np.hypot(*np.meshgrid(np.arange(8), np.arange(8))).ravel() / np.hypot(7, 7)
_RISING = 16 * (1 + 3 * _FREQUENCY**1.5)
EVEN_LUMINANCE = np.round(_RISING * LUMINANCE.mean() / _RISING.mean()).astype(int)
"""Our own: rising with frequency alike in every direction, and less steeply than the standard's
examples, which were made for seeing single blocks. At equal scores its files are lighter for
most pictures; the tables are chosen for each (``python -m bench.weight``)."""

_COLOUR_RISING = 24 * (1 + 3 * _FREQUENCY)
EVEN_CHROMINANCE = np.round(_COLOUR_RISING * 0.8 * CHROMINANCE.mean() / _COLOUR_RISING.mean())


def scaled_table(quality: int) -> NDArray[np.int64]:
    """The standard's luminance table at a quality of 1..100, 64 entries in 1..255."""
    return scaled(LUMINANCE, quality)


def scaled(table: NDArray[np.number], quality: int) -> NDArray[np.int64]:
    """A table of 64 entries at a quality of 1..100, entries in 1..255."""
    percent = 5000 // quality if quality < 50 else 200 - 2 * quality
    return np.asarray(np.clip((table.astype(np.int64) * percent + 50) // 100, 1, 255))


def even_tables(quality: int) -> list[list[int]]:
    """Our own tables for lightness and for colour, as the codec takes them."""
    return [scaled(table, quality).tolist() for table in (EVEN_LUMINANCE, EVEN_CHROMINANCE)]


def quality_of_tables(tables: Mapping[int, Sequence[int]]) -> int:
    """The quality (1..100) whose luminance table is nearest to the file's.

    Tables are compared by the sums of their entries, which hardly depend on the order in
    which the entries are stored.
    """
    total = sum(tables[min(tables)])
    return min(range(1, 101), key=lambda quality: abs(int(scaled_table(quality).sum()) - total))
