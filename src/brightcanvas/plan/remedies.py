"""Ways out where not everything can hold; each is checked to work before it is named."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

from brightcanvas.framing.compromise import (
    CutOrder,
    other_breakpoint,
    other_source,
    smaller_subject,
)
from brightcanvas.framing.stages import Stage
from brightcanvas.plan.planned import Picture
from brightcanvas.values.geometry import Span

TRIED_WIDTHS = 24
WORTH_NAMING = 0.05
"""A subject's box that would have to shrink below this share of its size is no way out."""


@dataclass(frozen=True)
class WayOut:
    """One change with which the whole order would hold."""

    what: str
    """``breakpoint``, ``subject`` or ``source``."""
    amount: float
    """A width in CSS px; how large the subject's box would be, 0 to 1; a source's px across."""
    says: str


def ways_out(picture: Picture) -> str:
    """What would make the whole order hold, in words; every one has been tried."""
    if picture.order is None:
        return "leave 'position' out, so that it follows from the subject"
    ways = [way.says for way in found_ways(picture)]
    if not ways:
        return (
            "no single change was found that would do: another place for the copy, or two sources"
        )
    return f"it would hold with {'; or with '.join(ways)}"


def found_ways(picture: Picture) -> tuple[WayOut, ...]:
    """Every way out that there is."""
    if picture.order is None:
        return ()
    return _ways(replace(picture.order, margin=0.0), picture.stage)


@lru_cache(maxsize=256)
def _ways(order: CutOrder, stage: Stage) -> tuple[WayOut, ...]:
    found = (_breakpoint(order, stage), _smaller(order), _source(order))
    return tuple(way for way in found if way)


def _smaller(order: CutOrder) -> WayOut | None:
    share = smaller_subject(order)
    if share is None or share < WORTH_NAMING:
        return None
    percent = math.floor(share * 100)
    says = f"a subject's box {percent} % as large, about the same middle"
    return WayOut("subject", percent / 100, says)


def _source(order: CutOrder) -> WayOut | None:
    size = other_source(order)
    if size is None:
        return None
    return WayOut(
        "source",
        math.ceil(size.width),
        f"a source with more scene round the subject, {math.ceil(size.width)} x"
        f" {math.ceil(size.height)} px at this scale",
    )


def _breakpoint(order: CutOrder, stage: Stage) -> WayOut | None:
    width = other_breakpoint(order, stage.widths, list(_parted(stage)))
    if width is None:
        return None
    return WayOut("breakpoint", round(width), f"one more breakpoint at {width:.0f} px")


def _parted(stage: Stage) -> list[tuple[float, Span, Span]]:
    """Widths at which the stage could be parted, with the aspects of both sides."""
    low, high = stage.widths.low, stage.widths.high
    parted = []
    for step in range(1, TRIED_WIDTHS):
        width = round(low + (high - low) * step / TRIED_WIDTHS)
        below, above = stage.part(Span(low, width)), stage.part(Span(width, high))
        if low < width < high and below and above:
            parted.append((float(width), below.aspects, above.aspects))
    return parted
