"""Ways out where not everything can hold; each is checked to work before it is named."""

from __future__ import annotations

import math
from dataclasses import replace

from brightcanvas.framing.compromise import (
    CutOrder,
    other_breakpoint,
    other_source,
    smaller_subject,
)
from brightcanvas.framing.stages import Stage
from brightcanvas.plan.model import Picture
from brightcanvas.values.geometry import Span

TRIED_WIDTHS = 24
WORTH_NAMING = 0.05
"""A subject's box that would have to shrink below this share of its size is no way out."""


def ways_out(picture: Picture) -> str:
    """What would make the whole order hold, in words; every one has been tried."""
    if picture.order is None:
        return "leave 'position' out, so that it follows from the subject"
    order = replace(picture.order, margin=0.0)
    found = (_breakpoint(order, picture.stage), _smaller(order), _source(order))
    ways = [way for way in found if way]
    if not ways:
        return (
            "no single change was found that would do: another place for the copy, or two sources"
        )
    return f"it would hold with {'; or with '.join(ways)}"


def _smaller(order: CutOrder) -> str | None:
    share = smaller_subject(order)
    if share is None or share < WORTH_NAMING:
        return None
    return f"a subject's box {math.floor(share * 100)} % as large, about the same middle"


def _source(order: CutOrder) -> str | None:
    size = other_source(order)
    if size is None:
        return None
    return (
        f"a source with more scene round the subject, {math.ceil(size.width)} x"
        f" {math.ceil(size.height)} px at this scale"
    )


def _breakpoint(order: CutOrder, stage: Stage) -> str | None:
    width = other_breakpoint(order, stage.widths, list(_parted(stage)))
    return None if width is None else f"one more breakpoint at {width:.0f} px"


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
