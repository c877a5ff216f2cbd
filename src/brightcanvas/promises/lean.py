"""The promise *lean*: no window gets more than the stated factor of its own exact file's bytes."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.framing.size_variants import worst_excess
from brightcanvas.plan.planned import PlannedVariant
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict, sight_text
from brightcanvas.values.geometry import plain_number

NAME = "lean"


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view."""
    for backdrop, view in facts.views:
        if verdict := check_view(backdrop, view):
            yield verdict


def check_view(backdrop: str, view: PlannedVariant) -> Verdict | None:
    """The verdict for one view, by the bytes foretold; a drawing is one file for all anyway."""
    if view.picture is None or view.picture.facts.kind.is_drawing:
        return None
    demand = view.picture.demand
    factor, viewport_box, density = worst_excess(demand, view.picture.size_variants)
    name = view.slot.breakpoint.full_name
    says = (
        f"at most {max(factor, 1.0):.1f} times the bytes of its own exact file,"
        f" {sight_text(viewport_box)} at {plain_number(density)}x"
    )
    margin = demand.bound - factor
    remedy = "" if margin >= 0 else "files = 'tight' in [site], or one more breakpoint"
    return Verdict(
        NAME, backdrop, name, state=State.of(margin >= 0), says=says, margin=margin, remedy=remedy,
        is_rare=True,
    )  # fmt: skip
