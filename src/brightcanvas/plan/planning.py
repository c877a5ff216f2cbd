"""From a brief and the facts of its sources to a plan."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import product
from pathlib import Path

from brightcanvas.basics.errors import BriefError, SourceError
from brightcanvas.basics.fits import Cover, Exact, Fit, Rounded
from brightcanvas.basics.shapes import Point, Rect, Size, Span
from brightcanvas.brief.model import Backdrop, Breakpoint, Brief, Offer, Slot
from brightcanvas.eye.seams import seamless_size
from brightcanvas.framing.compromise import Framed, Order, frame
from brightcanvas.framing.cuts import CENTRE, Closeness, cut_at_position, whole
from brightcanvas.framing.screens import USUAL_SCREENS, UsualScreen, usual_in
from brightcanvas.framing.sizes import Demand, blurred, exact_bytes, leanest_aspect, sizes_for
from brightcanvas.framing.stages import Element, ScreenClass, Stage, stage_of, standard_screens
from brightcanvas.framing.weights import UNTRIED, Tried
from brightcanvas.framing.wishes import Wish
from brightcanvas.media.survey import SourceFacts, survey
from brightcanvas.plan.borrowing import borrowed
from brightcanvas.plan.model import BackdropPlan, Parting, Picture, Plan, Preparation, View
from brightcanvas.plan.parting import Cost, parted

Facts = Mapping[Path, SourceFacts]

Weigh = Callable[[Slot, Offer], Tried]
"""What is known of the files of a source at a slot's tone and score."""

LOST = 1e6
"""What a part costs in bytes that can't keep its order at the usual screens."""

MOST_FILES = 14
"""For one backdrop at three breakpoints: more is no help to anybody."""

DEARER = 6
"""How often files are made dearer until there are so few."""

MISSED = 3.0
"""Files that a part may cost to keep its order in windows that next to nobody has."""


def as_usual(slot: Slot, offer: Offer) -> Tried:  # noqa: ARG001
    """Of a picture that has not been tried yet."""
    return UNTRIED


def facts_of(brief: Brief, limit: float) -> dict[Path, SourceFacts]:
    """Of every source that a brief names.

    Raises:
        SourceError: naming every source that can't be used.
    """
    sources = {
        offer.source
        for backdrop in brief.backdrops
        for slot in backdrop.slots
        for offer in slot.offers
    }
    return survey_all(sorted(sources), limit)


def plan_with(brief: Brief, facts: Facts, weigh: Weigh = as_usual) -> Plan:
    """Plan all backdrops of a brief from the facts of its sources: arithmetic alone.

    Args:
        brief: as loaded.
        facts: of its sources.
        weigh: tells how files of a source weigh.
    """
    planner = _Planner(brief, facts, weigh, screens_of(brief), usual_of(brief), brief.price.least)
    return Plan(brief, tuple(_backdrop(one, planner) for one in brief.backdrops))


def _backdrop(one: Backdrop, planner: _Planner) -> BackdropPlan:
    """One backdrop; where that takes too many files, files are made dearer."""
    load = sum(map(_exact_load, map(planner.view, one.slots)))
    price = planner.brief.price.of(load)
    for _ in range(DEARER):
        planned = replace(planner, price=price).backdrop(one)
        if _file_count(planned) <= MOST_FILES:
            break
        price *= 1.5
    return planned


def screens_of(brief: Brief) -> tuple[ScreenClass, ...]:
    """The windows that can occur: of the screens that the brief names, or the built-in ones."""
    named = tuple(ScreenClass(one.name, one.widths, one.heights) for one in brief.screens)
    return named or standard_screens(brief.widest)


