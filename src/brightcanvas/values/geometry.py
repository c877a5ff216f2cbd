"""Plain shapes: sizes, points, rectangles and ranges.

Units are named where the shapes are used: CSS px, source px or fractions.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum


@dataclass(frozen=True)
class Size:
    """A width and a height, both above zero."""

    width: float
    height: float

    @property
    def aspect(self) -> float:
        """Width over height."""
        return self.width / self.height

    @property
    def rounded(self) -> tuple[int, int]:
        """Width and height in whole numbers, at least 1."""
        return max(1, round(self.width)), max(1, round(self.height))

    def times(self, factor: float) -> Size:
        """The same shape, ``factor`` times as large."""
        return Size(self.width * factor, self.height * factor)

    def __str__(self) -> str:
        return f"{plain_number(self.width)} x {plain_number(self.height)}"


@dataclass(frozen=True)
class Point:
    """A place, or a position in fractions as ``background-position`` has it."""

    x: float
    y: float


@dataclass(frozen=True)
class Rect:
    """A rectangle by its four edges; ``left <= right`` and ``top <= bottom``."""

    left: float
    top: float
    right: float
    bottom: float

    @property
    def width(self) -> float:
        """From the left to the right edge."""
        return self.right - self.left

    @property
    def height(self) -> float:
        """From the top to the bottom edge."""
        return self.bottom - self.top

    @property
    def size(self) -> Size:
        """Width and height together."""
        return Size(self.width, self.height)

    @property
    def edges(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom."""
        return (self.left, self.top, self.right, self.bottom)

    @property
    def centre(self) -> Point:
        """The point in the middle."""
        return Point((self.left + self.right) / 2, (self.top + self.bottom) / 2)

    def scaled(self, by: Size) -> Rect:
        """The rectangle with x multiplied by ``by.width`` and y by ``by.height``."""
        return Rect(
            self.left * by.width,
            self.top * by.height,
            self.right * by.width,
            self.bottom * by.height,
        )

    def contains(self, other: Rect, slack: float = 0.0) -> bool:
        """Whether ``other`` lies inside, give or take ``slack``."""
        return (
            self.left <= other.left + slack
            and self.top <= other.top + slack
            and self.right >= other.right - slack
            and self.bottom >= other.bottom - slack
        )


WHOLE = Rect(0.0, 0.0, 1.0, 1.0)
"""All of something, in fractions."""


@dataclass(frozen=True)
class Span:
    """A closed range of numbers, ``low <= high``."""

    low: float
    high: float

    def clamp(self, value: float) -> float:
        """The value in the range that is nearest to ``value``."""
        return min(max(value, self.low), self.high)

    def overlap(self, other: Span) -> Span | None:
        """What both ranges share, if anything."""
        low, high = max(self.low, other.low), min(self.high, other.high)
        return Span(low, high) if low <= high else None


def plain_number(value: float) -> str:
    """A number as people write it: ``640``, ``1099.98``, never ``640.0``."""
    return f"{value:.2f}".rstrip("0").rstrip(".") if value % 1 else f"{value:.0f}"


class Orientation(Enum):
    """A viewport's orientation as Media Queries 4, section 4.5, has it."""

    PORTRAIT = "portrait"
    """At least as high as wide."""
    LANDSCAPE = "landscape"
