"""Animated pictures: their frames in, one animated WebP out."""

from __future__ import annotations

import io
from dataclasses import dataclass

from PIL import Image, ImageSequence

from brightcanvas.formats.loaded import Loaded
from brightcanvas.formats.pictures import opened, pixels_of
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import plain_number
from brightcanvas.values.raster import Raster

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
