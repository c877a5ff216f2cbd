"""How a picture is sized in its element: ``background-size`` in CSS."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Protocol

from brightcanvas.values.geometry import Size, plain_number


class Fit(Protocol):
    """A rule for the width at which a picture is drawn."""

    @property
    def css(self) -> str:
        """The value of ``background-size``."""

    def drawn_width(self, aspect: float, box: Size) -> float:
        """How wide a picture of ``aspect`` is drawn in ``box``, in the box's unit."""


@dataclass(frozen=True)
class Cover:
    """Fill the box; what overhangs is cut off."""

    css: str = "cover"

    def drawn_width(self, aspect: float, box: Size) -> float:
        """See Fit."""
        return max(box.width, box.height * aspect)


@dataclass(frozen=True)
class Contain:
    """Show all of the picture, as large as the box allows."""

    css: str = "contain"

    def drawn_width(self, aspect: float, box: Size) -> float:
        """See Fit."""
        return min(box.width, box.height * aspect)


@dataclass(frozen=True)
class Exact:
    """Always the same width in CSS px, as the tiles of a pattern have it."""

    width: float

    @property
    def css(self) -> str:
        """See Fit."""
        return f"{plain_number(self.width)}px"

    def drawn_width(self, aspect: float, box: Size) -> float:  # noqa: ARG002
        """See Fit."""
        return self.width


@dataclass(frozen=True)
class Rounded:
    """About that width in CSS px, stretched or squeezed so that whole tiles fill the box.

    ``background-repeat: round`` (CSS Backgrounds 3, section 3.4): from two tiles side by side
    on, a tile grows to at most 1.25 times its width.
    """

    width: float

    @property
    def css(self) -> str:
        """See Fit."""
        return f"{plain_number(self.width)}px"

    def drawn_width(self, aspect: float, box: Size) -> float:  # noqa: ARG002
        """See Fit."""
        return self.width * 1.25


def parse_fit(text: str) -> Fit:
    """Read ``cover``, ``contain`` or a width such as ``240px``; ValueError otherwise."""
    word = text.strip().lower()
    if word in ("cover", "contain"):
        return Cover() if word == "cover" else Contain()
    match = re.fullmatch(r"(\d{1,6}(?:\.\d{1,9})?)px", word)
    if match is None or float(match[1]) <= 0:
        raise ValueError("cover, contain or a width such as 240px")
    return Exact(float(match[1]))
