"""WebP (RFC 9649)."""

from __future__ import annotations

import struct
from typing import Any

import numpy as np

from brightcanvas.formats.bits import EvenBools
from brightcanvas.formats.codecs.codec import PictureCodec, RateCurve
from brightcanvas.values.file_formats import Encoding, FileFormat

WEBP = RateCurve(
    "webp",
    Encoding(FileFormat.WEBP),
    (5, 10, 20, 30, 40, 50, 60, 70, 80, 90, 99),
    (-1.92, -2.10, -2.36, -2.60, -2.79, -2.95, -3.10, -3.25, -3.64, -4.26, -5.01),
)

_DROPPED = (b"EXIF", b"XMP ")
_EXIF_AND_XMP = 0b0000_1100
"""Flags in a WebP's extended head (RFC 9649, section 2.7)."""


def _probe(head: bytes) -> bool:
    return head[:4] == b"RIFF" and head[8:12] == b"WEBP"


def _options(encoding: Encoding) -> dict[str, Any]:
    if encoding.lossless:
        return {"lossless": True, "quality": 80, "method": 4}
    return {"quality": encoding.quality, "method": 4}


def _bare(content: bytes) -> bytes:
    chunks, at = [], 12
    while at + 8 <= len(content):
        kind, length = content[at : at + 4], struct.unpack("<I", content[at + 4 : at + 8])[0]
        end = at + 8 + length + length % 2
        chunk = content[at:end]
        if kind == b"VP8X":
            chunk = chunk[:8] + bytes([chunk[8] & ~_EXIF_AND_XMP]) + chunk[9:]
        if kind not in _DROPPED:
            chunks.append(chunk)
        at = end
    body = b"WEBP" + b"".join(chunks)
    return b"RIFF" + struct.pack("<I", len(body)) + body


def _past(content: bytes) -> int | None:
    """From the quantisers of the segments (RFC 6386, section 9), on the usual encoder's scale."""
    at = content.find(b"VP8 ", 12)
    if at < 0:
        return None
    bools = EvenBools(content[at + 8 + 10 :])
    bools.read(2)  # the colour space, and whether values are clamped
    indices = _segment_indices(bools)
    bools.read(1 + 6 + 3)  # the loop filter
    if bools.flag() and bools.flag():
        for _ in range(8):
            bools.optional(6)
    bools.read(2)  # partitions
    index = float(np.mean(indices)) if indices else bools.read(7)
    linear = (1 - index / 127) ** 3
    return round(100 * (linear * 1.5 if linear < 0.5 else (linear + 1) / 2))


def _segment_indices(bools: EvenBools) -> list[int]:
    if not bools.flag():
        return []
    maps, data = bools.flag(), bools.flag()
    indices: list[int] = []
    if data:
        is_absolute = bools.flag()
        indices = [bools.optional(7) for _ in range(4)]
        for _ in range(4):
            bools.optional(6)
        indices = indices if is_absolute else []
    for _ in range(3 if maps else 0):
        if bools.flag():
            bools.read(8)
    return indices


def _is_whole(content: bytes) -> bool:
    """By the length that its first chunk states."""
    return len(content) >= 8 + int.from_bytes(content[4:8], "little")


CODEC = PictureCodec(
    FileFormat.WEBP,
    library="webp",
    probe=_probe,
    options=_options,
    is_whole=_is_whole,
    bare=_bare,
    past=_past,
    curves=(WEBP,),
    longest=16_383,
)
