"""Letters, where each line lies, and scrims: what decides whether copy can be read."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Rect, Size

STEM, BOLD_STEM = 1 / 10, 1 / 7
LARGE, LARGE_BOLD = 24.0, 18.66
"""CSS px from which WCAG 2.2, 1.4.3, calls text large (18 pt, or 14 pt bold)."""


@dataclass(frozen=True)
class Letters:
    """The copy's letters."""

    colour: Colour
    size: float
    """In CSS px."""
    bold: bool = False
    wanted: float | None = None
    """Contrast ratio to be reached; None: what WCAG 2.2 asks for at this size."""

    @property
    def stroke(self) -> float:
        """Width of a stem in CSS px: a tenth of the size, a seventh where bold."""
        return self.size * (BOLD_STEM if self.bold else STEM)

    @property
    def wanted_contrast(self) -> float:
        """The contrast ratio to be reached: 3 for large text, else 4.5, or as stated."""
        is_large = self.size >= (LARGE_BOLD if self.bold else LARGE)
        return self.wanted or (3.0 if is_large else 4.5)


@dataclass(frozen=True)
class Scrim:
    """A tint between picture and copy, even under all of the copy."""

    colour: Colour
    strength: float
    """0..1."""
    side: str | None = None
    """Where it lies (``left``, ``right``, ``top``, ``bottom``), fading out beyond the copy;
    None: it covers everything."""
    lines: bool = False
    """Fine lines, as wide as the gaps between them, instead of an even tint."""


FADE = 0.35
"""Share of the box over which a scrim on one side fades out beyond the copy."""


@dataclass(frozen=True)
class ScrimWish:
    """The scrim that a brief asks for."""

    strength: float | None
    """None: the least with which the copy can be read."""
    colour: Colour | None
    """None: black behind light letters, white behind dark ones."""
    side: str | None
    lines: bool = False
    baked: str = "no"
    """``yes``: into the pictures; ``lighter``: whichever weighs less."""


def stated_scrim(wish: ScrimWish | None) -> Scrim | None:
    """The scrim of a stated strength, where no copy is known that it would be judged by."""
    if wish is None or not wish.strength:
        return None
    return Scrim(wish.colour or Colour(0.0, 0.0, 0.0), wish.strength, wish.side, wish.lines)


@dataclass(frozen=True)
class CopyLine:
    """One line of text above an element."""

    box: Rect
    """In fractions of the element."""
    letters: Letters
    words: str = ""
    """How it begins."""


@dataclass(frozen=True)
class MeasuredWindow:
    """An element in one window, with the text above it."""

    viewport: Size
    """CSS px."""
    element: Size
    """CSS px."""
    lines: tuple[CopyLine, ...]
    is_veiled: bool = False
    """Whether the page lays a layer of its own between the picture and the text."""
