"""From a brief and the facts of its sources to a plan."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from itertools import product
from pathlib import Path

from brightcanvas.analysis.seams import seamless_size
from brightcanvas.brief.brief import Backdrop, Breakpoint, Brief, Slot, SourceOption
from brightcanvas.formats.survey import SourceFacts, survey
from brightcanvas.framing.compromise import CutOrder, Framed, frame
from brightcanvas.framing.copies import (
    CopyPart,
    CopyPlace,
    covered_share,
    hull,
    measured_parts,
)
from brightcanvas.framing.cuts import (
    CENTRE,
    Closeness,
    cut_at_position,
    whole,
)
from brightcanvas.framing.size_variants import (
    Demand,
    blurred,
    choices_of,
    exact_bytes,
    leanest_aspect,
    sizes_for,
)
from brightcanvas.framing.stages import Element, ScreenClass, Stage, stage_of, standard_screens
from brightcanvas.framing.usual_screens import USUAL_SCREENS, usual_in
from brightcanvas.framing.weights import UNTRIED, KnownPicture
from brightcanvas.framing.wishes import CutWish
from brightcanvas.plan.parting import Cost, parted
from brightcanvas.plan.planned import (
    BackdropPlan,
    Parting,
    Picture,
    Plan,
    PlannedVariant,
    Preparation,
    lost_share,
)
from brightcanvas.plan.ways import PartInSizes, Way, borrowed, few_enough, way_of
from brightcanvas.values.element_boxes import padding_height
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.geometry import Point, Rect, Size, Span
from brightcanvas.values.layers import Cover, Exact, Fit, Rounded
from brightcanvas.values.screens import Screen

SourcesFacts = Mapping[Path, SourceFacts]

ChoicesOf = Callable[[Breakpoint], Sequence[PartInSizes]]

Weigh = Callable[[Slot, SourceOption], KnownPicture]
"""What is known of the files of a source at a slot's tone and score."""

MOST_FILES = 14
"""For one backdrop at three breakpoints: more is no help to anybody."""

DEARER, STEPS = 1.25, 16
"""At ever higher prices of a file, ways to serve a breakpoint with fewer are looked for."""

MISSED = 3.0
"""Files that a part may cost to keep its order in windows that next to nobody has."""


def as_usual(slot: Slot, offer: SourceOption) -> KnownPicture:  # noqa: ARG001
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


def plan_with(brief: Brief, facts: SourcesFacts, weigh: Weigh = as_usual) -> Plan:
    """Plan all backdrops of a brief from the facts of its sources: arithmetic alone.

    Args:
        brief: as loaded.
        facts: of its sources.
        weigh: tells how files of a source weigh.
    """
    planner = _Planner(brief, facts, weigh, screens_of(brief), usual_of(brief), brief.price.least)
    return Plan(brief, tuple(_backdrop(one, planner) for one in brief.backdrops))


def plan_in_parts(
    brief: Brief, facts: SourcesFacts, weigh: Weigh, parts: Sequence[Breakpoint]
) -> Plan:
    """Plan the one backdrop of a brief in parts that are given: a fraction of the work.

    Args:
        brief: with one backdrop.
        facts: of its sources.
        weigh: tells how files of a source weigh.
        parts: of the brief's breakpoints; in each of them windows occur.
    """
    planner = _Planner(brief, facts, weigh, screens_of(brief), usual_of(brief), brief.price.least)
    [one] = brief.backdrops
    slots = {slot.breakpoint: slot for slot in one.slots}
    views = tuple(planner.view(replace(slots[part.whole], breakpoint=part)) for part in parts)
    return Plan(brief, (BackdropPlan(one, borrowed(views)),))


