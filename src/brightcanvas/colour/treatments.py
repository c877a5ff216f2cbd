"""Treatments of a picture's tone.

*Lighten* and *darken* change the amount of light (linear), as more exposure or less would.
*Soften* is a Gaussian blur of light. *Calm*, *desaturate* and the two-colour *tint* work in
OKLab, where equal steps look equal. *Fade* mixes in a colour as encoded, exactly as a
browser composites a flat scrim, so that both are interchangeable.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.contrast import channels, over
from brightcanvas.colour.spaces import (
    codes_from_light,
    light_from_oklab,
    light_of_code,
    oklab_from_light,
    to_light,
)
from brightcanvas.values.colours import UNTREATED, Tone
from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import FADE, Scrim
from brightcanvas.values.raster import Raster

BAND = 256
"""Rows that are treated at once, so that the memory needed stays small."""

Light = NDArray[np.floating[Any]]


def treated(picture: Raster, tone: Tone, css_px: float = 1.0) -> Raster:
    """A picture with its tone changed.

    Args:
        picture: what is changed.
        tone: what is done.
        css_px: how many px of the picture make a CSS px at the largest box.
    """
    if tone == UNTREATED:
        return picture
    if tone.ground and picture.has_alpha:
        picture = _on_ground(picture, tone)
    if tone.soften:
        picture = _softened(picture, tone.soften * css_px)
    mean = _mean_lab(picture) if tone.calm else np.zeros(3)
    pixels = picture.pixels.copy()
    for start in range(0, len(pixels), BAND):
        band = pixels[start : start + BAND, :, :3]
        band[...] = _band(band, tone, mean)
    return Raster(pixels)


def _on_ground(picture: Raster, tone: Tone) -> Raster:
    assert tone.ground is not None
    alpha = picture.pixels[..., 3:].astype(np.float32) / 255
    mixed = picture.pixels[..., :3] * alpha + channels(tone.ground) * 255 * (1 - alpha)
    return Raster(np.asarray(np.round(mixed), np.uint8))


def _softened(picture: Raster, radius: float) -> Raster:
    from scipy import ndimage

    pixels = picture.pixels.copy()
    for channel in range(3):
        light = light_of_code().take(picture.pixels[..., channel], mode="clip")
        pixels[..., channel] = codes_from_light(ndimage.gaussian_filter(light, radius))
    return Raster(pixels)


def _mean_lab(picture: Raster) -> Light:
    """The mean colour in OKLab, from every eighth pixel each way."""
    light = light_of_code().take(picture.pixels[::8, ::8, :3], mode="clip")
    return np.asarray(oklab_from_light(light).reshape(-1, 3).mean(axis=0))


def _band(codes: NDArray[np.uint8], tone: Tone, mean: Light) -> NDArray[np.uint8]:
    light: Light = light_of_code().take(codes, mode="clip")
    if tone.calm or tone.desaturate or tone.tint:
        light = light_from_oklab(_in_lab(oklab_from_light(light), tone, mean))
    light = np.clip(light, 0, 1)
    light = 1 - (1 - light) * (1 - tone.lighten)
    result = codes_from_light(np.asarray(light * (1 - tone.darken), np.float32))
    if not tone.fade:
        return result
    faded = over(result.astype(np.float32) / 255, tone.fade_to, tone.fade)
    return np.asarray(np.round(faded * 255), np.uint8)


def _in_lab(lab: Light, tone: Tone, mean: Light) -> Light:
    lab = mean + (lab - mean) * (1 - tone.calm) if tone.calm else lab
    lab = lab * np.array([1, 1 - tone.desaturate, 1 - tone.desaturate])
    if not tone.tint:
        return lab
    dark, light = (oklab_from_light(to_light(channels(colour))) for colour in tone.tint)
    share = np.clip(lab[..., :1], 0, 1)
    return np.asarray(dark + (light - dark) * share)


def scrimmed(picture: Raster, scrim: Scrim, copy: Rect) -> Raster:
    """A picture as it is seen under a scrim that is even under the copy (fractions of it)."""
    height, width = picture.pixels.shape[:2]
    x = (np.arange(width) + 0.5)[None, :] / width
    y = (np.arange(height) + 0.5)[:, None] / height
    beyond = {
        "left": x - copy.right,
        "right": copy.left - x,
        "top": y - copy.bottom,
        "bottom": copy.top - y,
    }.get(scrim.side or "", np.zeros((1, 1)))
    share = np.clip(1 - np.maximum(beyond, 0) / FADE, 0, 1) * scrim.strength
    share = share / 2 if scrim.lines else share
    weight = np.broadcast_to(share, (height, width))[..., None] * scrim.colour.alpha
    codes = picture.pixels[..., :3] / 255
    seen = codes * (1 - weight) + channels(scrim.colour) * weight
    return Raster(np.asarray(np.round(seen * 255), np.uint8))
