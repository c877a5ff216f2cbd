"""Between sRGB codes and linear light (IEC 61966-2-1, as CSS Color 4 section 10.2 has it)."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

CODE_STEPS = 1 << 14
"""Steps of the table from light to codes. At its finest the sRGB curve rises 12.92 codes'
worth per unit, so a step is at most 0.2 of a code and rounding is right to 0.1 of one."""


def to_light(codes: NDArray[np.floating]) -> NDArray[np.floating]:
    """Linear light (0..1) of sRGB values in 0..1, of any shape."""
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)


def to_codes(light: NDArray[np.floating]) -> NDArray[np.floating]:
    """The sRGB values (0..1) of linear light in 0..1, of any shape."""
    return np.where(
        light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 0) ** (1 / 2.4) - 0.055
    )


@cache
def light_of_code() -> NDArray[np.float32]:
    """Linear light of each of the 256 codes, shape (256,), float32."""
    return to_light(np.arange(256) / 255).astype(np.float32)


@cache
def code_of_light() -> NDArray[np.uint8]:
    """The code of light ``i / CODE_STEPS`` for each ``i``, shape (CODE_STEPS + 1,)."""
    light = np.arange(CODE_STEPS + 1) / CODE_STEPS
    return np.round(to_codes(light) * 255).astype(np.uint8)


def codes_from_light(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Round linear light of any shape, clipped to 0..1, to sRGB codes."""
    steps = np.clip(light, 0, 1)
    steps *= CODE_STEPS
    steps += 0.5
    return code_of_light().take(steps.astype(np.uint16), mode="clip")
