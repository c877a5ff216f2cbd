"""The promise *in view*: the subject is wholly visible in every box of every stage."""

from __future__ import annotations

import math
from dataclasses import dataclass

from brightcanvas.basics.fits import Cover
from brightcanvas.basics.shapes import Rect, Size
from brightcanvas.framing.stages import Sight, Stage
from brightcanvas.plan.model import Picture, View
from brightcanvas.promises.verdict import Verdict

NAME = "in view"
SLACK = 0.01
"""Source px by which rounding may push an edge out."""


@dataclass(frozen=True)
class Loss:
    """A box in which the subject is not wholly visible."""

    sight: Sight
    share: float
    """How much of the subject's width or height is cut off, 0..1; the worse of both."""


def check(backdrop: str, view: View) -> Verdict | None:
    """The verdict for one view; None where there is no subject or nothing is cut off."""
    picture = view.picture
    if picture is None or picture.subject is None or not isinstance(view.slot.fit, Cover):
        return None
    if view.slot.repeat != "no-repeat":
        return None
    name = view.slot.breakpoint.name
    losses = [
        loss
        for sight in (picture.stage.narrowest, picture.stage.widest)
        if (loss := loss_at(picture, sight))
    ]
    if not losses:
        return _kept(backdrop, name, picture)
    worst = max(losses, key=lambda loss: loss.share)
    says, remedy = _lost(picture, worst), _remedy(picture, worst)
    return Verdict(NAME, backdrop, name, holds=False, says=says, margin=-worst.share, remedy=remedy)


def loss_at(picture: Picture, sight: Sight) -> Loss | None:
    """What a box cuts off from the subject, if anything."""
    subject = picture.subject
    window = picture.cut.seen_at(sight.box.aspect)
    if subject is None or window.contains(subject, SLACK):
        return None
    return Loss(sight, max(_outside_share(subject, window), 0.01))


def _outside_share(subject: Rect, window: Rect) -> float:
    across = max(0.0, window.left - subject.left) + max(0.0, subject.right - window.right)
    down = max(0.0, window.top - subject.top) + max(0.0, subject.bottom - window.bottom)
    shares = [
        min(1.0, outside / length) if length else 1.0
        for outside, length in ((across, subject.width), (down, subject.height))
        if outside > SLACK
    ]
    return max(shares, default=0.0)


def _kept(backdrop: str, name: str, picture: Picture) -> Verdict:
    """The verdict where it holds, with the box that brings the subject nearest to an edge."""
    sights = (picture.stage.narrowest, picture.stage.widest)
    tightest = min(sights, key=lambda sight: _clearance(picture, sight))
    clearance = max(0.0, _clearance(picture, tightest))
    says = f"tightest at {_where(tightest)}, {clearance:.0f} px from the edge"
    return Verdict(NAME, backdrop, name, holds=True, says=says, margin=clearance)


def _clearance(picture: Picture, sight: Sight) -> float:
    """Least distance (CSS px) from the subject to an edge that this box cuts at."""
    subject, window = picture.subject, picture.cut.seen_at(sight.box.aspect)
    assert subject is not None
    scale = sight.box.width / window.width
    return scale * min(
        subject.left - window.left,
        window.right - subject.right,
        subject.top - window.top,
        window.bottom - subject.bottom,
    )


def _where(sight: Sight) -> str:
    return f"a viewport of {_whole(sight.viewport)}"


def _whole(size: Size) -> str:
    return f"{math.floor(size.width)} x {math.floor(size.height)}"


def _lost(picture: Picture, worst: Loss) -> str:
    first = first_lost(picture, worst.sight)
    told = f"worst at {_where(worst.sight)}, where {worst.share:.0%} of the subject is cut off"
    return f"{told}; first lost at {_whole(first.viewport)}" if first != worst.sight else told


def first_lost(picture: Picture, worst: Sight) -> Sight:
    """The box nearest to the holding ones that loses the subject, at the worst one's height.

    Widths are tried by halving: towards the worst box the windows only get smaller.
    """
    holding, losing = _other_end(picture.stage, worst).viewport.width, worst.viewport.width
    height = worst.viewport.height
    for _ in range(30):
        middle = (holding + losing) / 2
        if loss_at(picture, _sight(picture.stage, middle, height)):
            losing = middle
        else:
            holding = middle
    return _sight(picture.stage, losing, height)


def _sight(stage: Stage, width: float, height: float) -> Sight:
    viewport = Size(width, height)
    return Sight(viewport, stage.element.box(viewport))


def _other_end(stage: Stage, worst: Sight) -> Sight:
    return stage.widest if worst == stage.narrowest else stage.narrowest


def _remedy(picture: Picture, worst: Loss) -> str:
    """What would help, by which axis the box cuts at."""
    window = picture.cut.seen_at(worst.sight.box.aspect)
    cut, subject = picture.cut.area, picture.subject
    assert subject is not None
    if window.width < cut.width:
        return (
            f"make the subject's box narrower than {window.width / picture.facts.size.width:.2f} of"
            " the picture, lower the element's height here, or give this breakpoint a taller source"
        )
    return (
        f"make the subject's box lower than {window.height / picture.facts.size.height:.2f} of the"
        " picture, raise the element's height here, or give this breakpoint a wider source"
    )
