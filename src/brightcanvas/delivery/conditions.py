"""Media conditions that are disjoint and leave no screen out.

They are written for browsers of any age: whole widths, and the orientation. A condition ends
0.02 px below the next one, and browsers produce no width between. Style sheet, hint and element
share the very same text; densities stand beside the candidates, not in conditions.
"""

from __future__ import annotations

import math

from brightcanvas.brief.model import Breakpoint
from brightcanvas.framing.stages import EDGE
from brightcanvas.values.geometry import plain_number


def breakpoint_condition(breakpoint_: Breakpoint) -> str:
    """The condition for a breakpoint's viewports, or its part's; empty where it is for all."""
    widths = breakpoint_.widths
    parts = []
    if widths.low > 0:
        parts.append(f"(min-width: {plain_number(widths.low)}px)")
    if widths.high < math.inf:
        parts.append(f"(max-width: {plain_number(widths.high - EDGE)}px)")
    if breakpoint_.orientation:
        parts.append(f"(orientation: {breakpoint_.orientation.value})")
    return both(*parts)


def both(*conditions: str) -> str:
    """All of the conditions together; empty ones ask for nothing."""
    return " and ".join(condition for condition in conditions if condition)
