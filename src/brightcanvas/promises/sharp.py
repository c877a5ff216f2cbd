"""The promise *sharp*: no screen gets fewer pixels than it shows, or it is named."""

from __future__ import annotations

import math

from brightcanvas.basics.shapes import plain_number
from brightcanvas.plan.model import View
from brightcanvas.promises.verdict import Verdict

NAME = "sharp"


def check(backdrop: str, view: View) -> Verdict | None:
    """The verdict for one view; a named shortfall is told, not broken."""
    if view.picture is None:
        return None
    name = view.slot.breakpoint.name
    last = view.picture.rungs[-1]
    if last.shortfall is None:
        return Verdict(NAME, backdrop, name, holds=True, says="enough pixels up to 2x", margin=0)
    short = last.shortfall
    viewport = short.sight.viewport
    stretched = short.needed_width / last.width
    says = (
        f"the source is short: at {math.floor(viewport.width)} x {math.floor(viewport.height)} and"
        f" {plain_number(short.density)}x it is stretched {stretched:.2f} times"
    )
    wanted = math.ceil(view.picture.facts.size.width * stretched)
    remedy = f"a source {wanted} px wide would do"
    return Verdict(NAME, backdrop, name, holds=True, says=says, margin=1 - stretched, remedy=remedy)
