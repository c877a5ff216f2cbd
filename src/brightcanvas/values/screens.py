"""The one type for a screen: a window that people have, with its density."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.values.geometry import Orientation, Size, plain_number


@dataclass(frozen=True)
class Screen:
    """A window that people have."""

    name: str
    viewport: Size
    """CSS px, as the browser's own bars leave it."""
    density: float = 1.0
    """Device px per CSS px."""
    share: float = 0.0
    """Of all visits, 0..1."""
    touched: bool = False
    """Whether it is pointed at with a finger."""

    @property
    def orientation(self) -> Orientation:
        """As media conditions have it: a square is upright."""
        is_wide = self.viewport.width > self.viewport.height
        return Orientation.LANDSCAPE if is_wide else Orientation.PORTRAIT

    @property
    def figures(self) -> str:
        """As in ``390 x 844, 3x``."""
        size = f"{plain_number(self.viewport.width)} x {plain_number(self.viewport.height)}"
        return f"{size}, {plain_number(self.density)}x"
