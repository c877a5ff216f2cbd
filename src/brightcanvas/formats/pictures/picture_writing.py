"""Writing pictures: pixels in, the bytes of one file out, without metadata."""

from __future__ import annotations

import io
from dataclasses import dataclass

from PIL import Image, ImageSequence

from brightcanvas.formats.codecs import codec_of, version_of_codec
from brightcanvas.formats.drawings.drawing_cuts import renderer_version
from brightcanvas.formats.loaded import Loaded
from brightcanvas.formats.pictures.picture_reading import opened, orientation_of, pixels_of
from brightcanvas.values.errors import SourceError
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import plain_number
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


DEFAULT_DURATION = 100
"""Milliseconds of a frame that states none."""


@dataclass(frozen=True)
class Animation:
    """An animated picture."""

    frames: tuple[Raster, ...]
    durations: tuple[int, ...]
    """Milliseconds."""
    loops: int
    """How often it plays; 0 is for ever."""


def frame_count(file: Loaded) -> int:
    """How many frames a picture has; 1 for a still."""
    if file.kind.is_paged:
        return 1
    with opened(file) as image:
        return int(getattr(image, "n_frames", 1))


def read_animation(file: Loaded, limit: float) -> Animation:
    """All frames of an animated picture.

    Args:
        file: of it.
        limit: megapixels of all frames together, at most: they are in memory at once.

    Raises:
        SourceError: there are more, or it is damaged.
    """
    with opened(file) as image:
        count = int(getattr(image, "n_frames", 1))
        megapixels = count * image.width * image.height / 1e6
        if megapixels > limit:
            raise SourceError(
                f"{file.name}: its {count} frames are {megapixels:,.0f} megapixels together, more"
                f" than the limit of {plain_number(limit)}. Make a clip of it, or raise"
                " --largest-source."
            )
        frames, durations = [], []
        for frame in ImageSequence.Iterator(image):
            durations.append(int(frame.info.get("duration") or DEFAULT_DURATION))
            frames.append(Raster(pixels_of(frame.convert("RGBA"))))
        return Animation(tuple(frames), tuple(durations), int(image.info.get("loop", 0)))


def encode_animation(animation: Animation, quality: int, *, lossless: bool) -> bytes:
    """An animated WebP.

    Args:
        animation: its frames and how long each is shown.
        quality: 0 to 100; of a lossless one the effort.
        lossless: whether every px is kept.
    """
    first, *others = [Image.fromarray(frame.pixels) for frame in animation.frames]
    out = io.BytesIO()
    first.save(
        out,
        "WEBP",
        save_all=True,
        append_images=others,
        duration=list(animation.durations),
        loop=animation.loops,
        quality=quality,
        lossless=lossless,
        method=4,
    )
    return out.getvalue()
