"""PNG (ISO 15948): exact, and small where colours are few."""

from __future__ import annotations

import struct
from typing import Any

import numpy as np
from PIL import Image

from brightcanvas.formats.codecs.codec import PictureCodec
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster

_KEPT = (b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND", b"sRGB", b"gAMA")

SAMPLE = 4000
"""Px that tell of nearly every photograph that it has more than 256 colours."""


def _smallest_mode(picture: Raster) -> Image.Image:
    """A palette picture where at most 256 colours occur, exactly those."""
    pixels = picture.pixels
    flat = np.ascontiguousarray(pixels).reshape(-1, pixels.shape[2])
    codes = flat.astype(np.uint32) @ (256 ** np.arange(flat.shape[1], dtype=np.uint32))
    if len(np.unique(codes[:: max(1, len(codes) // SAMPLE)])) > 256:
        return Image.fromarray(pixels)
    colours, index = np.unique(codes, return_inverse=True)
    if len(colours) > 256:
        return Image.fromarray(pixels)
    entries = (colours[:, None] >> (8 * np.arange(flat.shape[1], dtype=np.uint32))) & 255
    image = Image.fromarray(index.reshape(pixels.shape[:2]).astype(np.uint8), "L")
    image.putpalette(entries.astype(np.uint8).tobytes(), "RGBA" if flat.shape[1] == 4 else "RGB")
    return image


def _probe(head: bytes) -> bool:
    return head.startswith(b"\x89PNG\r\n\x1a\n")


def _options(_: Encoding) -> dict[str, Any]:
    return {"optimize": True}


def _bare(content: bytes) -> bytes:
    kept, at = [content[:8]], 8
    while at + 12 <= len(content):
        length, kind = struct.unpack(">I4s", content[at : at + 8])
        if kind in _KEPT:
            kept.append(content[at : at + 12 + length])
        at += 12 + length
    return b"".join(kept)


def _is_whole(content: bytes) -> bool:
    return b"IEND" in content


CODEC = PictureCodec(
    FileFormat.PNG,
    library="zlib",
    probe=_probe,
    options=_options,
    image=_smallest_mode,
    is_whole=_is_whole,
    bare=_bare,
)
