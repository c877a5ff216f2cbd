"""Contrast between colours as WCAG 2.2 defines it, and layers as browsers composite them."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.spaces import to_light
from brightcanvas.values.colours import Colour

LUMINANCE_WEIGHTS = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""Of linear red, green and blue: WCAG 2.2, "relative luminance"."""

Field = NDArray[np.floating[Any]]


def channels(colour: Colour) -> Field:
    """Red, green and blue as encoded, shape (3,)."""
    return np.array([colour.red, colour.green, colour.blue], np.float32)


def luminance(codes: Field) -> Field:
    """Relative luminance (0..1) of sRGB values in 0..1; the last axis holds the channels."""
    return np.asarray(to_light(codes) @ LUMINANCE_WEIGHTS)


def contrast(one: Field | float, other: Field | float) -> Field:
    """The contrast ratio (1..21) of two luminances: WCAG 2.2, success criterion 1.4.3."""
    lighter, darker = np.maximum(one, other), np.minimum(one, other)
    return np.asarray((lighter + 0.05) / (darker + 0.05))


def over(below: Field, layer: Colour, strength: float = 1.0) -> Field:
    """A colour laid over encoded values, as browsers do it: mixed as encoded.

    CSS Compositing 1, section 5.1 (simple alpha compositing in sRGB).

    Args:
        below: sRGB values, 0 to 1, with three channels last.
        layer: the colour.
        strength: what its own alpha is multiplied by, 0 to 1.
    """
    alpha = layer.alpha * strength
    return below * (1 - alpha) + channels(layer) * alpha
