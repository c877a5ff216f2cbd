"""The promise *sharp*: no screen gets fewer pixels than it shows, or it is named."""

from __future__ import annotations

import math

from brightcanvas.basics.shapes import plain_number
from brightcanvas.plan.model import Picture, View
from brightcanvas.promises.verdict import Verdict, sight_text

NAME = "sharp"


def check(backdrop: str, view: View) -> Verdict | None:
    """The verdict for one view; a named shortfall is told, not broken."""
    if view.picture is None:
        return None
    name = view.slot.breakpoint.name
    last = view.picture.rungs[-1]
    if last.shortfall is None:
        return Verdict(NAME, backdrop, name, holds=True, says=_enough(view.picture), margin=0)
    short = last.shortfall
    stretched = short.needed_width / last.width
    wanted = math.ceil(view.picture.size.width * stretched)
    says = (
        f"the source is short: at {sight_text(short.sight)} and {plain_number(short.density)}x"
        f" it is stretched {stretched:.2f} times"
    )
    remedy = f"a source {wanted} px wide would do"
    return Verdict(NAME, backdrop, name, holds=True, says=says, margin=1 - stretched, remedy=remedy)


def _enough(picture: Picture) -> str:
    return f"enough pixels up to {plain_number(picture.demand.densest)}x"
