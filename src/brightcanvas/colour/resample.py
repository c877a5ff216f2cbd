"""Resizing in linear light, with a windowed sinc widened for reduction.

The kernel is Lanczos' with three lobes (C. Duchon, "Lanczos Filtering in One and Two
Dimensions", J. Appl. Meteor. 18, 1979). For reduction it is stretched by the scale, so that
it cuts off at the new size's Nyquist frequency. Both passes are products with banded
matrices; they are cut into small dense blocks, because a dense product of such a block
runs faster than a sparse one. Work goes band by band over the result, so that the extra
memory does not grow with the source.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.spaces import codes_from_light, light_of_code
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.raster import Raster

LOBES = 3.0
AT_ONCE = 8_000_000
"""Px of the source whose light is in memory at once."""

BLOCK = 32
"""Rows or columns of the result that are computed at once."""


@dataclass(frozen=True)
class WeightBlock:
    """Weights for some neighbouring samples of the result.

    ``weights`` has the shape (samples of the result, samples of the source from ``first``).
    """

    start: int
    first: int
    weights: NDArray[np.float32]

    @property
    def stop(self) -> int:
        """One past the last sample of the result."""
        return self.start + len(self.weights)

    @property
    def last(self) -> int:
        """One past the last sample of the source."""
        return self.first + int(self.weights.shape[1])


def resize(source: Raster, area: Rect, width: int, height: int) -> Raster:
    """The part ``area`` of a picture at a new size.

    Args:
        source: what is resized.
        area: in source px, fractions allowed, within the picture. Pixels beyond its edges
            still count where the kernel reaches them.
        width: of the result, px.
        height: of the result, px.

    Returns:
        The resized picture, with alpha if the source has it.
    """
    rows = blocks(source.pixels.shape[0], Span(area.top, area.bottom), height)
    columns = blocks(source.pixels.shape[1], Span(area.left, area.right), width)
    channels = source.pixels.shape[2]
    result = np.empty((height, width, channels), np.uint8)
    left, right = columns[0].first, max(block.last for block in columns)
    for band in rows:
        squeezed = _squeezed(band, source.pixels[band.first : band.last, left:right])
        across = _across(squeezed, columns, left, width)
        result[band.start : band.stop] = _codes(across)
    return Raster(result)


def blocks(length: int, part: Span, count: int) -> list[WeightBlock]:
    """Weights that resample ``part`` of ``length`` samples to ``count`` samples.

    Each row of weights sums to 1; at the source's edges the kernel is cut off and scaled up.
    """
    return [
        _block(length, part, count, start, min(start + BLOCK, count))
        for start in range(0, count, BLOCK)
    ]


def _block(length: int, part: Span, count: int, start: int, stop: int) -> WeightBlock:
    scale = (part.high - part.low) / count
    stretch = max(scale, 1.0)
    centres = part.low + (np.arange(start, stop) + 0.5) * scale
    first = max(0, int(np.floor(centres[0] - LOBES * stretch)))
    last = min(length, int(np.ceil(centres[-1] + LOBES * stretch)) + 1)
    samples = np.arange(first, last) + 0.5
    weights = lanczos((samples[None, :] - centres[:, None]) / stretch)
    weights /= weights.sum(axis=1, keepdims=True)
    return WeightBlock(start, first, weights.astype(np.float32))


def lanczos(x: NDArray[np.float64]) -> NDArray[np.float64]:
    """Lanczos' kernel with three lobes: sinc(x) sinc(x / 3) within -3..3, else 0."""
    return np.where(np.abs(x) < LOBES, np.sinc(x) * np.sinc(x / LOBES), 0.0)


def _light(codes: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Linear light, with alpha multiplied in, of shape (rows, columns, channels)."""
    light = light_of_code().take(codes, mode="clip")  # its fastest mode
    if codes.shape[2] == 4:
        alpha = codes[..., 3].astype(np.float32) / np.float32(255)
        light *= alpha[..., None]
        light[..., 3] = alpha
    return light


def _squeezed(band: WeightBlock, codes: NDArray[np.uint8]) -> NDArray[np.float32]:
    """The rows of a band; of a huge picture a few of its rows after the other."""
    step = max(1, AT_ONCE // codes.shape[1])
    parts = (
        _down(band.weights[:, first : first + step], _light(codes[first : first + step]))
        for first in range(0, len(codes), step)
    )
    return reduce(np.add, parts)


def _down(weights: NDArray[np.float32], light: NDArray[np.float32]) -> NDArray[np.float32]:
    """Resample the rows; the result is split by channel: (rows, channels, columns)."""
    count, columns, channels = weights.shape[0], light.shape[1], light.shape[2]
    squeezed = weights @ light.reshape(light.shape[0], columns * channels)
    split = squeezed.reshape(count, columns, channels).transpose(0, 2, 1)
    return np.ascontiguousarray(split)


def _across(
    squeezed: NDArray[np.float32], columns: list[WeightBlock], left: int, width: int
) -> NDArray[np.float32]:
    """Resample the columns: (rows, channels, columns) to (rows, channels, width)."""
    rows, channels, span = squeezed.shape
    flat = squeezed.reshape(rows * channels, span)
    across = np.empty((rows * channels, width), np.float32)
    for block in columns:
        part = flat[:, block.first - left : block.last - left]
        across[:, block.start : block.stop] = part @ block.weights.T
    return across.reshape(rows, channels, width)


def _codes(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    """From (rows, channels, columns) of light to (rows, columns, channels) of codes."""
    if light.shape[1] == 3:
        return codes_from_light(light).transpose(0, 2, 1)
    alpha = np.clip(light[:, 3], 0, 1)
    colour = np.asarray(light[:, :3] / np.maximum(alpha, 1e-6)[:, None], np.float32)
    codes = np.empty(light.shape, np.uint8)
    codes[:, :3] = codes_from_light(colour)
    codes[:, 3] = np.round(alpha * 255)
    return codes.transpose(0, 2, 1)


FAR = 3.0
"""Source px to one of the result from which the half size serves as well: what it lacks is finer
than the result's own px by half at least."""


class Reducible:
    """A picture, and its half size once somebody needs it."""

    def __init__(self, picture: Raster) -> None:
        self.picture = picture
        self._lock = Lock()
        self._half: Raster | None = None

    def resized(self, area: Rect, width: int, height: int) -> Raster:
        """The part ``area`` (source px, fractions allowed) at a new size in px.

        Args:
            area: of the source, px; fractions are allowed.
            width: of the result, px.
            height: of the result, px.
        """
        if min(area.width / width, area.height / height) < FAR:
            return resize(self.picture, area, width, height)
        half, whole = self._halved(), self.picture.size
        shares = Size(half.size.width / whole.width, half.size.height / whole.height)
        return resize(half, area.scaled(shares), width, height)

    def _halved(self) -> Raster:
        with self._lock:
            if self._half is None:
                size = self.picture.size
                width, height = size.times(0.5).rounded
                whole = Rect(0, 0, size.width, size.height)
                self._half = resize(self.picture, whole, width, height)
            return self._half
