"""CIE L*a*b* (ISO/CIE 11664-4) of sRGB, for the white of D65."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

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
