"""Numbers and ranges as designers say them."""

from __future__ import annotations

import math

from brightcanvas.basics.shapes import Size, Span, plain_number
from brightcanvas.framing.rungs import EVERY_SCREEN, Rung

TYPICAL_SCREENS = (
    (Size(360, 640), 2.0),
    (Size(390, 740), 3.0),
    (Size(412, 780), 2.625),
    (Size(844, 340), 3.0),
    (Size(768, 950), 1.0),
    (Size(820, 1080), 2.0),
    (Size(1366, 650), 1.0),
    (Size(1440, 780), 2.0),
    (Size(1920, 950), 1.0),
    (Size(2560, 1300), 1.0),
)
"""Viewports (CSS px) and densities that people have in mind, to name a rung's screens by."""


def weight(amount: int) -> str:
    """A number of bytes: ``912 B``, ``48.2 kB``, ``1.3 MB``; a kB is 1000 bytes."""
    if amount < 1000:
        return f"{amount} B"
    if amount < 999_500:
        kilobytes = amount / 1000
        return f"{kilobytes:.1f} kB" if kilobytes < 100 else f"{kilobytes:.0f} kB"
    return f"{amount / 1e6:.1f} MB"


def widths(span: Span) -> str:
    """A breakpoint's widths: ``to 639 px``, ``640 to 1099 px``, ``from 1100 px``."""
    last = math.ceil(span.high) - 1 if span.high < math.inf else None
    if last is None:
        return f"from {plain_number(span.low)} px" if span.low else "every width"
    return f"{plain_number(span.low)} to {last} px" if span.low else f"to {last} px"


def screens(rung: Rung, widths: Span) -> str:
    """Which of the usual screens get a rung, by viewport width and density: ``390@3x``."""
    if rung.tiles == (EVERY_SCREEN,):
        return "all"
    names = [
        f"{viewport.width:.0f}@{density:g}x"
        for viewport, density in TYPICAL_SCREENS
        if widths.low <= viewport.width < widths.high
        and any(tile.holds(viewport, density) for tile in rung.tiles)
    ]
    return ", ".join(names) or "sizes in between"


def box(size: Size) -> str:
    """A size in whole px."""
    return f"{round(size.width)} x {round(size.height)}"
