"""The one colour that stands for a picture."""

from __future__ import annotations

import numpy as np

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.raster import Raster
from brightcanvas.tone.light import light_of_code, to_codes


def average_colour(picture: Raster) -> Colour:
    """The picture's mean light as an opaque colour; transparent parts count for nothing."""
    light = light_of_code().take(picture.pixels[..., :3], mode="clip").reshape(-1, 3)
    if picture.has_alpha:
        alpha = picture.pixels[..., 3].reshape(-1, 1).astype(np.float32)
        total = float(alpha.sum(dtype=np.float64))
        mean = (light * alpha).sum(axis=0, dtype=np.float64) / total if total else np.ones(3)
    else:
        mean = light.mean(axis=0, dtype=np.float64)
    red, green, blue = (float(part) for part in to_codes(mean))
    return Colour(red, green, blue)
