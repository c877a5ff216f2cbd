"""OKLab, a perceptual space in which lightness, colour and strength can be changed apart.

B. Ottosson, "A perceptual color space for image processing", 2020; CSS Color 4, section 10.
"""

from __future__ import annotations

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


def responses(light: Field) -> Field:
    """The cube roots of the cones' responses to linear light, from which OKLab is made."""
    flat = light.reshape(-1, 3) @ _TO_CONES.T
    np.maximum(flat, 0, out=flat)
    return np.asarray(np.cbrt(flat, out=flat).reshape(light.shape))


def lightness_of_responses(cones: Field) -> Field:
    """OKLab's L alone; one axis less than the responses have."""
    return np.asarray(cones @ _TO_LAB[0])


def colour_of_responses(cones: Field) -> tuple[Field, Field]:
    """OKLab's a and b alone."""
    return cones @ _TO_LAB[1], cones @ _TO_LAB[2]
