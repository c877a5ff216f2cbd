"""Media conditions that are disjoint and leave no screen out.

Widths end 0.02 px below the next breakpoint: browsers produce no width between, and none
that matches both. Resolutions use the range form of Media Queries 4, section 2.4.3, whose
``<=`` and ``>`` of one number complement each other; browsers without it skip the rule and
keep the plain picture of the breakpoint.
"""

from __future__ import annotations

import math

from brightcanvas.basics.shapes import Span, plain_number
from brightcanvas.framing.stages import EDGE


def width_condition(widths: Span) -> str:
    """The condition for viewport widths from ``low`` up to, not including, ``high``."""
    parts = []
    if widths.low > 0:
        parts.append(f"(min-width: {plain_number(widths.low)}px)")
    if widths.high < math.inf:
        parts.append(f"(max-width: {plain_number(widths.high - EDGE)}px)")
    return " and ".join(parts)


def density_condition(densities: Span) -> str:
    """The condition for resolutions above ``low``, up to and including ``high`` (dppx)."""
    parts = []
    if densities.low > 0:
        parts.append(f"(resolution > {plain_number(densities.low)}dppx)")
    if densities.high < math.inf:
        parts.append(f"(resolution <= {plain_number(densities.high)}dppx)")
    return " and ".join(parts)


def both(*conditions: str) -> str:
    """All of the conditions together; empty ones ask for nothing."""
    return " and ".join(condition for condition in conditions if condition)
