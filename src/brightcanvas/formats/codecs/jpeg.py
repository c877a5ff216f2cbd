"""JPEG (ITU-T T.81), and its quantisation tables: what they tell, and those that we write.

Most encoders scale the example tables of ITU-T T.81, annex K, by a factor that follows
from a quality of 1 to 100 in the way of the Independent JPEG Group's library. The
quality whose table comes nearest is the estimate; encoders with tables of their own are
placed on that same scale.
"""

from __future__ import annotations

import struct
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from brightcanvas.formats.codecs.codec import PictureCodec, RateCurve
from brightcanvas.values.file_formats import Encoding, FileFormat

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


_KEPT = (0xE0, 0xEE)
"""Markers of JFIF's head and of the colour transform (APP14); the other APPn and comments go."""

JPEG = RateCurve(
    "jpeg",
    Encoding(FileFormat.JPEG),
    (10, 20, 30, 40, 50, 60, 70, 80, 90, 96),
    (-0.90, -1.72, -2.23, -2.60, -2.93, -3.17, -3.51, -3.95, -4.63, -5.36),
)
EVEN_JPEG = RateCurve(
    "even-jpeg",
    Encoding(FileFormat.JPEG, even_tables=True),
    (20, 30, 40, 50, 60, 70, 80, 90, 97),
    (-1.01, -1.48, -1.84, -2.12, -2.38, -2.79, -3.31, -4.23, -5.31),
)
FULL_JPEG = replace(
    EVEN_JPEG,
    name="full-jpeg",
    settings=Encoding(FileFormat.JPEG, even_tables=True, full_colour=True),
)
JPEGS = (EVEN_JPEG, JPEG, FULL_JPEG)
"""Which of them is lightest depends on the picture; all serve every browser."""


def _probe(head: bytes) -> bool:
    return head.startswith(b"\xff\xd8\xff")


def _options(encoding: Encoding) -> dict[str, Any]:
    tables = (
        {"qtables": even_tables(encoding.quality)}
        if encoding.even_tables
        else {"quality": encoding.quality}
    )
    is_whole = not encoding.draft
    scan = {"progressive": encoding.progressive and is_whole, "optimize": is_whole}
    return {**tables, "subsampling": 0 if encoding.full_colour else 2, **scan}


def _packings(encoding: Encoding) -> tuple[Encoding, ...]:
    """From coarse to fine, and from top to bottom."""
    return tuple(replace(encoding, progressive=one) for one in (True, False))


def _bare(content: bytes) -> bytes:
    """Segments up to the first scan are looked at (ITU-T T.81, annex B)."""
    kept, at = [content[:2]], 2
    while at + 4 <= len(content) and content[at] == 0xFF and content[at + 1] != 0xDA:
        marker = content[at + 1]
        end = at + 2 + struct.unpack(">H", content[at + 2 : at + 4])[0]
        is_note = 0xE0 <= marker <= 0xEF or marker == 0xFE
        if not is_note or marker in _KEPT:
            kept.append(content[at:end])
        at = end
    return b"".join([*kept, content[at:]])


def _is_whole(content: bytes) -> bool:
    """Whether an end of image follows the first scan; a thumbnail in the notes has one before."""
    at = 2
    while at + 4 <= len(content) and content[at] == 0xFF and content[at + 1] != 0xDA:
        at += 2 + int.from_bytes(content[at + 2 : at + 4], "big")
    return content.find(b"\xff\xd9", at) >= 0


CODEC = PictureCodec(
    FileFormat.JPEG,
    library="libjpeg_turbo",
    probe=_probe,
    options=_options,
    is_whole=_is_whole,
    bare=_bare,
    curves=JPEGS,
    fuller=FULL_JPEG,
    packings=_packings,
)
