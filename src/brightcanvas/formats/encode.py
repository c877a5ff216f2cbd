"""Writing pictures: pixels in, the bytes of one file out, without metadata."""

from __future__ import annotations

import io

from PIL import Image

from brightcanvas.formats.codecs import codec_of, version_of_codec
from brightcanvas.formats.drawing_cuts import renderer_version
from brightcanvas.values.picture_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster


def codec_version(file_format: FileFormat) -> str:
    """The codec's version: other versions may give other bytes; of drawings the renderer's."""
    if file_format is FileFormat.SVG:
        return renderer_version()
    return version_of_codec(file_format)


def encode(picture: Raster, encoding: Encoding) -> bytes:
    """The picture as a file. Same input and codec versions give the same bytes."""
    return written(for_codec(picture, encoding), encoding)


def for_codec(picture: Raster, encoding: Encoding) -> Image.Image:
    """The codec library's own copy of a picture, for which the picture isn't needed any more."""
    return codec_of(encoding.format).image(picture)


def written(image: Image.Image, encoding: Encoding) -> bytes:
    """What ``for_codec`` gave, as a file."""
    out, codec = io.BytesIO(), codec_of(encoding.format)
    image.save(out, codec.library_name, **codec.options(encoding))
    return out.getvalue()
