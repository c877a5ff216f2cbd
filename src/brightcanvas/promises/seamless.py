"""The promise *seamless*: a repeated picture shows no seam."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.analysis.seams import VISIBLE_FROM, Seams
from brightcanvas.plan.planned import PlannedVariant
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict

NAME = "seamless"


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view that repeats its picture."""
    for backdrop, view in facts.views:
        if seams := facts.seams.get(view):
            yield check_view(backdrop, view, seams)


def check_view(backdrop: str, view: PlannedVariant, seams: Seams) -> Verdict:
    """The verdict for one view, which repeats its picture one way or both."""
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
        state=State.of(holds),
        says=says,
        margin=VISIBLE_FROM - max(across, down),
        remedy=remedy,
    )
