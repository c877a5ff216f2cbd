"""JPEG (ITU-T T.81)."""

from __future__ import annotations

import struct
from dataclasses import replace
from typing import Any

from brightcanvas.formats.codecs.codec import PictureCodec, RateCurve
from brightcanvas.formats.jpegtables import even_tables
from brightcanvas.values.picture_formats import Encoding, FileFormat

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
