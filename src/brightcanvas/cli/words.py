"""Numbers and ranges as designers say them."""

from __future__ import annotations

import math

from brightcanvas.basics.shapes import Size, Span, plain_number


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


def densities(span: Span) -> str:
    """Which screens by their density: ``up to 1x``, ``above 1x``."""
    if span.high == math.inf:
        return f"above {plain_number(span.low)}x" if span.low else "all"
    if span.low == 0:
        return f"up to {plain_number(span.high)}x"
    return f"{plain_number(span.low)}x to {plain_number(span.high)}x"


def box(size: Size) -> str:
    """A size in whole px."""
    return f"{round(size.width)} x {round(size.height)}"
