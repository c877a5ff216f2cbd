"""Faults planted into a patch of a picture, as codecs make them, in rising strength."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from brightcanvas.values.raster import Raster

PATCH = 128
"""Px across: two regions of the measure."""

Field = NDArray[Any]


def blocks(patch: Field, strength: float) -> Field:
    """Blocks of 8 px, each a little lighter or darker than it was."""
    rng = np.random.default_rng(3)
    offsets = rng.choice([-1.0, 1.0], (PATCH // 8, PATCH // 8)) * strength
    return np.asarray(patch + np.kron(offsets, np.ones((8, 8)))[..., None])


def ringing(patch: Field, strength: float) -> Field:
    """Echoes of every edge, 4 px apart and fading over a dozen px."""
    at = np.arange(-12, 13)
    kernel = np.cos(2 * np.pi * at / 4) * np.exp(-np.abs(at) / 5) * (np.abs(at) > 1)
    kernel -= kernel.mean()
    echoes = sum(ndimage.convolve1d(patch, kernel, axis=axis) for axis in (0, 1))
    return np.asarray(patch + strength * echoes)


def blur(patch: Field, strength: float) -> Field:
    """Fine detail lost."""
    return np.asarray(ndimage.gaussian_filter(patch, (strength, strength, 0)))


def banding(patch: Field, strength: float) -> Field:
    """Slopes turned into steps."""
    return np.round(patch / strength) * strength


def bleeding(patch: Field, strength: float) -> Field:
    """Colour that runs over the edges of what it belongs to; lightness stays."""
    grey = patch @ np.array([0.2126, 0.7152, 0.0722])
    colour = patch - grey[..., None]
    return np.asarray(ndimage.gaussian_filter(colour, (strength, strength, 0)) + grey[..., None])


Fault = Callable[[Field, float], Field]

FAULTS: dict[str, tuple[Fault, tuple[float, ...]]] = {
    "blocks": (blocks, (1, 2, 4, 8, 16)),
    "ringing": (ringing, (0.02, 0.05, 0.1, 0.2, 0.4)),
    "blur": (blur, (0.4, 0.7, 1.1, 1.7, 2.6)),
    "banding": (banding, (2, 4, 8, 14, 24)),
    "bleeding": (bleeding, (1, 2, 4, 8, 16)),
}
"""Each with its strengths, weakest first."""


def planted(picture: Raster, name: str, strength: float, place: tuple[int, int]) -> Raster:
    """The picture with a fault in the patch whose left upper corner is at ``place`` (x, y)."""
    x, y = place
    pixels = picture.pixels.copy()
    patch = pixels[y : y + PATCH, x : x + PATCH].astype(float)
    faulty = FAULTS[name][0](patch, strength)
    pixels[y : y + PATCH, x : x + PATCH] = np.clip(np.round(faulty), 0, 255).astype(np.uint8)
    return Raster(pixels)


def place_for(picture: Raster, name: str) -> tuple[int, int]:
    """Where a fault shows: bands and blocks on even ground, the others on edges.

    Among the patches at even steps, the one with the second least or second most contrast, so
    that a place without any content is not taken.
    """
    grey = picture.pixels.astype(float) @ np.array([0.2126, 0.7152, 0.0722])
    height, width = grey.shape
    places = [
        (x, y)
        for y in range(0, height - PATCH + 1, PATCH // 2)
        for x in range(0, width - PATCH + 1, PATCH // 2)
    ]
    colours = picture.pixels.astype(float) - grey[..., None]
    looked = colours[..., 0] if name == "bleeding" else grey

    def contrast(place: tuple[int, int]) -> float:
        x, y = place
        return float(looked[y : y + PATCH, x : x + PATCH].std())

    ranked = sorted(places, key=contrast)
    if name in ("banding", "blocks"):
        sloping = [one for one in ranked if contrast(one) > 3]
        return (sloping or ranked)[0]
    return ranked[-2]
