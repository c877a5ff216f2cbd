"""Writing pictures: pixels in, the bytes of one file out, without metadata."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from PIL import Image, features

from brightcanvas.formats.drawing_cuts import renderer_version
from brightcanvas.formats.jpegtables import even_tables
from brightcanvas.values.picture_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster

SPEED, HASTY_SPEED, DRAFT_SPEED = 6, 8, 10
"""Of the AVIF codec, 0 (slow) to 10. At the same score speed 5 takes four times as long as 6 for up
to 18 % fewer bytes, speed 8 less than half as long for 3 to 20 % more, 10 an eighth for 5 to 40 %
more (photographs of 1440 px)."""

_CODECS = {"jpg": "libjpeg_turbo", "webp": "webp", "avif": "avif", "png": "zlib"}


def codec_version(file_format: FileFormat) -> str:
    """The codec's version: other versions may give other bytes; of drawings the renderer's."""
    if file_format is FileFormat.SVG:
        return renderer_version()
    return f"{file_format.ending} {features.version(_CODECS[file_format.ending])}"


def encode(picture: Raster, encoding: Encoding) -> bytes:
    """The picture as a file. Same input and codec versions give the same bytes."""
    return written(for_codec(picture, encoding), encoding)


def for_codec(picture: Raster, encoding: Encoding) -> Image.Image:
    """The codec library's own copy of a picture, for which the picture isn't needed any more."""
    is_png = encoding.format is FileFormat.PNG
    return _smallest_mode(picture) if is_png else Image.fromarray(picture.pixels)


def written(image: Image.Image, encoding: Encoding) -> bytes:
    """What ``for_codec`` gave, as a file."""
    return _saved(image, encoding.format.name, _parameters(encoding))


def _parameters(encoding: Encoding) -> dict[str, Any]:
    if encoding.format is FileFormat.PNG:
        return {"optimize": True}
    if encoding.format is FileFormat.JPEG:
        tables = (
            {"qtables": even_tables(encoding.quality)}
            if encoding.even_tables
            else {"quality": encoding.quality}
        )
        is_whole = not encoding.draft
        scan = {"progressive": encoding.progressive and is_whole, "optimize": is_whole}
        return {**tables, "subsampling": 0 if encoding.full_colour else 2, **scan}
    if encoding.format is FileFormat.WEBP and encoding.lossless:
        return {"lossless": True, "quality": 80, "method": 4}
    if encoding.format is FileFormat.WEBP:
        return {"quality": encoding.quality, "method": 4}
    sampling = "4:4:4" if encoding.full_colour else "4:2:0"
    speed = DRAFT_SPEED if encoding.draft else HASTY_SPEED if encoding.hasty else SPEED
    return {
        "quality": encoding.quality, "speed": speed, "max_threads": 1, "subsampling": sampling,
    }  # fmt: skip


def _saved(image: Image.Image, codec: str, parameters: dict[str, Any]) -> bytes:
    out = io.BytesIO()
    image.save(out, codec, **parameters)
    return out.getvalue()


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
