"""Positions, scrims and colours as CSS."""

from __future__ import annotations

from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Point, Rect
from brightcanvas.values.legible import FADE, Scrim

LINE = 1
"""CSS px of a scrim's fine lines, and of the gaps between them."""


def gradient(scrim: Scrim, copy: Rect) -> str:
    """A scrim as a CSS gradient: even under the copy (fractions of the box), fading beyond it."""
    colour = _rgb(scrim.colour, scrim.strength)
    ways = {
        "left": ("to right", copy.right),
        "right": ("to left", 1 - copy.left),
        "top": ("to bottom", copy.bottom),
        "bottom": ("to top", 1 - copy.top),
    }
    if scrim.lines:
        none, line = _rgb(scrim.colour, 0), f"{LINE}px"
        return f"repeating-linear-gradient({colour} 0 {line}, {none} {line} {2 * LINE}px)"
    if scrim.side is None:
        return f"linear-gradient({colour}, {colour})"
    way, reach = ways[scrim.side]
    end = min(1.0, reach + FADE)
    return (
        f"linear-gradient({way}, {colour} {percent(reach)}, {_rgb(scrim.colour, 0)} {percent(end)})"
    )


def _rgb(colour: Colour, strength: float) -> str:
    parts = " ".join(str(round(part * 255)) for part in (colour.red, colour.green, colour.blue))
    return f"rgb({parts} / {percent(strength * colour.alpha)})"


def position_text(position: Point) -> str:
    """A position as CSS percentages, to a thousandth of a percent."""
    return f"{percent(position.x)} {percent(position.y)}"


def percent(fraction: float) -> str:
    """To a thousandth of a percent."""
    return f"{fraction * 100:.3f}".rstrip("0").rstrip(".") + "%"
