"""Colours of the sRGB space in every notation CSS has for them."""

from __future__ import annotations

from dataclasses import dataclass

from tinycss2.color4 import parse_color

_SRGB_NOTATIONS = ("srgb", "hsl", "hwb")


@dataclass(frozen=True)
class Colour:
    """An sRGB colour: red, green, blue as encoded, and alpha, each in 0..1."""

    red: float
    green: float
    blue: float
    alpha: float = 1.0

    @property
    def css(self) -> str:
        """The colour as ``#rrggbb``, or ``#rrggbbaa`` where it is not opaque."""
        parts = [self.red, self.green, self.blue]
        if self.alpha < 1:
            parts.append(self.alpha)
        return "#" + "".join(f"{round(part * 255):02x}" for part in parts)


def parse_colour(text: str) -> Colour:
    """Read a colour name, hex, ``rgb()``, ``hsl()`` or ``hwb()``; ValueError otherwise."""
    parsed = parse_color(text.strip())
    if getattr(parsed, "space", None) not in _SRGB_NOTATIONS:
        raise ValueError("a colour such as #1d2a33, navy or rgb(29 42 51)")
    red, green, blue, alpha = (min(max(float(part), 0.0), 1.0) for part in parsed.to("srgb"))
    return Colour(red, green, blue, alpha)


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