def usual_of(brief: Brief) -> tuple[UsualScreen, ...]:
    """The windows that many people have: the brief's own, or the built-in table.

    Of the built-in ones those up to the widest that is to be served. A screen of the brief stands
    for itself by its middle window. Where some state a share, only those count; where none does,
    all count alike.
    """
    if not brief.screens:
        return tuple(one for one in USUAL_SCREENS if one.viewport.width <= brief.widest)
    stated = [one for one in brief.screens if one.share is not None] or list(brief.screens)
    return tuple(
        UsualScreen(
            one.name,
            Size((one.widths.low + one.widths.high) / 2, (one.heights.low + one.heights.high) / 2),
            one.density,
            one.share if one.share is not None else 1 / len(stated),
        )
        for one in stated
    )


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


@dataclass(frozen=True)
class _Planner:
    """What the parts of one backdrop share."""

    brief: Brief
    facts: Facts
    weigh: Weigh
    screens: tuple[ScreenClass, ...]
    usual: tuple[UsualScreen, ...]
    price: float
    """Of a file, in bytes for the average visit."""

    def backdrop(self, one: Backdrop) -> BackdropPlan:
        """All parts of all breakpoints; parts that nobody is in borrow others' files."""
        views, partings = list[View](), list[Parting]()
        for slot in one.slots:
            if not self._may_be_parted(one, slot):
                views.append(self.view(slot))
                continue
            ways = parted(
                slot.breakpoint, self.usual, self.brief.most_parts, partial(self._cost, slot)
            )
            views += [self.view(replace(slot, breakpoint=part)) for part in ways.parts]
            if len(ways.parts) > 1:
                saved = ways.whole - ways.cost
                partings.append(Parting(slot.breakpoint.name, len(ways.parts), saved))
        return BackdropPlan(one, borrowed(tuple(views)), tuple(partings))

    def _may_be_parted(self, one: Backdrop, slot: Slot) -> bool:
        """A clip would be made once more for each part; a drawing is one file for all anyway."""
        kinds = [self.facts[offer.source].kind for offer in slot.offers]
        is_still = not (one.clip and slot.moving)
        return bool(kinds) and is_cut(slot) and is_still and not any(k.is_drawing for k in kinds)

    def view(self, slot: Slot) -> View:
        """One part of a breakpoint, or all of it."""
        if not slot.offers:
            return View(slot, None)
        stage = self._stage(slot)
        pictures = [self._picture(slot, offer, stage) for offer in slot.offers]
        return View(slot, max(pictures, key=_merit))

    def _cost(self, slot: Slot, part: Breakpoint) -> Cost:
        """Bytes for the average visit: what is loaded, the files' price, and what gives way."""
        if self._stage_within(slot, part) is None:
            return Cost(LOST)
        picture = self.view(replace(slot, breakpoint=part)).picture
        assert picture is not None
        lost, price = set(picture.framed.gave_way), self.price
        sizes, fallback = sizes_for(picture.demand), price  # the oldest format's one file
        blur = blurred(picture.demand, sizes.rungs)
        given_up = LOST * bool(lost & {"subject", "copy"})
        missed = MISSED * price if "windows" in lost else 0.0
        return Cost(sizes.cost + fallback + blur + given_up, missed)

    def _stage(self, slot: Slot) -> Stage:
        stage = self._stage_within(slot, slot.breakpoint)
        if stage is None:
            widths = slot.breakpoint.widths
            raise BriefError(
                f"Breakpoint '{slot.breakpoint.name}' ({widths.low:g} to {widths.high:g} CSS px):"
                " no screen has such a width. Change 'below', or 'widest' in [site]."
            )
        return stage

    def _stage_within(self, slot: Slot, part: Breakpoint) -> Stage | None:
        element = Element(
            slot.height, slot.width, slot.growth, slot.drift, fixed=slot.attachment == "fixed"
        )
        return stage_of(part.widths, element, self.screens, part.orientation)

    def _picture(self, slot: Slot, offer: Offer, stage: Stage) -> Picture:
        brief, facts = self.brief, self.facts[offer.source]
        preparation = preparation_of(slot)
        size = seamless_size(facts.size) if preparation.seamless else facts.size
        subjects = tuple(one.scaled(size) for one in offer.subjects)
        copy = _copy_in_picture(slot.copy.box, stage.hidden) if slot.copy else None
        usual = usual_in(self.usual, slot.breakpoint.widths, slot.breakpoint.orientation)
        tried = self.weigh(slot, offer)
        demand = Demand(size, stage, _fit(slot), usual, brief.densest, self.price, tried.weights)
        order = None
        if is_cut(slot) and not slot.position:
            order = _order(slot, offer, size, subjects, copy, demand)
        framed = frame(order) if order else _as_stated(slot, size, stage)
        demand = replace(demand, cut=framed.cut.area.size, source=size)
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
            rungs=sizes_for(demand).rungs,
            tone=slot.tone,
            tried=tried,
        )


