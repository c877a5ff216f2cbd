"""The promise *clear of the subject*: the copy's box and the subjects never overlap."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.framing.copies import covered_share, worst_overlap
from brightcanvas.plan.planned import PlannedVariant
from brightcanvas.plan.planning import is_cut, usual_aspects_of
from brightcanvas.plan.remedies import ways_out
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict, sight_text

NAME = "clear of the subject"
SLACK = 1e-4
"""Share of a subject that rounding may put under the copy."""


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view."""
    for backdrop, view in facts.views:
        if verdict := check_view(backdrop, view, seeks_ways=facts.seeks_ways):
            yield verdict


def check_view(backdrop: str, view: PlannedVariant, *, seeks_ways: bool = True) -> Verdict | None:
    """The verdict for one view; None where nobody asked for it."""
    picture, copy = view.picture, view.slot.copy
    if picture is None or picture.copy is None or copy is None or not copy.clear_of_subject:
        return None
    if not picture.subjects or not is_cut(view.slot):
        return None
    stage = picture.stage
    places = [place for part in picture.copies for place in part.places]
    aspect, share = max(
        (worst_overlap(picture.cut, one.box, picture.subjects, one.aspects) for one in places),
        key=lambda one: one[1],
    )
    name = view.slot.breakpoint.full_name
    if share <= SLACK:
        ends = sight_text(stage.narrowest), sight_text(stage.widest)
        windows = f"from {ends[0]} to {ends[1]}" if ends[0] != ends[1] else "in every window"
        says = f"the copy stays off the subject, {windows}"
        return Verdict(NAME, backdrop, name, state=State.HOLDS, says=says, margin=0.0)
    says = f"at {sight_text(stage.sight_with(aspect))} the copy covers {share:.0%} of the subject"
    is_rare = all(
        covered_share(picture.cut, place.box, picture.subjects, aspect_) <= SLACK
        for aspect_ in usual_aspects_of(picture)
        for place in places
        if place.aspects.low <= aspect_ <= place.aspects.high
    )
    says += "; at the usual screens it stays clear of it" if is_rare else ""
    return Verdict(
        NAME, backdrop, name, State.BROKEN, says, margin=-share,
        remedy=ways_out(picture) if seeks_ways else "", is_rare=is_rare,
    )  # fmt: skip
