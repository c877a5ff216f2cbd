"""Pictures that differ a little from themselves, so that lossless codecs find less to keep."""

from __future__ import annotations

import numpy as np

from brightcanvas.values.raster import Raster


def nearly_same(picture: Raster, bits: int) -> Raster:
    """The picture with its lowest bits rounded away where neighbours differ anyway.

    Even areas and smooth slopes stay as they are: rounding would band them.

    Args:
        picture: any.
        bits: how many of the eight are given up.
    """
    pixels = picture.pixels.astype(np.int16)
    step = 1 << bits
    rough = np.zeros(pixels.shape[:2], bool)
    across = np.abs(np.diff(pixels, axis=1)).max(axis=2) >= step
    down = np.abs(np.diff(pixels, axis=0)).max(axis=2) >= step
    rough[:, 1:] |= across
    rough[:, :-1] |= across
    rough[1:] |= down
    rough[:-1] |= down
    rounded = np.clip((pixels + step // 2) // step * step, 0, 255)
    return Raster(np.where(rough[..., None], rounded, pixels).astype(np.uint8))
