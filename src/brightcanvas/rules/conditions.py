"""Media conditions that are disjoint and leave no screen out.

A breakpoint's own condition is written for browsers of any age: it ends 0.02 px below the
next one, and browsers produce no width between. Those of its rungs are in the range form of
Media Queries 4, section 2.4.3, whose ``<`` and ``>=`` of one number complement each other at
every width and density; browsers without it skip the rule and keep the plain picture of the
breakpoint.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from brightcanvas.basics.shapes import Span, plain_number
from brightcanvas.brief.model import Breakpoint
from brightcanvas.framing.joining import joined
from brightcanvas.framing.rungs import Tile
from brightcanvas.framing.stages import EDGE
from brightcanvas.ledger.model import Shipped, Shown


def breakpoint_condition(breakpoint_: Breakpoint) -> str:
    """The condition for a breakpoint's viewports; empty where it is for all."""
    widths = breakpoint_.widths
    parts = []
    if widths.low > 0:
        parts.append(f"(min-width: {plain_number(widths.low)}px)")
    if widths.high < math.inf:
        parts.append(f"(max-width: {plain_number(widths.high - EDGE)}px)")
    return both(*parts, _orientation(breakpoint_))


def _orientation(breakpoint_: Breakpoint) -> str:
    orientation = breakpoint_.orientation
    return f"(orientation: {orientation.value})" if orientation else ""


def _lengths(side: str, lengths: Span) -> str:
    """From ``low`` up to, not including, ``high`` CSS px; empty where there is no end."""
    low = f"{plain_number(lengths.low)}px <= " if lengths.low > 0 else ""
    high = f" < {plain_number(lengths.high)}px" if lengths.high < math.inf else ""
    if low and not high:
        return f"({side} >= {plain_number(lengths.low)}px)"
    return f"({low}{side}{high})" if high else ""


def _densities(densities: Span) -> str:
    """Above ``low``, up to and including ``high`` device px per CSS px."""
    low = f"{densities.low:g}dppx < " if densities.low > 0 else ""
    high = f" <= {densities.high:g}dppx" if densities.high < math.inf else ""
    if low and not high:
        return f"(resolution > {densities.low:g}dppx)"
    return f"({low}resolution{high})" if high else ""


def both(*conditions: str) -> str:
    """All of the conditions together; empty ones ask for nothing."""
    return " and ".join(condition for condition in conditions if condition)


def tile_condition(tile: Tile, breakpoint_: Breakpoint) -> str:
    """The condition for the screens of a tile within its breakpoint."""
    return both(
        _lengths("width", tile.widths.overlap(breakpoint_.widths) or breakpoint_.widths),
        _lengths("height", tile.heights),
        _orientation(breakpoint_),
        _densities(tile.densities),
    )


def any_of(conditions: Iterable[str]) -> str:
    """One of the conditions at least; an empty one asks for nothing, and so does the whole."""
    listed = list(dict.fromkeys(conditions))
    return "" if "" in listed else ", ".join(listed)


def rung_condition(shown: Shown, shipped: Shipped) -> str:
    """The condition for the screens that get this rung; style sheet and hint share it."""
    breakpoint_ = shown.view.slot.breakpoint
    return any_of(tile_condition(tile, breakpoint_) for tile in joined(shipped.rung.tiles))
