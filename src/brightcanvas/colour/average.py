"""The one colour that stands for a picture."""

from __future__ import annotations

import numpy as np

from brightcanvas.colour.light import light_of_code, to_codes
from brightcanvas.values.colours import Colour
from brightcanvas.values.raster import Raster

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
