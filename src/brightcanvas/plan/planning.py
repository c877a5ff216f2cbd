"""From a brief and the facts of its sources to a plan."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from brightcanvas.basics.errors import BriefError, SourceError
from brightcanvas.basics.fits import Cover, Exact, Fit, Rounded
from brightcanvas.basics.shapes import Point, Rect, Size
from brightcanvas.brief.model import Brief, Offer, Slot
from brightcanvas.eye.seams import seamless_size
from brightcanvas.framing.compromise import Framed, Order, frame
from brightcanvas.framing.cuts import CENTRE, Closeness, cut_at_position, whole
from brightcanvas.framing.rungs import Demand, rungs_for
from brightcanvas.framing.stages import Element, ScreenClass, Stage, stage_of, standard_screens
from brightcanvas.framing.wishes import Wish
from brightcanvas.media.survey import DEFAULT_LIMIT, SourceFacts, survey
from brightcanvas.plan.model import BackdropPlan, Picture, Plan, Preparation, View

Facts = Mapping[Path, SourceFacts]


def plan_brief(brief: Brief, limit: float = DEFAULT_LIMIT) -> Plan:
    """Plan all backdrops of a brief, looking at each source's head once.

    Raises:
        SourceError: naming every source that can't be used.
        BriefError: a breakpoint holds no width that a screen has.
    """
    sources = {
        offer.source
        for backdrop in brief.backdrops
        for slot in backdrop.slots
        for offer in slot.offers
    }
    return plan_with(brief, survey_all(sorted(sources), limit))


def plan_with(brief: Brief, facts: Facts) -> Plan:
    """Plan all backdrops of a brief from the facts of its sources: arithmetic alone."""
    screens = screens_of(brief)
    return Plan(
        brief,
        tuple(
            BackdropPlan(one, tuple(_view(slot, brief, facts, screens) for slot in one.slots))
            for one in brief.backdrops
        ),
    )


def screens_of(brief: Brief) -> tuple[ScreenClass, ...]:
    """The screens that the brief names, or else the built-in table."""
    named = tuple(ScreenClass(one.name, one.widths, one.heights) for one in brief.screens)
    return named or standard_screens(brief.widest)


def survey_all(sources: Sequence[Path], limit: float) -> dict[Path, SourceFacts]:
    """Survey every source; all that can't be used are named together."""
    facts: dict[Path, SourceFacts] = {}
    refused: list[str] = []
    for source in sources:
        try:
            facts[source] = survey(source, limit)
        except SourceError as error:
            refused.append(str(error))
    if refused:
        raise SourceError("\n".join(refused))
    return facts


def _view(slot: Slot, brief: Brief, facts: Facts, screens: tuple[ScreenClass, ...]) -> View:
    if not slot.offers:
        return View(slot, None)
    stage = _stage(slot, screens)
    pictures = [_picture(slot, offer, facts[offer.source], stage, brief) for offer in slot.offers]
    return View(slot, max(pictures, key=_merit))


def _merit(picture: Picture) -> tuple[float, float, float]:
    """Which of several sources serves best: what it keeps of the order, then its pixels."""
    framed, area = picture.framed, picture.cut.area
    enough = picture.rungs[-1].width * area.height
    return framed.share, -len(framed.gave_way), min(enough, area.width * area.height)


def _stage(slot: Slot, screens: tuple[ScreenClass, ...]) -> Stage:
    element = Element(
        slot.height, slot.width, slot.growth, slot.drift, fixed=slot.attachment == "fixed"
    )
    stage = stage_of(slot.breakpoint.widths, element, screens, slot.breakpoint.orientation)
    if stage is None:
        widths = slot.breakpoint.widths
        raise BriefError(
            f"Breakpoint '{slot.breakpoint.name}' ({widths.low:g} to {widths.high:g} CSS px): no"
            " screen has such a width. Change 'below', or 'widest' in [site]."
        )
    return stage


def _picture(slot: Slot, offer: Offer, facts: SourceFacts, stage: Stage, brief: Brief) -> Picture:
    preparation = _preparation(slot)
    size = seamless_size(facts.size) if preparation.seamless else facts.size
    subjects = tuple(one.scaled(size) for one in offer.subjects)
    copy = _copy_in_picture(slot.copy.box, stage.hidden) if slot.copy else None
    order = _order(slot, offer, size, stage, subjects, copy, brief.densest)
    framed = frame(order) if order else _as_stated(slot, size, stage)
    demand = Demand(framed.cut.area.size, stage, _fit(slot), brief.densest, brief.excess)
    return Picture(
        offer=offer,
        facts=facts,
        size=size,
        preparation=preparation,
        stage=stage,
        subjects=subjects,
        copy=copy,
        order=order,
        framed=framed,
        demand=demand,
        rungs=rungs_for(demand),
        tone=slot.tone,
    )


def _preparation(slot: Slot) -> Preparation:
    repeated = slot.repeat != "no-repeat"
    return Preparation(repeated and slot.seamless, repeated and slot.whole_motifs)


def _fit(slot: Slot) -> Fit:
    if slot.whole_motifs and isinstance(slot.fit, Exact):
        return Rounded(slot.fit.width)
    return slot.fit


def _copy_in_picture(box: Rect, hidden: float) -> Rect:
    """The copy's box over all of the drift, in fractions of the higher picture."""
    still = 1 - hidden
    return Rect(box.left, box.top * still, box.right, box.bottom * still + hidden)


def _order(
    slot: Slot,
    offer: Offer,
    source: Size,
    stage: Stage,
    subjects: tuple[Rect, ...],
    copy: Rect | None,
    densest: float,
) -> Order | None:
    if slot.position or not is_cut(slot):
        return None
    middle = Rect(source.width / 2, source.height / 2, source.width / 2, source.height / 2)
    wish = Wish(
        source,
        stage.aspects,
        subjects or (middle,),
        copy if slot.copy and slot.copy.clear_of_subject and subjects else None,
        stage.hidden if subjects else 0.0,
    )
    margin = offer.margin * min(source.width, source.height)
    sharp = stage.largest.times(densest)
    return Order(wish, margin, Closeness(slot.closeness), sharp)


def is_cut(slot: Slot) -> bool:
    """Whether boxes cut something off the picture at all."""
    return isinstance(slot.fit, Cover) and slot.repeat == "no-repeat"


def _as_stated(slot: Slot, source: Size, stage: Stage) -> Framed:
    # Whole tiles are only whole at both ends if the first one begins at the first end.
    position = slot.position or (Point(0, 0) if slot.whole_motifs else CENTRE)
    if is_cut(slot):
        return Framed(cut_at_position(source, stage.aspects, position))
    return Framed(whole(source, position))
