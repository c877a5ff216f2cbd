"""How hard a picture was last compressed: from its tables or headers, else from its pixels."""

from __future__ import annotations

import io
import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from brightcanvas.formats.bits import Bits, EvenBools
from brightcanvas.formats.jpegtables import LUMINANCE, quality_of_tables, scaled
from brightcanvas.formats.pictures import explained_content

MANY_BLOCKS = 4000
"""Blocks of 8 by 8 px that are looked at, at most."""

LIKELY = 0.75
"""Share of coefficients that must lie on the steps of a table for it to be believed."""

_STILLS = ((0, 6, 22, 41, 63, 76, 87, 95, 100), (0, 10, 30, 50, 70, 80, 90, 97, 100))
"""What the usual encoder makes of stills: plain indices, and the qualities that were asked for."""

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
    with explained_content(name), Image.open(io.BytesIO(content)) as image:
        codec = image.format or ""
        tables = getattr(image, "quantization", None)
        grey = np.asarray(image.convert("L"), np.float32)
    if tables:
        return Past("JPEG", quality_of_tables(tables))
    told = {"WEBP": _webp_quality, "AVIF": _avif_quality}.get(codec)
    try:
        quality = told(content) if told else None
    except (EOFError, IndexError, struct.error):
        quality = None
    if quality is not None:
        return Past("WebP" if codec == "WEBP" else "AVIF", quality)
    before = _jpeg_quality_of_pixels(grey)
    if before is not None:
        return Past("JPEG", before, from_pixels=True)
    return Past({"WEBP": "WebP"}.get(codec, codec), None)


def _webp_quality(content: bytes) -> int | None:
    """From the quantisers of the segments (RFC 6386, section 9), on the usual encoder's scale."""
    at = content.find(b"VP8 ", 12)
    if at < 0:
        return None
    bools = EvenBools(content[at + 8 + 10 :])
    bools.read(2)  # the colour space, and whether values are clamped
    indices = _segment_indices(bools)
    bools.read(1 + 6 + 3)  # the loop filter
    if bools.flag() and bools.flag():
        for _ in range(8):
            bools.optional(6)
    bools.read(2)  # partitions
    index = float(np.mean(indices)) if indices else bools.read(7)
    linear = (1 - index / 127) ** 3
    return round(100 * (linear * 1.5 if linear < 0.5 else (linear + 1) / 2))


def _segment_indices(bools: EvenBools) -> list[int]:
    if not bools.flag():
        return []
    maps, data = bools.flag(), bools.flag()
    indices: list[int] = []
    if data:
        is_absolute = bools.flag()
        indices = [bools.optional(7) for _ in range(4)]
        for _ in range(4):
            bools.optional(6)
        indices = indices if is_absolute else []
    for _ in range(3 if maps else 0):
        if bools.flag():
            bools.read(8)
    return indices


def _avif_quality(content: bytes) -> int | None:
    """From the frame's base index (AV1 specification, sections 5.5 and 5.9)."""
    at = content.find(b"mdat")
    if at < 0:
        return None
    sequence = _obu(content, at + 4, wanted=1) or _obu(content, content.find(b"av1C") + 8, wanted=1)
    frame = _obu(content, at + 4, wanted=6)
    if sequence is None or frame is None:
        return None
    index = _base_index(Bits(sequence), Bits(frame))
    if index is None:
        return None
    return round(float(np.interp(100 - index / 4 * 100 / 63, *_STILLS)))


def _obu(content: bytes, at: int, wanted: int) -> bytes | None:
    """The payload of the first open bitstream unit of a type."""
    for _ in range(8):
        if at >= len(content):
            return None
        head = content[at]
        at += 2 if head & 4 else 1
        length, shift = 0, 0
        while head & 2:
            length |= (content[at] & 127) << shift
            shift += 7
            at += 1
            if not content[at - 1] & 128:
                break
        if head >> 3 & 15 == wanted:
            return content[at : at + length] if head & 2 else content[at:]
        at += length
    return None


def _base_index(sequence: Bits, frame: Bits) -> int | None:
    """The quantiser's index of a still picture; None for headers of other kinds."""
    sequence.read(4)
    if not sequence.flag():  # only reduced headers, which still pictures have
        return None
    sequence.read(5)
    bits = sequence.read(4) + 1, sequence.read(4) + 1
    width, height = sequence.read(bits[0]) + 1, sequence.read(bits[1]) + 1
    has_large_blocks = sequence.flag()
    sequence.read(2)
    has_superres = sequence.flag()
    frame.read(1)
    screen_tools = frame.flag()
    if screen_tools:
        frame.read(1)
    if has_superres and frame.flag():
        return None
    if frame.flag():
        frame.read(32)
    if screen_tools:
        frame.read(1)
    return (
        frame.read(8)
        if _skip_tiles(frame, width, height, 128 if has_large_blocks else 64)
        else None
    )


def _skip_tiles(frame: Bits, width: int, height: int, block: int) -> bool:
    """Pass over the tiles' layout (section 5.9.15); False where it is not an even one."""
    columns, rows = -(-width // block), -(-height // block)
    if not frame.flag():
        return False
    most_across, most = 4096 // block, 4096 * 2304 // block**2
    across = _log2(columns, most_across)
    least = max(across, _log2(columns * rows, most))
    across = _raised(frame, across, _log2(min(columns, 64), 1))
    down = _raised(frame, max(least - across, 0), _log2(min(rows, 64), 1))
    if across or down:
        frame.read(across + down + 2)
    return True


def _log2(size: int, unit: int) -> int:
    power = 0
    while unit << power < size:
        power += 1
    return power


def _raised(frame: Bits, value: int, most: int) -> int:
    while value < most and frame.flag():
        value += 1
    return value


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