def _backdrop(one: Backdrop, planner: _Planner) -> BackdropPlan:
    """One backdrop; where that takes too many files, breakpoints are served in fewer."""
    load = sum(map(_exact_load, map(planner.view, one.slots)))
    priced = replace(planner, price=planner.brief.price.of(load))
    ways = [priced.ways(one, slot) for slot in one.slots]
    chosen = tuple(next(way) for way in ways)
    if sum(way.files for way in chosen) > MOST_FILES:
        chosen = few_enough([*map(_ever_fewer, chosen, ways)], MOST_FILES)
    views = tuple(part.view for way in chosen for part in way.parts)
    return BackdropPlan(one, borrowed(views), tuple(way.parting for way in chosen if way.parting))


def _ever_fewer(first: Way, dearer: Iterable[Way]) -> list[Way]:
    """Those with fewer files than all before them, until there are no fewer."""
    found = [first]
    for way in dearer:
        if way.files < found[-1].files:
            found.append(way)
        if way.files <= FEWEST:
            break
    return found


FEWEST = 2
"""Files that a breakpoint takes at least: one size, and one for browsers of any age."""


def screens_of(brief: Brief) -> tuple[ScreenClass, ...]:
    """The windows that can occur: of the screens that the brief names, or the built-in ones."""
    named = tuple(ScreenClass(one.name, one.widths, one.heights) for one in brief.screens)
    return named or standard_screens(brief.widest)


def usual_of(brief: Brief) -> tuple[Screen, ...]:
    """The windows that many people have: the brief's own, or the built-in table.

    Of the built-in ones those up to the widest that is to be served. A screen of the brief stands
    for itself by its middle window. Where some state a share, only those count; where none does,
    all count alike.
    """
    if not brief.screens:
        return tuple(one for one in USUAL_SCREENS if one.viewport.width <= brief.widest)
    stated = [one for one in brief.screens if one.share is not None] or list(brief.screens)
    return tuple(
        Screen(
            one.name,
            Size((one.widths.low + one.widths.high) / 2, (one.heights.low + one.heights.high) / 2),
            one.density,
            one.share if one.share is not None else 1 / len(stated),
        )
        for one in stated
    )


