"""Clips with a known truth, made for tests."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import cast

import av
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

Codes = NDArray[np.uint8]
SIZE = (192, 108)
RATE = 24


def scene(seed: int, size: tuple[int, int] = SIZE, coarse: float = 1.5) -> NDArray[np.float32]:
    """A still scene with detail of all sizes, 0..1, of shape (height, width, 3)."""
    noise = np.random.default_rng(seed)
    height, width = size[1], size[0]
    parts = [
        ndimage.gaussian_filter(noise.normal(size=(height, width, 3)), (blur, blur, 0)) * blur
        for blur in (coarse, 4 * coarse, 12 * coarse)
    ]
    field = np.sum(parts, axis=0)
    return np.asarray(np.clip(0.5 + field * 0.35, 0.02, 0.98), np.float32)


def codes(picture: NDArray[np.floating]) -> Codes:
    """A picture of 0..1 as codes."""
    return np.asarray(np.clip(picture * 255 + 0.5, 0, 255)).astype(np.uint8)


def write(
    path: Path,
    pictures: Iterable[Codes],
    rate: int = RATE,
    codec: str = "libx264",
    pix_fmt: str = "yuv420p",
    times: Callable[[int], int] | None = None,
    options: dict[str, str] | None = None,
    pixel_shape: Fraction | None = None,
) -> Path:
    """Pictures as a clip; ``times`` gives each its time stamp in thousandths of a second."""
    defaults = {"crf": "16", "preset": "veryfast"} if codec == "libx264" else {}
    with av.open(str(path), "w") as container:
        stream = cast(
            av.VideoStream, container.add_stream(codec, rate=rate, options=options or defaults)
        )
        stream.pix_fmt = pix_fmt
        if pixel_shape:
            stream.sample_aspect_ratio = pixel_shape
        if times:
            stream.time_base = stream.codec_context.time_base = Fraction(1, 1000)
        for number, picture in enumerate(pictures):
            if number == 0:
                stream.width, stream.height = picture.shape[1], picture.shape[0]
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            if times:
                frame.pts, frame.time_base = times(number), Fraction(1, 1000)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def panned(picture: NDArray[np.floating], across: float) -> NDArray[np.floating]:
    """A scene that goes round, moved by a share of its width."""
    return np.roll(picture, round(across * picture.shape[1]), axis=1)


def jump_of(frames: Sequence[Codes]) -> float:
    """From the last frame to the first, in median steps from frame to frame."""
    reduced = [frame[::3, ::3].astype(float) for frame in frames]
    steps = [np.sqrt(np.mean((b - a) ** 2)) for a, b in pairwise(reduced)]
    return float(np.sqrt(np.mean((reduced[-1] - reduced[0]) ** 2)) / np.median(steps))
