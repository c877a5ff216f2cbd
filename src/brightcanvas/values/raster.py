"""A decoded picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.values.geometry import Size


@dataclass(frozen=True, eq=False)
class Raster:
    """Pixels as sRGB encodes them, upright.

    ``pixels`` has the shape (height, width, 3) or, with alpha, (height, width, 4), dtype
    uint8. Alpha is not multiplied into the colours.
    """

    pixels: NDArray[np.uint8]

    @property
    def size(self) -> Size:
        """Width and height in px."""
        return Size(self.pixels.shape[1], self.pixels.shape[0])

    @property
    def has_alpha(self) -> bool:
        """Whether there is a fourth channel."""
        return bool(self.pixels.shape[2] == 4)
