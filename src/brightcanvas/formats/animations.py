"""Animated pictures: their frames in, one animated WebP out."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

from PIL import Image, ImageSequence

from brightcanvas.formats.kinds import kind_of
from brightcanvas.formats.pictures import explained, pixels_of
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


def frame_count(path: Path) -> int:
    """How many frames a picture has; 1 for a still."""
    with explained(path), Image.open(path, formats=[kind_of(path).codec]) as image:
        return int(getattr(image, "n_frames", 1))


def read_animation(path: Path) -> Animation:
    """All frames of an animated picture."""
    with explained(path), Image.open(path, formats=[kind_of(path).codec]) as image:
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
