"""The clip formats, one module each; here all of them by their names.

Each module of this room with a ``CODEC`` is a format that can be written. Its line in
``values/clip_formats.py`` tells the others what it is called.
"""

from __future__ import annotations

import importlib
import pkgutil
from functools import cache

from brightcanvas.formats.clip_codecs.codec import ClipCodec
from brightcanvas.values.clip_formats import ClipFormat


def clip_codec_of(clip_format: ClipFormat) -> ClipCodec:
    """The codec of a format."""
    return _codecs()[clip_format]


@cache
def _codecs() -> dict[ClipFormat, ClipCodec]:
    names = [f"{__name__}.{module.name}" for module in pkgutil.iter_modules(__path__)]
    modules = [importlib.import_module(name) for name in names]
    return {one.CODEC.format: one.CODEC for one in modules if hasattr(one, "CODEC")}
