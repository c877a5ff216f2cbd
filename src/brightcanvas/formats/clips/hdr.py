"""Clips with a high dynamic range, brought into the range of sRGB.

Light of BT.2020 primaries under the curves of SMPTE ST 2084 (PQ) or ARIB STD-B67 (HLG, both in
ITU-R BT.2100) is scaled so that diffuse white (203 cd/m2, ITU-R BT.2408) is 1. What is brighter
is rolled off towards white from KNEE on, by its brightest channel, so that hues stay.
"""

from __future__ import annotations

from functools import cache
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

PQ, HLG = 16, 18
"""Transfer characteristics (ITU-T H.273, table 3)."""

WHITE = 203.0
HLG_PEAK = 1000.0
KNEE = 0.8
CEILING = 1000.0 / WHITE
"""Light that becomes full white; brighter light is cut off."""

_TO_BT709 = np.array(
    [
        [1.660491, -0.587641, -0.072850],
        [-0.124550, 1.132900, -0.008349],
        [-0.018151, -0.100579, 1.118730],
    ],
    np.float32,
)
"""From BT.2020 to BT.709 primaries (ITU-R BT.2087)."""

Field = NDArray[np.floating[Any]]


def is_hdr(frame: av.VideoFrame) -> bool:
    """Whether a frame is in one of the two curves."""
    return frame.color_trc in (PQ, HLG)


def to_srgb(frame: av.VideoFrame, width: int | None, height: int | None) -> NDArray[np.uint8]:
    """A frame's sRGB codes, of shape (height, width, 3), as stored and not turned."""
    wide = frame.reformat(width, height, format="rgb48le", src_colorspace=9)
    codes = np.asarray(wide.to_ndarray(), np.uint16)
    light = _light_of(frame.color_trc).take(codes)
    if frame.color_trc == HLG:
        light = _shown_by_display(light)
    light = _rolled_off(np.maximum(light @ _TO_BT709.T, 0))
    steps = (np.minimum(light, 1) * np.float32(FINE) + np.float32(0.5)).astype(np.uint16)
    return _codes_of_light().take(steps)


FINE = 1 << 14
"""Steps of light of which the codes are looked up: finer than a code of sRGB is anywhere."""


@cache
def _light_of(curve: int) -> NDArray[np.float32]:
    """Of each code of 16 bits: worked out once, as a frame has millions of them."""
    codes = np.arange(65536) / 65535
    light = _pq_light(codes) if curve == PQ else _hlg_scene(codes)
    return np.asarray(light, np.float32)


@cache
def _codes_of_light() -> NDArray[np.uint8]:
    return srgb_codes(np.arange(FINE + 1) / FINE)


def srgb_codes(light: Field) -> NDArray[np.uint8]:
    """Codes of linear light 0..1 (IEC 61966-2-1)."""
    low, high = light * 12.92, 1.055 * np.maximum(light, 1e-8) ** (1 / 2.4) - 0.055
    codes = np.where(light <= 0.0031308, low, high)
    return np.asarray(np.clip(codes * 255 + 0.5, 0, 255)).astype(np.uint8)


def _pq_light(codes: Field) -> Field:
    """Light of PQ codes, 1 for diffuse white (BT.2100, table 4)."""
    m1, m2, c1, c2, c3 = 0.1593017578125, 78.84375, 0.8359375, 18.8515625, 18.6875
    root = codes ** (1 / m2)
    return np.asarray((np.maximum(root - c1, 0) / (c2 - c3 * root)) ** (1 / m1) * (10000 / WHITE))


def _hlg_scene(codes: Field) -> Field:
    """Scene light of HLG codes, 0..1 (BT.2100, table 5)."""
    a, b, c = 0.17883277, 0.28466892, 0.55991073
    return np.where(codes <= 0.5, codes**2 / 3, (np.exp((codes - c) / a) + b) / 12)


def _shown_by_display(scene: Field) -> Field:
    """What a display of HLG_PEAK cd/m2 shows of scene light, 1 for diffuse white (BT.2100)."""
    luminance = np.maximum(scene @ np.array([0.2627, 0.6780, 0.0593], np.float32), 1e-6)
    gain = luminance ** np.float32(0.2) * np.float32(HLG_PEAK / WHITE)
    return np.asarray(scene * gain[..., None])


def _rolled_off(light: Field) -> Field:
    """Highlights compressed: straight up to KNEE, then along a parabola to white at CEILING."""
    peak = np.maximum(light.max(axis=-1, keepdims=True), 1e-8)
    over = np.clip((peak - KNEE) / (CEILING - KNEE), 0, 1)
    shown = np.where(peak <= KNEE, peak, KNEE + (1 - KNEE) * (1 - (1 - over) ** 2))
    return np.asarray(light * (shown / peak))
