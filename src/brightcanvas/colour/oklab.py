"""OKLab, a perceptual space in which lightness, colour and strength can be changed apart.

B. Ottosson, "A perceptual color space for image processing", 2020; CSS Color 4, section 10.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

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
