"""AVIF (AV1 Image File Format)."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from brightcanvas.formats.bits import Bits
from brightcanvas.formats.codecs.codec import PictureCodec, RateCurve
from brightcanvas.values.file_formats import Encoding, FileFormat

HEAD = 8
"""Bytes of a box's length and type."""


def boxes_are_whole(content: bytes) -> bool:
    """Whether the outermost boxes end where the file does, or before."""
    at = 0
    while at + HEAD <= len(content):
        length = int.from_bytes(content[at : at + 4], "big")
        if length == 1:
            length = int.from_bytes(content[at + HEAD : at + 2 * HEAD], "big")
        if length == 0:  # as far as the file goes
            return True
        if length < HEAD:
            return False
        at += length
    return at <= len(content)


SPEED, HASTY_SPEED, DRAFT_SPEED = 6, 8, 10
"""Of the AVIF codec, 0 (slow) to 10. At the same score speed 5 takes four times as long as 6 for up
to 18 % fewer bytes, speed 8 less than half as long for 3 to 20 % more, 10 an eighth for 5 to 40 %
more (photographs of 1440 px)."""

_STILLS = ((0, 6, 22, 41, 63, 76, 87, 95, 100), (0, 10, 30, 50, 70, 80, 90, 97, 100))
"""What the usual encoder makes of stills: plain indices, and the qualities that were asked for."""

AVIF = RateCurve(
    "avif",
    Encoding(FileFormat.AVIF),
    (10, 20, 30, 40, 50, 60, 70, 80, 90, 96),
    (-1.82, -2.12, -2.46, -2.89, -3.37, -3.80, -4.11, -4.42, -4.72, -5.03),
    step=2,
)
FULL_AVIF = replace(AVIF, name="full-avif", settings=Encoding(FileFormat.AVIF, full_colour=True))


def _probe(head: bytes) -> bool:
    """By the major brand of its boxes (ISO 14496-12)."""
    return head[4:8] == b"ftyp" and head[8:12] in (b"avif", b"avis")


def _options(encoding: Encoding) -> dict[str, Any]:
    sampling = "4:4:4" if encoding.full_colour else "4:2:0"
    speed = DRAFT_SPEED if encoding.draft else HASTY_SPEED if encoding.hasty else SPEED
    return {
        "quality": encoding.quality, "speed": speed, "max_threads": 1, "subsampling": sampling,
    }  # fmt: skip


def _past(content: bytes) -> int | None:
    """From the frame's base index (AV1 specification, sections 5.5 and 5.9)."""
    at = content.find(b"mdat")
    if at < 0:
        return None
    sequence = _obu(content, at + 4, wanted=1) or _obu(content, content.find(b"av1C") + 8, wanted=1)
    frame = _obu(content, at + 4, wanted=6)
    if sequence is None or frame is None:
        return None
    index = _base_index(Bits(sequence), Bits(frame))
    if index is None:
        return None
    return round(float(np.interp(100 - index / 4 * 100 / 63, *_STILLS)))


def _obu(content: bytes, at: int, wanted: int) -> bytes | None:
    """The payload of the first open bitstream unit of a type."""
    for _ in range(8):
        if at >= len(content):
            return None
        head = content[at]
        at += 2 if head & 4 else 1
        length, shift = 0, 0
        while head & 2:
            length |= (content[at] & 127) << shift
            shift += 7
            at += 1
            if not content[at - 1] & 128:
                break
        if head >> 3 & 15 == wanted:
            return content[at : at + length] if head & 2 else content[at:]
        at += length
    return None


def _base_index(sequence: Bits, frame: Bits) -> int | None:
    """The quantiser's index of a still picture; None for headers of other kinds."""
    sequence.read(4)
    if not sequence.flag():  # only reduced headers, which still pictures have
        return None
    sequence.read(5)
    bits = sequence.read(4) + 1, sequence.read(4) + 1
    width, height = sequence.read(bits[0]) + 1, sequence.read(bits[1]) + 1
    has_large_blocks = sequence.flag()
    sequence.read(2)
    has_superres = sequence.flag()
    frame.read(1)
    screen_tools = frame.flag()
    if screen_tools:
        frame.read(1)
    if has_superres and frame.flag():
        return None
    if frame.flag():
        frame.read(32)
    if screen_tools:
        frame.read(1)
    return (
        frame.read(8)
        if _skip_tiles(frame, width, height, 128 if has_large_blocks else 64)
        else None
    )


def _skip_tiles(frame: Bits, width: int, height: int, block: int) -> bool:
    """Pass over the tiles' layout (section 5.9.15); False where it is not an even one."""
    columns, rows = -(-width // block), -(-height // block)
    if not frame.flag():
        return False
    most_across, most = 4096 // block, 4096 * 2304 // block**2
    across = _log2(columns, most_across)
    least = max(across, _log2(columns * rows, most))
    across = _raised(frame, across, _log2(min(columns, 64), 1))
    down = _raised(frame, max(least - across, 0), _log2(min(rows, 64), 1))
    if across or down:
        frame.read(across + down + 2)
    return True


def _log2(size: int, unit: int) -> int:
    power = 0
    while unit << power < size:
        power += 1
    return power


def _raised(frame: Bits, value: int, most: int) -> int:
    while value < most and frame.flag():
        value += 1
    return value


CODEC = PictureCodec(
    FileFormat.AVIF,
    library="avif",
    probe=_probe,
    options=_options,
    is_whole=boxes_are_whole,
    past=_past,
    curves=(AVIF,),
    fuller=FULL_AVIF,
    hastens=True,
    drafted_lower=0.10,
)
