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


NARROW_PHONE = Screen("narrow phone", Size(320, 568), 2, touched=True)
SMALL_PHONE = Screen("small phone", Size(360, 740), 2, touched=True)
PHONE = Screen("phone", Size(390, 844), 3, touched=True)
PHONE_SIDEWAYS = Screen("phone on its side", Size(844, 390), 3, touched=True)
TABLET = Screen("tablet", Size(820, 1180), 2, touched=True)
TABLET_SIDEWAYS = Screen("tablet on its side", Size(1180, 820), 2, touched=True)
LAPTOP = Screen("laptop", Size(1440, 900), 1)
DENSE_LAPTOP = Screen("dense laptop", Size(1512, 945), 2)
LARGE_MONITOR = Screen("large monitor", Size(2560, 1300), 1)

DEVICES = (SMALL_PHONE, PHONE, PHONE_SIDEWAYS, TABLET, LAPTOP, DENSE_LAPTOP, LARGE_MONITOR)
"""On which a page's load is told."""

ALL_DEVICES = (
    NARROW_PHONE, SMALL_PHONE, PHONE, PHONE_SIDEWAYS, TABLET, TABLET_SIDEWAYS, LAPTOP,
    DENSE_LAPTOP, LARGE_MONITOR,
)  # fmt: skip
"""On which faults are looked for: from the narrowest, and both ways round."""

DEVICES_LOOKED_AT = (PHONE, PHONE_SIDEWAYS, TABLET, LAPTOP)
"""On which a browser looks at pages, one for each kind."""
