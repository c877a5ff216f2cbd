"""Ways to serve a breakpoint, and which of them are taken where files are to be few."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import reduce
from itertools import product

from brightcanvas.framing.cuts import is_clear, window_size
from brightcanvas.framing.size_variants import worst_excess
from brightcanvas.framing.stages import Stage
from brightcanvas.plan.parting import Cost
from brightcanvas.plan.planned import Parting, Picture, PlannedVariant
from brightcanvas.values.geometry import Size


@dataclass(frozen=True)
class PartInSizes:
    """One part, in some sizes."""

    view: PlannedVariant
    load: Cost
    """For the average visit, files for nothing."""

    @property
    def files(self) -> int:
        """Its sizes, and one for browsers of any age; that one alone where next to nobody is."""
        picture = self.view.picture
        if picture is None:
            return 0
        return len(picture.size_variants) + 1 if picture.demand.usual else 1

    def cost(self, price: float) -> Cost:
        """With its files at a price each."""
        return replace(self.load, bytes=self.load.bytes + price * self.files)


@dataclass(frozen=True)
class Way:
    """A breakpoint in one or more parts."""

    parts: tuple[PartInSizes, ...]
    parting: Parting | None
    files: int
    """Of all parts."""
    load: float
    """Bytes for the average visit."""
    lost: int = 0
    """How much of the order its visits miss; see ``Cost.rank``."""


def way_of(parts: tuple[PartInSizes, ...], parting: Parting | None = None) -> Way:
    """A breakpoint in some parts."""
    cost = reduce(Cost.plus, (one.load for one in parts))
    return Way(parts, parting, sum(one.files for one in parts), cost.total, cost.rank[0])


def few_enough(ways: Sequence[Sequence[Way]], most: int) -> tuple[Way, ...]:
    """One way for each breakpoint, so that least is lost, and least loaded, within so many files.

    Args:
        ways: for each breakpoint, at least one.
        most: files in all; where even the fewest are more, those are taken.
    """
    best: dict[int, tuple[Way, ...]] = {0: ()}
    for choices in ways:
        longer: dict[int, tuple[Way, ...]] = {}
        for (files, chosen), way in product(best.items(), choices):
            count, further = files + way.files, (*chosen, way)
            if count not in longer or _worth(further) < _worth(longer[count]):
                longer[count] = further
        best = longer
    within = [one for count, one in best.items() if count <= most]
    return min(within, key=_worth) if within else best[min(best)]


def _worth(chosen: Sequence[Way]) -> tuple[int, float]:
    """What is lost, and what is loaded; less is better."""
    return sum(way.lost for way in chosen), sum(way.load for way in chosen)


def borrowed(views: tuple[PlannedVariant, ...]) -> tuple[PlannedVariant, ...]:
    """The views, those without usual screens with another one's files where they serve as well."""
    return tuple(_served(view, views) for view in views)


def _served(view: PlannedVariant, views: tuple[PlannedVariant, ...]) -> PlannedVariant:
    picture = view.picture
    if picture is None or picture.demand.usual or picture.order is None:
        return view
    lenders = [one.picture for one in views if one.picture and _is_alike(view, one)]
    for lender in sorted(lenders, key=lambda one: one.size_variants[-1].width):
        if found := _with_files_of(picture, lender):
            return PlannedVariant(view.slot, found)
    return view


def _is_alike(view: PlannedVariant, other: PlannedVariant) -> bool:
    """Whether files made for one would be made in the same way for the other."""
    slot = replace(other.slot, breakpoint=view.slot.breakpoint, height=view.slot.height)
    assert view.picture is not None
    return (
        other.picture is not None
        and bool(other.picture.demand.usual)
        and slot == view.slot
        and other.picture.offer == view.picture.offer
    )


def _with_files_of(picture: Picture, lender: Picture) -> Picture | None:
    """The picture with another one's cut and sizes; None where they don't serve it."""
    if not _keeps(lender, picture.stage):
        return None
    framed = replace(lender.framed, gave_way=picture.framed.gave_way)
    demand = replace(lender.demand, stage=picture.stage, usual=())
    if worst_excess(demand, lender.size_variants)[0] > demand.bound:
        return None
    return replace(picture, framed=framed, demand=demand, sizes=lender.sizes, lender=lender)


def _keeps(lender: Picture, stage: Stage) -> bool:
    """Whether a cut shows all subjects, clear of the copy, in every box of a stage."""
    cut, order = lender.cut, lender.order
    if order is None or lender.framed.gave_way:
        return False
    aspects = stage.aspects
    ends = (cut.seen_at(aspect) for aspect in (aspects.low, aspects.high))
    in_view = all(window.contains(one, 0.01) for window in ends for one in lender.subjects)
    copy = order.wish.copy
    shows_enough = _least_shown(cut.area.size, stage) > LEAST_SHOWN
    return (
        in_view
        and shows_enough
        and (copy is None or is_clear(cut, copy, order.wish.subjects, aspects))
    )


LEAST_SHOWN = 0.25
"""Share of a cut's area that each box shows at least; less is a blow-up."""


def _least_shown(cut: Size, stage: Stage) -> float:
    windows = (window_size(cut, one) for one in (stage.aspects.low, stage.aspects.high))
    return min(one.width * one.height for one in windows) / (cut.width * cut.height)
