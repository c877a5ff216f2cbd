"""The brief as the rest of the program sees it: complete, checked and resolved."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.fits import Fit
from brightcanvas.basics.heights import HeightRule
from brightcanvas.basics.shapes import Point, Rect, Span


@dataclass(frozen=True)
class Breakpoint:
    """A named range of viewport widths in CSS px: from ``low`` up to, not including, ``high``."""

    name: str
    widths: Span


@dataclass(frozen=True)
class Slot:
    """What one backdrop does at one breakpoint, with everything that flowed down to it."""

    breakpoint: Breakpoint
    source: Path | None
    """None: no picture here, only the colour."""
    poster_at: float
    """Second of a clip whose frame is the picture."""
    subject: Rect | None
    """In fractions of the source; a point is a rectangle of no size."""
    position: Point | None
    fit: Fit
    repeat: str
    attachment: str
    height: HeightRule
    behind: Colour | None
    """None: taken from the picture."""


@dataclass(frozen=True)
class Backdrop:
    """One background: an element and what it shows at each breakpoint, narrowest first."""

    name: str
    element: str
    first_view: bool
    slots: tuple[Slot, ...]


@dataclass(frozen=True)
class Brief:
    """Everything that one ``brief.toml`` asks for."""

    path: Path
    title: str
    output: Path
    address: str
    widest: float
    backdrops: tuple[Backdrop, ...]
