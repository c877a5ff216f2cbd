"""Pictures as they are compared: planes of OKLab at the scales that count.

Coarser planes are made of means of sRGB codes, as browsers scale pictures down.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.raster import Raster
from brightcanvas.tone.light import to_light
from brightcanvas.tone.oklab import colour_of_responses, lightness_of_responses, responses
from brightcanvas.weight.smoothing import TAPS, Plane

ROWS = 32
"""Rows that are turned into OKLab at once: few enough to stay in the processor's cache."""

COARSEST = 4
"""Of the levels that codes are summed to: sums of 256 codes fit into 16 bits."""

STRIP = 24
"""Rows of a strip."""

STRIP_STEP = 4
"""Rows between windows in strips."""

WINDOWS = 1 + (STRIP - TAPS) // STRIP_STEP
"""Rows of windows that lie wholly within one strip."""


@dataclass(frozen=True)
class Seeing:
    """Under what a picture is seen."""

    veil: Colour | None
    """An even scrim."""
    ground: float
    """The grey behind transparent parts, 0 (black) to 1 (white)."""


@dataclass(frozen=True)
class Strips:
    """Rows that stand for a picture: one strip of STRIP samples out of each row of regions."""

    starts: tuple[int, ...]
    """First rows, in samples."""
    block: int
    """Px across a sample."""

    def of(self, picture: Raster) -> Raster:
        """The strips of a picture, one above the other."""
        rows = [start * self.block + np.arange(STRIP * self.block) for start in self.starts]
        return Raster(picture.pixels[np.concatenate(rows)])

    def whole(self, values: Plane) -> Plane:
        """Of the windows over stacked strips those that lie wholly within one."""
        period = STRIP // STRIP_STEP
        rows = np.arange(len(self.starts))[:, None] * period + np.arange(WINDOWS)
        return np.asarray(values[rows.ravel()])


def strips_of(height: int, region: float, regions: int, block: int) -> Strips:
    """Strips for a plane, at varying places of the regions so that no codec's blocks stand out.

    Args:
        height: of the plane, in samples.
        region: samples across a region.
        regions: how many rows of regions there are.
        block: px across a sample.
    """
    room = max(region - STRIP, 0)
    starts = (round(row * region + room * (row % 3) / 2) for row in range(regions))
    return Strips(tuple(min(start, height - STRIP) for start in starts), block)


def lightness(picture: Raster, seeing: Seeing, level: int) -> Plane:
    """OKLab lightness, of 2**level px to a sample."""
    plane = np.empty(_shape(picture, level), np.float32)
    for rows, light in _lit(picture, seeing, level):
        plane[rows] = lightness_of_responses(responses(light))
    return plane


def seen(picture: Raster, seeing: Seeing, level: int) -> tuple[Plane, ...]:
    """OKLab's three planes, of 2**level px to a sample."""
    planes = _blank(_shape(picture, level))
    for rows, light in _lit(picture, seeing, level):
        _fill(planes, rows, responses(light))
    return planes


def seen_finely(picture: Raster, seeing: Seeing, level: int) -> tuple[Plane, tuple[Plane, ...]]:
    """Lightness at a level, and all three planes at the next."""
    height, width = _shape(picture, level)
    finest = np.empty((height, width), np.float32)
    planes = _blank((height // 2, width // 2))
    for rows, light in _lit(picture, seeing, level):
        cones = responses(light)
        finest[rows] = lightness_of_responses(cones)
        _fill(planes, slice(rows.start // 2, rows.stop // 2), [halved(one) for one in cones])
    return finest, planes


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
    if veil is None:
        return (to_light(codes).astype(np.float32),) * 3
    tints = (veil.red, veil.green, veil.blue)
    seen_codes = (codes * (1 - veil.alpha) + tint * veil.alpha for tint in tints)
    return tuple(to_light(one).astype(np.float32) for one in seen_codes)