def survey_all(sources: Sequence[Path], limit: float) -> dict[Path, SourceFacts]:
    """Survey every source; all that can't be used are named together.

    Args:
        sources: paths.
        limit: megapixels of a source, at most.

    Raises:
        SourceError: naming them, a line each.
    """
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
    facts: SourcesFacts
    weigh: Weigh
    screens: tuple[ScreenClass, ...]
    usual: tuple[Screen, ...]
    price: float
    """Of a file, in bytes for the average visit."""

    def ways(self, one: Backdrop, slot: Slot) -> Iterator[Way]:
        """The cheapest way to serve a breakpoint, then those at ever higher prices of a file."""
        if not self._may_be_parted(one, slot):
            yield way_of((self._served(self.view(slot)),))
            return
        choices = cache(lambda part: self._choices(slot, part))
        for step in range(STEPS):
            yield self._way(slot, choices, self.price * DEARER**step)

    def _way(self, slot: Slot, choices: ChoicesOf, price: float) -> Way:
        @cache
        def best(part: Breakpoint) -> PartInSizes | None:
            return min(choices(part), key=lambda one: one.cost(price).total, default=None)

        def cost(part: Breakpoint) -> Cost | None:
            served = best(part)
            return served.cost(price) if served else None

        ways = parted(slot.breakpoint, self.usual, self.brief.most_parts, cost)
        parts = tuple(served for part in ways.parts if (served := best(part)))
        saved = ways.whole - ways.cost
        parting = Parting(slot.breakpoint.name, len(parts), saved) if len(parts) > 1 else None
        return way_of(parts, parting)

    def _choices(self, slot: Slot, part: Breakpoint) -> list[PartInSizes]:
        """One part with all sizes that may be taken; nothing where no window is in it."""
        if self._stage_within(slot, part) is None:
            return []
        view = self.view(replace(slot, breakpoint=part))
        assert view.picture is not None
        return [
            self._served(replace(view, picture=replace(view.picture, sizes=sizes)))
            for sizes in choices_of(view.picture.demand)
        ]

    def _served(self, view: PlannedVariant) -> PartInSizes:
        """A view with what it costs the average visit: what is loaded, and what gives way."""
        picture = view.picture
        if picture is None:
            return PartInSizes(view, Cost(0.0))
        lost = set(picture.framed.gave_way)
        blur = blurred(picture.demand, picture.size_variants)
        is_broken = bool(lost & {"subject", "copy"})
        missed = MISSED * self.price if "windows" in lost else 0.0
        given_up = lost_visits(picture) if is_broken else 0.0
        return PartInSizes(view, Cost(picture.sizes.load + blur, missed, given_up, is_broken))

    def _may_be_parted(self, one: Backdrop, slot: Slot) -> bool:
        """A clip would be made once more for each part; a drawing is one file for all anyway."""
        kinds = [self.facts[offer.source].kind for offer in slot.offers]
        is_still = not (one.clip and slot.moving)
        return bool(kinds) and is_cut(slot) and is_still and not any(k.is_drawing for k in kinds)

    def view(self, slot: Slot) -> PlannedVariant:
        """One part of a breakpoint, or all of it."""
        if not slot.offers:
            return PlannedVariant(slot, None)
        stage = self._stage(slot)
        pictures = [self._picture(slot, offer, stage) for offer in slot.offers]
        return PlannedVariant(slot, max(pictures, key=_merit))

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
        return stage_of(part.widths, element_of(slot), self.screens, part.orientation)

    def _picture(self, slot: Slot, offer: SourceOption, stage: Stage) -> Picture:
        brief, facts = self.brief, self.facts[offer.source]
        preparation = preparation_of(slot)
        size = seamless_size(facts.size) if preparation.seamless else facts.size
        subjects = tuple(one.scaled(size) for one in offer.subjects)
        copies = _copies(slot, stage)
        copy = hull(place.box for part in copies for place in part.places) if copies else None
        usual = usual_in(self.usual, slot.breakpoint.widths, slot.breakpoint.orientation)
        tried = self.weigh(slot, offer)
        demand = Demand(
            size, stage, _fit(slot), usual, brief.densest, tried.weights, tried.places,
            around=_middle_of(offer.subjects),
        )  # fmt: skip
        order = None
        if is_cut(slot) and not slot.position:
            order = _order(slot, offer, size, subjects, copy, demand, self.price)
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
            copies=copies,
            order=order,
            framed=framed,
            demand=demand,
            sizes=sizes_for(demand, self.price),
            tone=slot.tone,
            tried=tried,
        )


def _exact_load(view: PlannedVariant) -> float:
    """Bytes that the average visit would load if every screen had a file of its own."""
    demand = view.picture.demand if view.picture else None
    return sum(one.share * exact_bytes(demand, one) for one in demand.usual) if demand else 0.0


def _merit(picture: Picture) -> tuple[float, float, float]:
    """Which of several sources serves best: what it keeps of the order, then its pixels."""
    framed, area = picture.framed, picture.cut.area
    enough = picture.size_variants[-1].width * area.height
    return framed.share, -len(framed.gave_way), min(enough, area.width * area.height)


def _middle_of(subjects: Sequence[Rect]) -> Point:
    """Of all subjects together, in fractions of the source."""
    if not subjects:
        return CENTRE
    lefts, tops = (one.left for one in subjects), (one.top for one in subjects)
    rights, bottoms = (one.right for one in subjects), (one.bottom for one in subjects)
    return Rect(min(lefts), min(tops), max(rights), max(bottoms)).centre


def element_of(slot: Slot) -> Element:
    """How the box of a slot's element follows from the viewport."""
    return Element(
        slot.height,
        slot.width,
        slot.growth,
        padding_height(slot.padding),
        slot.drift,
        fixed=slot.attachment == "fixed",
        measured=slot.boxes,
    )


def preparation_of(slot: Slot) -> Preparation:
    """What is done to a source's pixels for a slot, before anything is cut."""
    repeated = slot.repeat != "no-repeat"
    return Preparation(repeated and slot.seamless, repeated and slot.whole_motifs)


