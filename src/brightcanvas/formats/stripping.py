"""A picture's file without what browsers don't need to show it; its pixels stay as they are."""

from __future__ import annotations

from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.loaded import Loaded
from brightcanvas.formats.pictures import opened, orientation_of


def bare(file: Loaded) -> bytes | None:
    """The file without metadata, or None where its pixels can't be kept as they are.

    That is so where they are turned by a note on orientation, or where a colour profile other
    than sRGB says what they mean.
    """
    kind = file.kind
    with opened(file) as image:
        if orientation_of(image) != 1 or image.info.get("icc_profile"):
            return None
        if getattr(image, "n_frames", 1) > 1:
            return None
    strip = codec_of(kind.format).bare if kind.format else None
    return strip(file.content) if strip else None
