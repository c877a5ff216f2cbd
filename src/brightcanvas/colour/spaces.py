"""Linear light, and OKLab, in which lightness, colour and strength can be changed apart.

Linear light: IEC 61966-2-1, as CSS Color 4 section 10.2 has it. OKLab:
B. Ottosson, "A perceptual color space for image processing", 2020; CSS Color 4, section 10.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from brightcanvas.values.colours import Colour
from brightcanvas.values.raster import Raster

CODE_STEPS = 1 << 14
"""Steps of the table from light to codes. At its finest the sRGB curve rises 12.92 codes'
worth per unit, so a step is at most 0.2 of a code and rounding is right to 0.1 of one."""


def to_light(codes: NDArray[np.floating]) -> NDArray[np.floating]:
    """Linear light (0..1) of sRGB values in 0..1, of any shape."""
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)


def to_codes(light: NDArray[np.floating]) -> NDArray[np.floating]:
    """The sRGB values (0..1) of linear light in 0..1, of any shape."""
    return np.where(
        light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 0) ** (1 / 2.4) - 0.055
    )


@cache
def light_of_code() -> NDArray[np.float32]:
    """Linear light of each of the 256 codes, shape (256,), float32."""
    return to_light(np.arange(256) / 255).astype(np.float32)


@cache
def code_of_light() -> NDArray[np.uint8]:
    """The code of light ``i / CODE_STEPS`` for each ``i``, shape (CODE_STEPS + 1,)."""
    light = np.arange(CODE_STEPS + 1) / CODE_STEPS
    return np.round(to_codes(light) * 255).astype(np.uint8)


def codes_from_light(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Round linear light of any shape, clipped to 0..1, to sRGB codes."""
    steps = np.clip(light, 0, 1)
    steps *= CODE_STEPS
    steps += 0.5
    return code_of_light().take(steps.astype(np.uint16), mode="clip")


ENOUGH = 512
"""Px of the shorter side that are enough to tell a mean colour."""


def average_colour(picture: Raster) -> Colour:
    """The picture's mean light as an opaque colour; transparent parts count for nothing.

    Of a large picture, pixels at even steps stand for it.
    """
    step = max(1, min(picture.pixels.shape[:2]) // ENOUGH)
    pixels = picture.pixels[::step, ::step]
    if picture.has_alpha:
        light = light_of_code().take(pixels[..., :3], mode="clip").reshape(-1, 3)
        alpha = pixels[..., 3].reshape(-1, 1).astype(np.float32)
        total = float(alpha.sum(dtype=np.float64))
        mean = (light * alpha).sum(axis=0, dtype=np.float64) / total if total else np.ones(3)
    else:
        flat = pixels.reshape(-1, 3)
        counts = [np.bincount(flat[:, channel], minlength=256) for channel in range(3)]
        mean = np.array([count @ light_of_code() / len(flat) for count in counts])
    red, green, blue = (float(part) for part in to_codes(mean))
    return Colour(red, green, blue)


# Linear sRGB to XYZ, each row divided by the white point; IEC 61966-2-1.
_TO_XYZ = np.array(
    [
        [0.4124564 / 0.95047, 0.3575761 / 0.95047, 0.1804375 / 0.95047],
        [0.2126729, 0.7151522, 0.0721750],
        [0.0193339 / 1.08883, 0.1191920 / 1.08883, 0.9503041 / 1.08883],
    ]
)


def lab_from_light(light: NDArray[np.floating]) -> NDArray[np.float64]:
    """L* (0..100), a* and b* of linear sRGB light in 0..1; the last axis holds the channels."""
    xyz = light @ _TO_XYZ.T
    cubes = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    x, y, z = cubes[..., 0], cubes[..., 1], cubes[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


Field = NDArray[np.floating[Any]]

_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ],
    np.float32,
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ],
    np.float32,
)
_FROM_LAB = np.linalg.inv(_TO_LAB.astype(np.float64)).astype(np.float32)
_FROM_CONES = np.linalg.inv(_TO_CONES.astype(np.float64)).astype(np.float32)


def oklab_from_light(light: Field) -> Field:
    """L (0..1), a and b of linear sRGB light; the last axis holds the channels."""
    return np.asarray(np.cbrt(np.maximum(light, 0) @ _TO_CONES.T) @ _TO_LAB.T)


def light_from_oklab(lab: Field) -> Field:
    """Linear sRGB light, which may lie outside 0..1, of OKLab values."""
    return np.asarray((lab @ _FROM_LAB.T) ** 3 @ _FROM_CONES.T)


Planes = Sequence[Field]
"""Three planes, one for each channel: quicker to work on than pixels side by side."""


def _mixed(planes: Planes, weights: Field) -> Field:
    mixed = planes[0] * weights[0]
    for plane, weight in zip(planes[1:], weights[1:], strict=True):
        mixed += plane * weight
    return np.asarray(mixed)


def responses(light: Planes) -> list[Field]:
    """The cube roots of the cones' responses to linear light (0..1), of which OKLab is made."""
    return [np.cbrt(_mixed(light, row)) for row in _TO_CONES]


def lightness_of_responses(cones: Planes) -> Field:
    """OKLab's L alone."""
    return _mixed(cones, _TO_LAB[0])


def colour_of_responses(cones: Planes) -> tuple[Field, Field]:
    """OKLab's a and b alone."""
    return _mixed(cones, _TO_LAB[1]), _mixed(cones, _TO_LAB[2])
