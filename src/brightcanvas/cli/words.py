"""Numbers and ranges as designers say them."""

from __future__ import annotations

import math

from brightcanvas.basics.shapes import Size, Span, plain_number
from brightcanvas.framing.rungs import Rung


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


def screens(rung: Rung) -> str:
    """Which screens get a rung, by the pixels across that they show: ``1014 to 1429 px``."""
    densities = [tile.densities for tile in rung.tiles]
    least = min(one.low for one in densities)
    most = max(one.high for one in densities)
    if most == math.inf:
        return f"from {max(1.0, least):.2g}x" if least else "all"
    return f"{max(1.0, least):.2g}x to {most:.2g}x"


def box(size: Size) -> str:
    """A size in whole px."""
    return f"{round(size.width)} x {round(size.height)}"
