"""The promise *lean*: no screen gets more than the stated factor of the pixels it needs."""

from __future__ import annotations

from brightcanvas.basics.shapes import plain_number
from brightcanvas.framing.rungs import leanest
from brightcanvas.plan.model import View
from brightcanvas.promises.verdict import Verdict

NAME = "lean"


def check(backdrop: str, view: View) -> Verdict | None:
    """The verdict for one view, by the pixels across."""
    if view.picture is None:
        return None
    worst = leanest(view.picture.demand, view.picture.rungs)
    most = view.picture.demand.excess
    name = view.slot.breakpoint.name
    where = f"{worst.viewport.width:.0f} px wide at {plain_number(round(worst.density, 2))}x"
    says = f"at most {worst.factor:.2f} times the pixels across, {where}"
    margin = most - worst.factor
    holds = margin >= 0
    remedy = "" if holds else "raise 'excess' in [site], or narrow the heights that occur"
    return Verdict(NAME, backdrop, name, holds=holds, says=says, margin=margin, remedy=remedy)
