"""How hard a picture was last compressed: from its tables or headers, else from its pixels."""

from __future__ import annotations

import io
import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from brightcanvas.formats.codec_libraries import explained, our_switches
from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.codecs.jpeg import LUMINANCE, quality_of_tables, scaled
from brightcanvas.values.file_formats import FileFormat

MANY_BLOCKS = 4000
"""Blocks of 8 by 8 px that are looked at, at most."""

LIKELY = 0.75
"""Share of coefficients that must lie on the steps of a table for it to be believed."""


STEPS = (1, 8, 9, 16, 2)
"""The lowest frequencies of a block, in reading order: the last to vanish."""


@dataclass(frozen=True)
class Past:
    """How a picture was last compressed."""

    codec: str
    """As people call it; that of the pixels' past where ``from_pixels``."""
    quality: int | None
    """0 to 100 on the codec's usual scale; None: without loss, as far as can be told."""
    from_pixels: bool = False

    @property
    def text(self) -> str:
        """In a few words."""
        if self.quality is None:
            return f"{self.codec}, no loss to be seen"
        told = f"{self.codec} quality about {self.quality}"
        return f"{told} before it was saved as it is" if self.from_pixels else told


def past_of(content: bytes, name: str) -> Past:
    """How a picture was last compressed.

    Args:
        content: of its file.
        name: of it, for messages.

    Raises:
        SourceError: it is no picture, or damaged.
    """
    with explained(name), our_switches(), Image.open(io.BytesIO(content)) as image:
        codec = next((one for one in FileFormat if one.name == image.format), None)
        name_of_codec = codec.label if codec else image.format or ""
        tables = getattr(image, "quantization", None)
        grey = np.asarray(image.convert("L"), np.float32)
    if tables:
        return Past("JPEG", quality_of_tables(tables))
    told = codec_of(codec).past if codec else None
    try:
        quality = told(content) if told else None
    except (EOFError, IndexError, struct.error):
        quality = None
    if quality is not None:
        return Past(name_of_codec, quality)
    before = _jpeg_quality_of_pixels(grey)
    if before is not None:
        return Past("JPEG", before, from_pixels=True)
    return Past(name_of_codec, None)


def _jpeg_quality_of_pixels(grey: NDArray[np.float32]) -> int | None:
    """The quality of a JPEG that pixels once were: their frequencies lie on its table's steps."""
    from scipy import fft

    blocks = _blocks(grey)
    if len(blocks) < 16:
        return None
    coefficients = fft.dctn(blocks - 128, axes=(1, 2), norm="ortho").reshape(len(blocks), 64)
    chosen = coefficients[:, STEPS]
    best, quality = 0.0, None
    for candidate in range(10, 93):
        steps = scaled(LUMINANCE, candidate)[list(STEPS)]
        if steps.min() < 3:
            break
        found = _on_steps(chosen, steps)
        if found > best + 0.01:
            best, quality = found, candidate
    return quality if best >= LIKELY else None


def _blocks(grey: NDArray[np.float32]) -> NDArray[np.float32]:
    height, width = (side // 8 for side in grey.shape)
    whole = grey[: height * 8, : width * 8].reshape(height, 8, width, 8).swapaxes(1, 2)
    flat = whole.reshape(-1, 8, 8)
    return flat[:: max(1, len(flat) // MANY_BLOCKS)]


def _on_steps(coefficients: NDArray[np.float32], steps: NDArray[np.int64]) -> float:
    """How much of what is not zero lies on multiples of the steps, beyond chance."""
    ratios = coefficients / steps
    matters = np.abs(ratios) > 0.6
    if matters.sum() < 50:
        return 0.0
    off = np.abs(ratios - np.round(ratios)) * steps
    near = np.minimum(1.2, 0.25 * steps)
    chance = (2 * near / steps).clip(max=1)
    hit = (off < near).astype(float)
    score = (hit - chance) / np.maximum(1 - chance, 1e-6)
    return float((score * matters).sum() / matters.sum())
