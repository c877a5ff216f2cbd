"""The promise *in view*: every subject is wholly visible in every box of every stage."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.framing.stages import ViewportBox
from brightcanvas.plan.planned import Picture, PlannedVariant, lost_share, sure_window
from brightcanvas.plan.planning import is_cut, usual_aspects_of
from brightcanvas.plan.remedies import ways_out
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict, sight_text
from brightcanvas.values.geometry import Rect, Size

NAME = "in view"
CERTAIN, MISSED = 0.4, 0.25
"""What stands out in a picture is taken for its subject from such a certainty on, and missed
where more than such a part of its width or height is cut off."""


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view."""
    for backdrop, view in facts.views:
        verdict = check_view(backdrop, view, seeks_ways=facts.seeks_ways)
        if verdict := verdict or _check_nameless(backdrop, view, facts.suggestions.get(view)):
            yield verdict


def check_view(backdrop: str, view: PlannedVariant, *, seeks_ways: bool = True) -> Verdict | None:
    """The verdict for one view; None where there is no subject or nothing is cut off."""
    picture = view.picture
    if picture is None or not picture.subjects or not is_cut(view.slot):
        return None
    name = view.slot.breakpoint.full_name
    ends = (picture.stage.narrowest, picture.stage.widest)
    worst = max(ends, key=lambda viewport_box: lost_share(picture, viewport_box.box.aspect))
    share = lost_share(picture, worst.box.aspect)
    if share == 0:
        return _kept(backdrop, name, picture)
    says = _lost(picture, worst, share)
    is_rare = not any(lost_share(picture, aspect) for aspect in usual_aspects_of(picture))
    says += "; the usual screens show all of it" if is_rare else ""
    return Verdict(
        NAME, backdrop, name, State.BROKEN, says, margin=-share,
        remedy=ways_out(picture) if seeks_ways else "", is_rare=is_rare,
    )  # fmt: skip


def missed_most(
    view: PlannedVariant, suggestion: Suggestion | None
) -> tuple[ViewportBox, float] | None:
    """Where usual screens miss most of what stands out, and how much of it (0..1).

    None where nothing stands out, none of them misses much, or no cut could show more of it.
    """
    picture = view.picture
    if picture is None or suggestion is None or suggestion.confidence < CERTAIN:
        return None
    box = suggestion.box.scaled(picture.size)
    likely = replace(picture, subjects=(box,))
    aspects = [one for one in usual_aspects_of(picture) if _has_room(picture.size, box, one)]
    found = {aspect: lost_share(likely, aspect) for aspect in aspects}
    worst = max(found, key=found.__getitem__, default=None)
    if worst is None or found[worst] <= MISSED:
        return None
    return picture.stage.sight_with(worst), found[worst]


def _has_room(source: Size, box: Rect, aspect: float) -> bool:
    """Whether the largest window of an aspect can show nearly all of a box."""
    width, height = (
        min(source.width, source.height * aspect),
        min(source.height, source.width / aspect),
    )
    return min(width / max(box.width, 1), height / max(box.height, 1)) >= 1 - MISSED


def _check_nameless(
    backdrop: str, view: PlannedVariant, suggestion: Suggestion | None
) -> Verdict | None:
    """A note where usual screens miss much of what stands out, though nobody named a subject."""
    found = missed_most(view, suggestion)
    if found is None or suggestion is None:
        return None
    where, share = sight_text(found[0]), found[1]
    says = f"no subject is named; {share:.0%} of what stands out most is cut off at {where}"
    edges = ", ".join(f"{edge:.2f}" for edge in suggestion.box.edges)
    instead = " instead of position" if view.slot.position else ""
    return Verdict(
        NAME, backdrop, view.slot.breakpoint.full_name, State.NOTE, says, margin=-share,
        remedy=f"subject = {{ box = [{edges}] }}{instead} keeps it in view",
    )  # fmt: skip


def _kept(backdrop: str, name: str, picture: Picture) -> Verdict:
    """The verdict where it holds, with the box that brings a subject nearest to an edge."""
    ends = (picture.stage.narrowest, picture.stage.widest)
    tightest = min(ends, key=lambda viewport_box: _clearance(picture, viewport_box))
    clearance = max(0.0, _clearance(picture, tightest))
    says = f"tightest at {sight_text(tightest)}, {clearance:.0f} px from the edge"
    if "margin" in picture.framed.gave_way:
        says += "; the margin could not be kept"
    return Verdict(NAME, backdrop, name, state=State.HOLDS, says=says, margin=clearance)


def _clearance(picture: Picture, viewport_box: ViewportBox) -> float:
    """Least distance (CSS px) from a subject to the box's edge."""
    window = sure_window(picture, viewport_box.box.aspect)
    scale = viewport_box.box.width / window.width
    return scale * min(
        distance
        for subject in picture.subjects
        for distance in (
            subject.left - window.left,
            window.right - subject.right,
            subject.top - window.top,
            window.bottom - subject.bottom,
        )
    )


def _lost(picture: Picture, worst: ViewportBox, share: float) -> str:
    told = f"worst at {sight_text(worst)}, where {max(share, 0.01):.0%} of the subject is cut off"
    first = first_lost(picture, worst)
    return f"{told}; first lost at {sight_text(first)}" if first else told


def first_lost(picture: Picture, worst: ViewportBox) -> ViewportBox | None:
    """The box nearest to the holding ones that loses a subject; None if every box loses it.

    Towards the worst box the windows only get smaller, so halving finds where it begins.
    """
    stage = picture.stage
    other = stage.widest if worst == stage.narrowest else stage.narrowest
    holding, losing = picture.cut.area.size.aspect, worst.box.aspect
    if lost_share(picture, holding):
        holding = other.box.aspect
    if lost_share(picture, holding):
        return None
    for _ in range(30):
        middle = (holding + losing) / 2
        if lost_share(picture, middle):
            losing = middle
        else:
            holding = middle
    return stage.sight_with(losing)
