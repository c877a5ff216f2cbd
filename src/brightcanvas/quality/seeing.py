"""Pictures as they are compared: planes of OKLab at the scales that count.

Like the resizing in ``colour.resample``, each product is cut into small dense blocks: that is
several times as fast as a filter that walks over the samples.

Coarser planes are made of means of sRGB codes, as browsers scale pictures down.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.resample import WeightBlock
from brightcanvas.colour.spaces import (
    colour_of_responses,
    lightness_of_responses,
    responses,
    to_light,
)
from brightcanvas.formats.pictures.picture_reading import resampled
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster

TAPS = 11
SIGMA = 1.5
"""Samples; the window of Z. Wang et al., "Image quality assessment: from error visibility to
structural similarity", IEEE Trans. Image Processing 13(4), 2004, section III C."""
RADIUS = TAPS // 2

BLOCK = 48
"""Samples that the windows computed at once begin in."""

Plane = NDArray[np.float32]


def smoothed(plane: Plane, step: int = 1, times: Plane | None = None) -> Plane:
    """Weighted means over all windows that lie wholly within the plane.

    Args:
        plane: of shape (height, width), both at least TAPS.
        step: how many samples apart the windows lie.
        times: another plane; with it, the means of the product of both.

    Returns:
        Means of shape (1 + (height - TAPS) // step, 1 + (width - TAPS) // step).
    """
    rows = _blocks(plane.shape[0], step)
    columns = _blocks(plane.shape[1], step)
    squeezed = np.empty((rows[-1].stop, plane.shape[1]), np.float32)
    for block in rows:
        part = plane[block.first : block.last]
        if times is not None:
            part = part * times[block.first : block.last]
        np.matmul(block.weights, part, squeezed[block.start : block.stop])
    result = np.empty((squeezed.shape[0], columns[-1].stop), np.float32)
    for block in columns:
        part = squeezed[:, block.first : block.last]
        np.matmul(part, block.weights.T, result[:, block.start : block.stop])
    return result


