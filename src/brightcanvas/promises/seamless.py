"""The promise *seamless*: a repeated picture shows no seam."""

from __future__ import annotations

from brightcanvas.analysis.seams import VISIBLE_FROM, Seams
from brightcanvas.plan.model import View
from brightcanvas.promises.verdict import Verdict

NAME = "seamless"


def check(backdrop: str, view: View, seams: Seams) -> Verdict | None:
    """The verdict for one view; None where nothing repeats."""
    if view.picture is None or view.slot.repeat == "no-repeat":
        return None
    across = seams.across if view.slot.repeat != "repeat-y" else 0.0
    down = seams.down if view.slot.repeat != "repeat-x" else 0.0
    says = (
        f"seam left to right {across:.1f}, top to bottom {down:.1f}"
        f" (1 is like the strongest lines inside, seen from {VISIBLE_FROM:g})"
    )
    holds = max(across, down) < VISIBLE_FROM
    remedy = "" if holds else "seamless = true blends the edges into each other"
    return Verdict(
        NAME,
        backdrop,
        view.slot.breakpoint.full_name,
        holds=holds,
        says=says,
        margin=VISIBLE_FROM - max(across, down),
        remedy=remedy,
    )
