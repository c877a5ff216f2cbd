"""Treatments: changes of tone that are baked into assets."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.values.colours import Colour

WHITE = Colour(1, 1, 1)


@dataclass(frozen=True)
class Tone:
    """What is done to a picture's tone, in this order; amounts are 0 (nothing) to 1 (all)."""

    ground: Colour | None = None
    """Colour under transparent parts."""
    soften: float = 0.0
    """Radius of the blur (its standard deviation) in CSS px at the largest box."""
    calm: float = 0.0
    """Less contrast: towards the picture's mean."""
    desaturate: float = 0.0
    tint: tuple[Colour, Colour] | None = None
    """Two colours that stand for its darks and its lights."""
    lighten: float = 0.0
    darken: float = 0.0
    fade: float = 0.0
    fade_to: Colour = WHITE
    """Fading mixes in a colour, as a flat scrim would."""


UNTREATED = Tone()