@lru_cache(maxsize=64)
def _blocks(length: int, step: int) -> tuple[WeightBlock, ...]:
    count = 1 + (length - TAPS) // step
    size = max(8, BLOCK // step)
    return tuple(_block(start, min(start + size, count), step) for start in range(0, count, size))


def _block(start: int, stop: int, step: int) -> WeightBlock:
    rows = stop - start
    weights = np.zeros((rows, (rows - 1) * step + TAPS), np.float32)
    for row in range(rows):
        weights[row, row * step : row * step + TAPS] = gaussian()
    return WeightBlock(start, start * step, weights)


@lru_cache(maxsize=1)
def gaussian() -> NDArray[np.float64]:
    """The window's weights along one axis, shape (TAPS,), summing to 1."""
    distances = np.arange(TAPS) - RADIUS
    weights = np.exp(-(distances**2) / (2 * SIGMA**2))
    return np.asarray(weights / weights.sum())


ROWS = 32
"""Rows that are turned into OKLab at once: few enough to stay in the processor's cache."""

FLARE = 0.005
"""Light of the room that the screen throws back, of its white: the darkest tones drown in it
(IEC 61966-2-1 reckons with 0.0025 in a darkened room)."""

COARSEST = 4
"""Of the levels that codes are summed to: sums of 256 codes fit into 16 bits."""


@dataclass(frozen=True)
class Seeing:
    """Under what a picture is seen."""

    veil: Colour | None
    """An even scrim."""
    ground: float
    """The grey behind transparent parts, 0 (black) to 1 (white)."""


def scaled(picture: Raster, size: Size) -> Raster:
    """A picture at another size, scaled as browsers scale pictures (on sRGB codes)."""
    if picture.size == size:
        return picture
    width, height = size.rounded
    return resampled(picture, width, height)


def seen(picture: Raster, seeing: Seeing, level: int) -> tuple[Plane, ...]:
    """OKLab's three planes, of 2**level px to a sample."""
    planes = _blank(_shape(picture, level))
    for rows, light in _lit(picture, seeing, level):
        _fill(planes, rows, responses(light))
    return planes


def seen_finely(picture: Raster, seeing: Seeing, level: int) -> tuple[Plane, tuple[Plane, ...]]:
    """Lightness at a level, and all three planes at the next.

    At the finer one the cube root of luminance stands for OKLab's lightness: they are the same
    for greys, and quicker to come by.
    """
    height, width = _shape(picture, level)
    finest = np.empty((height, width), np.float32)
    planes = _blank((height // 2, width // 2))
    for rows, light in _lit(picture, seeing, level):
        luminance = light[0] * LUMINANCE[0]
        luminance += light[1] * LUMINANCE[1]
        luminance += light[2] * LUMINANCE[2]
        np.cbrt(luminance, out=finest[rows])
        half = slice(rows.start // 2, rows.stop // 2)
        _fill(planes, half, responses([halved(one) for one in light]))
    return finest, planes


LUMINANCE = tuple(np.float32(share) for share in (0.2126, 0.7152, 0.0722))
"""Shares of red, green and blue light (IEC 61966-2-1)."""


def halved(plane: Plane) -> Plane:
    """Means of two by two samples."""
    height, width = plane.shape[0] // 2 * 2, plane.shape[1] // 2 * 2
    even, odd = plane[0:height:2], plane[1:height:2]
    rows = even[:, :width] + odd[:, :width]
    return np.asarray((rows[:, 0::2] + rows[:, 1::2]) * np.float32(0.25))


def _blank(shape: tuple[int, int]) -> tuple[Plane, ...]:
    return tuple(np.empty(shape, np.float32) for _ in range(3))


def _fill(planes: tuple[Plane, ...], rows: slice, cones: list[Plane]) -> None:
    planes[0][rows] = lightness_of_responses(cones)
    planes[1][rows], planes[2][rows] = colour_of_responses(cones)


def _shape(picture: Raster, level: int) -> tuple[int, int]:
    """Samples down and across, of which one window fits at least."""
    height, width = picture.pixels.shape[:2]
    return max(height >> level, TAPS), max(width >> level, TAPS)


def _lit(picture: Raster, seeing: Seeing, level: int) -> Iterator[tuple[slice, list[Plane]]]:
    """Red, green and blue light, some rows at a time."""
    block = 1 << level
    height, width = _shape(picture, level)
    pixels = _padded(picture, TAPS * block).pixels
    tables = _light_of_sums(seeing.veil, block * block)
    for start in range(0, height, ROWS):
        stop = min(start + ROWS, height)
        codes = _on_ground(pixels[start * block : stop * block, : width * block], seeing.ground)
        sums = _summed(codes, level)
        light = [table.take(sum_, mode="clip") for table, sum_ in zip(tables, sums, strict=True)]
        yield slice(start, stop), light


def _summed(codes: NDArray[np.uint8], level: int) -> list[NDArray[np.unsignedinteger]]:
    """Sums of 2**level by 2**level codes, for red, green and blue.

    The channels lie side by side: rows are added before they are taken apart, which is quicker.
    """
    if level == 0:
        return [codes[..., channel] for channel in range(3)]
    rows = np.add(codes[0::2], codes[1::2], dtype=np.uint16)
    planes = [rows[:, 0::2, channel] + rows[:, 1::2, channel] for channel in range(3)]
    for _ in range(level - 1):
        taller = [plane[0::2] + plane[1::2] for plane in planes]
        planes = [rows[:, 0::2] + rows[:, 1::2] for rows in taller]
    return planes


def _padded(picture: Raster, wanted: int) -> Raster:
    """A tiny picture, its edges repeated until one window fits."""
    height, width = picture.pixels.shape[:2]
    if min(height, width) >= wanted:
        return picture
    room = [(0, max(0, wanted - height)), (0, max(0, wanted - width)), (0, 0)]
    return Raster(np.pad(picture.pixels, room, mode="edge"))


def _on_ground(codes: NDArray[np.uint8], ground: float) -> NDArray[np.uint8]:
    """Codes without alpha, as they are on a grey ground (0 is black, 1 white)."""
    if codes.shape[2] == 3:
        return codes
    alpha = codes[..., 3:] * np.float32(1 / 255)
    seen_codes = codes[..., :3] * alpha + np.float32(ground * 255) * (1 - alpha)
    return np.asarray(seen_codes + np.float32(0.5)).astype(np.uint8)


@lru_cache(maxsize=16)
def _light_of_sums(veil: Colour | None, count: int) -> tuple[Plane, ...]:
    """The light of each sum of ``count`` codes under a veil, for red, green and blue."""
    codes = np.arange(255 * count + 1) / (255 * count)
    tints = (veil.red, veil.green, veil.blue) if veil else (0.0, 0.0, 0.0)
    strength = veil.alpha if veil else 0.0
    seen_codes = (codes * (1 - strength) + tint * strength for tint in tints)
    return tuple(((to_light(one) + FLARE) / (1 + FLARE)).astype(np.float32) for one in seen_codes)