def _file_count(planned: BackdropPlan) -> int:
    """Files that a plan takes: its sizes, and one for each part for browsers of any age."""
    pictures = (view.picture for view in planned.views)
    own = [one for one in pictures if one and not one.lender]
    return sum(len(one.rungs) + 1 if one.demand.usual else 1 for one in own)


def _exact_load(view: View) -> float:
    """Bytes that the average visit would load if every screen had a file of its own."""
    demand = view.picture.demand if view.picture else None
    return sum(one.share * exact_bytes(demand, one) for one in demand.usual) if demand else 0.0


def _merit(picture: Picture) -> tuple[float, float, float]:
    """Which of several sources serves best: what it keeps of the order, then its pixels."""
    framed, area = picture.framed, picture.cut.area
    enough = picture.rungs[-1].width * area.height
    return framed.share, -len(framed.gave_way), min(enough, area.width * area.height)


def preparation_of(slot: Slot) -> Preparation:
    """What is done to a source's pixels for a slot, before anything is cut."""
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
    subjects: tuple[Rect, ...],
    copy: Rect | None,
    demand: Demand,
) -> Order:
    stage, usual = demand.stage, demand.usual
    middle = Rect(source.width / 2, source.height / 2, source.width / 2, source.height / 2)
    wish = Wish(
        source,
        stage.aspects,
        subjects or (middle,),
        copy if slot.copy and slot.copy.clear_of_subject and subjects else None,
        stage.hidden if subjects else 0.0,
    )
    boxes = [stage.grown_box(one.viewport) for one in usual]
    sharp = Size(
        max((box.width for box in boxes), default=stage.largest.width),
        max((box.height for box in boxes), default=stage.largest.height),
    ).times(demand.densest)
    return Order(
        wish,
        offer.margin * min(source.width, source.height),
        Closeness(slot.closeness),
        sharp,
        leanest_aspect(demand, source),
        usual_aspects(stage, usual),
    )


def usual_aspects(stage: Stage, usual: Sequence[UsualScreen]) -> Span | None:
    """From the least to the greatest aspect of the usual screens' boxes; None without any."""
    aspects = _aspects(stage, usual)
    return Span(min(aspects), max(aspects)) if aspects else None


def usual_aspects_of(picture: Picture) -> list[float]:
    """The aspects of the usual screens' boxes, as they are and grown."""
    return _aspects(picture.stage, picture.demand.usual)


def _aspects(stage: Stage, usual: Sequence[UsualScreen]) -> list[float]:
    boxes = product(usual, (False, True))
    return [stage.element.box(one.viewport, grown=grown).aspect for one, grown in boxes]


def is_cut(slot: Slot) -> bool:
    """Whether boxes cut something off the picture at all."""
    return isinstance(slot.fit, Cover) and slot.repeat == "no-repeat"


def _as_stated(slot: Slot, source: Size, stage: Stage) -> Framed:
    # Whole tiles are only whole at both ends if the first one begins at the first end.
    position = slot.position or (Point(0, 0) if slot.whole_motifs else CENTRE)
    if is_cut(slot):
        return Framed(cut_at_position(source, stage.aspects, position))
    return Framed(whole(source, position))
