"""How hard a JPEG was last compressed, from its quantisation tables.

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


def scaled_table(quality: int) -> NDArray[np.int64]:
    """The luminance table at a quality of 1..100, 64 entries in 1..255."""
    percent = 5000 // quality if quality < 50 else 200 - 2 * quality
    return np.asarray(np.clip((LUMINANCE * percent + 50) // 100, 1, 255))


def quality_of_tables(tables: Mapping[int, Sequence[int]]) -> int:
    """The quality (1..100) whose luminance table is nearest to the file's.

    Tables are compared by the sums of their entries, which hardly depend on the order in
    which the entries are stored.
    """
    total = sum(tables[min(tables)])
    return min(range(1, 101), key=lambda quality: abs(int(scaled_table(quality).sum()) - total))
