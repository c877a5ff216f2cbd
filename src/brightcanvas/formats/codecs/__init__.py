"""The picture formats, one module each; here all of them by their names.

Each module of this room with a ``CODEC`` is a format that can be read and written. Its line in
``values/file_formats.py`` tells the others what it is called.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterator
from functools import cache

from PIL import features

from brightcanvas.formats.codecs.codec import PictureCodec
from brightcanvas.values.file_formats import FileFormat


def codec_of(file_format: FileFormat) -> PictureCodec:
    """The codec of a format that has one; a drawing's has none."""
    return _codecs()[file_format]


def codec_like(head: bytes) -> PictureCodec | None:
    """The codec that reads a file which begins like this, if any."""
    return next((one for one in _codecs().values() if one.probe(head)), None)


def version_of_codec(file_format: FileFormat) -> str:
    """The version of a format's encoder: others may give other bytes."""
    return f"{file_format.ending} {features.version(codec_of(file_format).library)}"


@cache
def _codecs() -> dict[FileFormat, PictureCodec]:
    """In the order of the formats."""
    found = {one.format: one for one in _modules()}
    return {one: found[one] for one in FileFormat if one in found}


def _modules() -> Iterator[PictureCodec]:
    for module in pkgutil.iter_modules(__path__):
        loaded = importlib.import_module(f"{__name__}.{module.name}")
        if hasattr(loaded, "CODEC"):
            yield loaded.CODEC