def _fit(slot: Slot) -> Fit:
    if slot.whole_motifs and isinstance(slot.fit, Exact):
        return Rounded(slot.fit.width)
    return slot.fit


def _copies(slot: Slot, stage: Stage) -> tuple[CopyPart, ...]:
    """Where the copy lies in a stage's boxes: as measured, or in one box in all of them."""
    copy = slot.copy
    if copy is None:
        return ()
    if copy.windows:
        parts = measured_parts(copy.windows, stage)
    else:
        parts = (CopyPart(copy.letters, (CopyPlace(stage.aspects, copy.box),)),)
    return tuple(
        replace(part, places=tuple(
            replace(place, box=_copy_in_picture(place.box, stage.hidden)) for place in part.places
        ))
        for part in parts
    )  # fmt: skip


def _copy_in_picture(box: Rect, hidden: float) -> Rect:
    """The copy's box over all of the drift, in fractions of the higher picture."""
    still = 1 - hidden
    return Rect(box.left, box.top * still, box.right, box.bottom * still + hidden)


def _order(
    slot: Slot,
    offer: SourceOption,
    source: Size,
    subjects: tuple[Rect, ...],
    copy: Rect | None,
    demand: Demand,
    price: float,
) -> CutOrder:
    stage, usual = demand.stage, demand.usual
    middle = Rect(source.width / 2, source.height / 2, source.width / 2, source.height / 2)
    wish = CutWish(
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
    return CutOrder(
        wish,
        offer.margin * min(source.width, source.height),
        Closeness(slot.closeness),
        sharp,
        leanest_aspect(demand, source, price),
        usual_aspects(stage, usual),
    )


def usual_aspects(stage: Stage, usual: Sequence[Screen]) -> Span | None:
    """From the least to the greatest aspect of the usual screens' boxes; None without any."""
    aspects = _aspects(stage, usual)
    return Span(min(aspects), max(aspects)) if aspects else None


def lost_visits(picture: Picture) -> float:
    """Share of all visits, 0..1, that don't see the subjects whole and clear of the copy.

    One that sees half of a subject counts half.
    """
    if picture.order is None or not picture.subjects:
        return 0.0
    return sum(
        one.share * _lost_at(picture, picture.stage.grown_box(one.viewport).aspect)
        for one in picture.demand.usual
    )


def _lost_at(picture: Picture, aspect: float) -> float:
    """How much of a subject a box hides, 0..1: cut off, or under the copy."""
    assert picture.order is not None
    copy, cut_off = picture.order.wish.copy, lost_share(picture, aspect)
    if copy is None:
        return cut_off
    return max(cut_off, covered_share(picture.cut, copy, picture.subjects, aspect))


def usual_aspects_of(picture: Picture) -> list[float]:
    """The aspects of the usual screens' boxes, as they are and grown."""
    return _aspects(picture.stage, picture.demand.usual)


def _aspects(stage: Stage, usual: Sequence[Screen]) -> list[float]:
    boxes = product(usual, (False, True))
    return [stage.element.box(one.viewport, grown=grown).aspect for one, grown in boxes]


def is_cut(slot: Slot) -> bool:
    """Whether boxes cut something off the picture at all.

    A page's own rule, whose position is neither known nor given up for a subject, gets all of the
    picture.
    """
    is_known = not slot.keeps_rule or slot.position is not None or slot.places_picture
    return isinstance(slot.fit, Cover) and slot.repeat == "no-repeat" and is_known


def _as_stated(slot: Slot, source: Size, stage: Stage) -> Framed:
    # Whole tiles are only whole at both ends if the first one begins at the first end.
    position = slot.position or (Point(0, 0) if slot.whole_motifs else CENTRE)
    if is_cut(slot):
        return Framed(cut_at_position(source, stage.aspects, position))
    return Framed(whole(source, position))
