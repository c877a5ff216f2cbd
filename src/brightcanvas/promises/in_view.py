"""The promise *in view*: every subject is wholly visible in every box of every stage."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.framing.stages import Sight
from brightcanvas.plan.model import Picture, View
from brightcanvas.plan.planning import is_cut, usual_aspects_of
from brightcanvas.plan.remedies import ways_out
from brightcanvas.promises.facts import Facts
from brightcanvas.promises.verdict import State, Verdict, sight_text
from brightcanvas.values.geometry import Rect

NAME = "in view"
SLACK = 0.01
"""Source px by which rounding may push an edge out."""


def check(facts: Facts) -> Iterator[Verdict]:
    """The verdict for each view."""
    for backdrop, view in facts.views:
        if verdict := check_view(backdrop, view, seeks_ways=facts.seeks_ways):
            yield verdict


def check_view(backdrop: str, view: View, *, seeks_ways: bool = True) -> Verdict | None:
    """The verdict for one view; None where there is no subject or nothing is cut off."""
    picture = view.picture
    if picture is None or not picture.subjects or not is_cut(view.slot):
        return None
    name = view.slot.breakpoint.full_name
    ends = (picture.stage.narrowest, picture.stage.widest)
    worst = max(ends, key=lambda sight: lost_share(picture, sight.box.aspect))
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


def sure_window(picture: Picture, aspect: float) -> Rect:
    """What of the source (source px) a box shows at every moment of the drift."""
    window = picture.cut.seen_at(aspect)
    hidden = picture.stage.hidden * window.height
    return Rect(window.left, window.top + hidden, window.right, window.bottom - hidden)


def lost_share(picture: Picture, aspect: float) -> float:
    """How much of a subject's width or height a box of ``aspect`` cuts off; the worst, 0..1."""
    window = sure_window(picture, aspect)
    return max(_outside_share(subject, window) for subject in picture.subjects)


def _outside_share(subject: Rect, window: Rect) -> float:
    if window.contains(subject, SLACK):
        return 0.0
    across = max(0.0, window.left - subject.left) + max(0.0, subject.right - window.right)
    down = max(0.0, window.top - subject.top) + max(0.0, subject.bottom - window.bottom)
    shares = [
        min(1.0, outside / length) if length else 1.0
        for outside, length in ((across, subject.width), (down, subject.height))
        if outside > SLACK
    ]
    return max(shares, default=0.0)


def _kept(backdrop: str, name: str, picture: Picture) -> Verdict:
    """The verdict where it holds, with the box that brings a subject nearest to an edge."""
    ends = (picture.stage.narrowest, picture.stage.widest)
    tightest = min(ends, key=lambda sight: _clearance(picture, sight))
    clearance = max(0.0, _clearance(picture, tightest))
    says = f"tightest at {sight_text(tightest)}, {clearance:.0f} px from the edge"
    if "margin" in picture.framed.gave_way:
        says += "; the margin could not be kept"
    return Verdict(NAME, backdrop, name, state=State.HOLDS, says=says, margin=clearance)


def _clearance(picture: Picture, sight: Sight) -> float:
    """Least distance (CSS px) from a subject to the box's edge."""
    window = sure_window(picture, sight.box.aspect)
    scale = sight.box.width / window.width
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


def _lost(picture: Picture, worst: Sight, share: float) -> str:
    told = f"worst at {sight_text(worst)}, where {max(share, 0.01):.0%} of the subject is cut off"
    first = first_lost(picture, worst)
    return f"{told}; first lost at {sight_text(first)}" if first else told


def first_lost(picture: Picture, worst: Sight) -> Sight | None:
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
