"""Sizes: the pixel sizes in which a cut is shipped, by what they save.

Browsers choose among candidates of 1x, 2x and 3x alike (the smallest that is dense enough, else
the densest), so screens of one part fall into three classes, and a part has one to three sizes.
A size exists only if the bytes that it saves, times the share of people who save them, are worth
its price. Each is as large as most of the screens that get it need; on dense screens a few px less
are not seen.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from itertools import pairwise

from brightcanvas.framing.cuts import CENTRE, window_size
from brightcanvas.framing.stages import Stage, ViewportBox
from brightcanvas.framing.usual_screens import quantile
from brightcanvas.framing.weights import EVEN_PLACES, USUAL_WEIGHTS, Places, Weights
from brightcanvas.values.geometry import Point, Rect, Size
from brightcanvas.values.layers import Fit
from brightcanvas.values.screens import Screen

CLASSES = (1, 2, 3)
"""The densities that candidates are written with."""

GROUPINGS: tuple[tuple[tuple[int, ...], ...], ...] = (
    ((1, 2, 3),),
    ((1,), (2, 3)),
    ((1, 2), (3,)),
    ((1,), (2,), (3,)),
)
"""Every way in which the classes can share sizes, with as many sizes as groups."""

FULLY_SERVED, MOSTLY_SERVED = 0.9, 0.64
"""The share of a size's screens that have all the px they need: of plain screens, and of dense
ones, on which a few px less are not seen."""

LEAST_SERVED = 0.75
"""Of the px that they need, what all usual screens have at least: 1.5 to a CSS px on a screen of
2."""

DENSE = 1.5

BOUND = 6.0
"""No window gets more than this many times the bytes of its own exact file."""


@dataclass(frozen=True)
class Shortfall:
    """The screen at which the largest size has fewer px than are shown."""

    viewport_box: ViewportBox
    density: float
    needed_width: int
    """Px across that the screen shows of the whole cut."""


@dataclass(frozen=True)
class SizeVariant:
    """One size of a cut."""

    width: int
    height: int
    """Px, one to one: as large as most of its screens need. The file may have fewer px where
    the score as displayed is reached all the same."""
    label: int
    """The density that its candidate is written with: 1, 2 or 3."""
    density: float
    """Px of it that make a CSS px on the usual screen that shows it largest."""


@dataclass(frozen=True)
class Demand:
    """Everything that decides how many px are needed."""

    cut: Size
    """In source px."""
    stage: Stage
    fit: Fit
    usual: tuple[Screen, ...] = ()
    """Those of the stage."""
    densest: float = 2.0
    """Screens of a higher density get no more px than this one."""
    weights: Weights = USUAL_WEIGHTS
    places: Places = EVEN_PLACES
    source: Size | None = None
    """What the cut is made of, in px; None: the cut is all of it."""
    around: Point = CENTRE
    """What cuts are made around, in fractions of the source."""
    bound: float = BOUND

    @property
    def whole(self) -> Size:
        """The source, in px."""
        return self.source or self.cut

    def needed(self, box: Size) -> float:
        """Px across at density 1 at which a box draws the whole cut."""
        return self.fit.drawn_width(self.cut.aspect, box)

    def drawn(self, viewport: Size) -> float:
        """CSS px across at which a window draws the whole cut."""
        return self.needed(self.stage.grown_box(viewport))

    def bytes(self, width: float, density: float, seen: Size | None = None) -> float:
        """Foretold of a file.

        Args:
            width: px across of the whole cut.
            density: px of it that make a CSS px.
            seen: how much of the source it has, in source px; None: the whole cut.
        """
        scale = width / self.cut.width
        px = scale * scale * self.whole.width * self.whole.height
        share = self._share(seen) if seen else self._cut_share
        return self.weights.bytes(px, density) * share

    @cached_property
    def _cut_share(self) -> float:
        return self._share(self.cut)

    def _share(self, seen: Size) -> float:
        """Of the source's bytes that a part of it has."""
        left, right = _around(self.around.x, seen.width / self.whole.width)
        top, bottom = _around(self.around.y, seen.height / self.whole.height)
        return self.places.share(Rect(left, top, right, bottom))


def _around(middle: float, length: float) -> tuple[float, float]:
    """From where to where a part of 0..1 reaches that keeps within it."""
    start = min(max(middle - length / 2, 0.0), max(1 - length, 0.0))
    return start, start + length


@dataclass(frozen=True)
class Sizes:
    """The sizes of a part, and what they cost the average visit."""

    size_variants: tuple[SizeVariant, ...]
    """The least dense first."""
    load: float
    """Bytes, times the share of those who load them."""

    def cost(self, price: float) -> float:
        """What the choice of sizes makes least: the load, and the files at a price each."""
        return self.load + price * len(self.size_variants)


def class_of(density: float) -> int:
    """Which candidate a screen takes, if there is one for each class."""
    return 1 if density <= 1 else 2 if density <= 2 else 3


def rung_for(size_variants: Sequence[SizeVariant], density: float) -> SizeVariant:
    """The size that a browser takes: the smallest that is dense enough, else the densest."""
    enough = (one for one in size_variants if one.label >= density)
    return next(enough, size_variants[-1])


def sizes_for(demand: Demand, price: float) -> Sizes:
    """The sizes that cost the usual screens least, within the bound.

    Args:
        demand: of the part.
        price: bytes that a size has to save the average visit.
    """
    return min(choices_of(demand), key=lambda one: one.cost(price))


@lru_cache(maxsize=4096)
def choices_of(demand: Demand) -> tuple[Sizes, ...]:
    """All sizes that may be taken: one choice for each way of sharing that keeps to the bound.

    Where none keeps to it, the one with most sizes serves.
    """
    tried = list(_tried(demand))
    within = [one for one in tried if worst_excess(demand, one.size_variants)[0] <= demand.bound]
    return tuple(within) or (max(tried, key=lambda one: len(one.size_variants)),)


def _tried(demand: Demand) -> Iterator[Sizes]:
    """Each way of sharing that gives every group somebody, and px in rising order."""
    fair = [(one, FAIR * exact_bytes(demand, one)) for one in demand.usual]
    present = {class_of(one.density) for one in demand.usual}
    for grouping in GROUPINGS:
        is_filled = all(present & set(group) for group in grouping)
        if is_filled or len(grouping) == 1:
            sizes = _sizes(demand, grouping, fair)
            if all(one.width < two.width for one, two in pairwise(sizes.size_variants)):
                yield sizes


def _sizes(
    demand: Demand,
    grouping: Sequence[tuple[int, ...]],
    fair: Sequence[tuple[Screen, float]],
) -> Sizes:
    """The sizes of one way of sharing, and the bytes that people load.

    Bytes beyond a fair measure count more: so no kind of screen pays for the others.
    """
    size_variants, load = list[SizeVariant](), 0.0
    for group in grouping:
        screens = [(one, most) for one, most in fair if class_of(one.density) in group]
        is_last = group is grouping[-1]
        size_variant = _rung(
            demand, [one for one, _ in screens], group[0] if is_last else group[-1]
        )
        loaded = demand.bytes(size_variant.width, size_variant.density)
        load += sum(
            one.share * (loaded + UNFAIR * max(0.0, loaded - most)) for one, most in screens
        )
        size_variants.append(size_variant)
    return Sizes(tuple(size_variants), load)


def exact_bytes(demand: Demand, screen: Screen) -> float:
    """Foretold of a file that has just what a screen shows of the cut, as far as there are px."""
    box, cut = demand.stage.grown_box(screen.viewport), demand.cut
    density, drawn = _capped(demand, screen), demand.needed(box)
    seen = Size(
        cut.width * min(box.width / drawn, 1.0),
        cut.height * min(box.height * cut.aspect / drawn, 1.0),
    )
    return demand.bytes(min(drawn * density, cut.width), density, seen)


FAIR, UNFAIR = 1.15, 2.0
"""Times its own exact file that a screen may load, and how much more counts what goes beyond."""


def _rung(demand: Demand, screens: Sequence[Screen], label: int) -> SizeVariant:
    """As large as most of the screens need; without any, as the largest window at 1x needs."""
    if not screens:
        drawn = max(demand.needed(viewport_box.box) for viewport_box in demand.stage.corners)
        return _sized(demand, drawn, drawn, label)
    needs = [(demand.drawn(one.viewport) * _capped(demand, one), one.share) for one in screens]
    wanted = max(
        quantile(needs, served_share(screens)), LEAST_SERVED * max(need for need, _ in needs)
    )
    return _sized(demand, wanted, max(demand.drawn(one.viewport) for one in screens), label)


def served_share(screens: Sequence[Screen]) -> float:
    """How many (0..1) of some screens have to have all the px that they need."""
    dense = sum(one.share for one in screens if one.density >= DENSE)
    is_dense = dense > sum(one.share for one in screens) / 2
    return MOSTLY_SERVED if is_dense else FULLY_SERVED


def _sized(demand: Demand, wanted: float, drawn: float, label: int) -> SizeVariant:
    """A size of about the wanted px across, as far as the cut has them.

    Args:
        demand: of the part.
        wanted: px across.
        drawn: CSS px across at which the largest of its screens draws the cut.
        label: of its candidate.
    """
    width = min(math.ceil(round(wanted, 6)), max(1, math.floor(demand.cut.width + 1e-6)))
    return SizeVariant(
        width, max(1, round(width / demand.cut.aspect)), label, round(width / drawn, 4)
    )


def _capped(demand: Demand, screen: Screen) -> float:
    return min(screen.density, demand.densest)


def worst_excess(
    demand: Demand, size_variants: Sequence[SizeVariant]
) -> tuple[float, ViewportBox, float]:
    """How many times the bytes of its own exact file a window gets at most; which, how dense.

    The least needy window of each class is at a corner of the stage.
    """
    least = min(demand.stage.corners, key=lambda viewport_box: demand.needed(viewport_box.box))
    drawn = demand.needed(least.box)
    worst = (0.0, least, 1.0)
    for density in CLASSES:
        size_variant = rung_for(size_variants, density)
        exact = demand.bytes(drawn * min(density, demand.densest), min(density, demand.densest))
        excess = demand.bytes(size_variant.width, size_variant.density) / exact
        worst = max(worst, (excess, least, float(density)), key=lambda one: one[0])
    return worst


BLUR = 3.0
"""How many times the bytes that it lacks a screen pays which gets too few px: what gives way gives
way where few people are, but not for the sake of a few bytes."""


def blurred(demand: Demand, size_variants: Sequence[SizeVariant]) -> float:
    """What it costs the usual screens to lack px, in bytes for the average visit.

    Only px count that a crop of their own would have.
    """
    source, cost = demand.source or demand.cut, 0.0
    for one in demand.usual:
        box, density = demand.stage.grown_box(one.viewport), _capped(demand, one)
        there = min(density, window_size(source, box.aspect).width / box.width)
        drawn = demand.needed(box)
        lacking = WELL_SERVED - rung_for(size_variants, one.density).width / (drawn * there)
        if lacking > ROUNDING:
            cost += one.share * BLUR * lacking * demand.bytes(drawn * there, there)
    return cost


WELL_SERVED = 0.9
"""Of the px that a screen needs: fewer are told from all of them."""

ROUNDING = 0.01
"""Share of the px that whole px may cost."""


def shortfall_of(demand: Demand, size_variants: Sequence[SizeVariant]) -> Shortfall | None:
    """The usual screen that lacks most px because the source has no more; None without one."""
    widest = size_variants[-1].width
    if widest + 1 < demand.cut.width:
        return None
    needs = [(demand.drawn(one.viewport) * _capped(demand, one), one) for one in demand.usual]
    needed, screen = max(needs, key=lambda one: one[0], default=(0.0, None))
    if screen is None or math.ceil(round(needed, 6)) <= widest:
        return None
    viewport_box = demand.stage.viewport_box(screen.viewport)
    return Shortfall(viewport_box, _capped(demand, screen), math.ceil(needed))


def leanest_aspect(demand: Demand, source: Size, price: float) -> float | None:
    """The shape of a cut with which the usual screens load least; None without any.

    Wider than a box, a cut's sides are cut off there; narrower, its top and bottom. The boxes' own
    shapes are tried, evenly spread where there are many.

    Args:
        demand: whose cut is still open.
        source: in px; cuts are taken as large as it has them.
        price: of a size, in bytes for the average visit.
    """
    boxes = (demand.stage.grown_box(one.viewport) for one in demand.usual)
    own = sorted({round(box.aspect, 3) for box in boxes})

    def cost(aspect: float) -> float:
        tried = replace(demand, cut=window_size(source, aspect), source=source)
        sizes = sizes_for(tried, price)
        return sizes.cost(price) + blurred(tried, sizes.size_variants)

    return min(_spread(own), key=cost, default=None)


TRIED_ASPECTS = 7


def _spread(values: Sequence[float]) -> list[float]:
    """Some of the values, evenly spread over all of them."""
    count = min(len(values), TRIED_ASPECTS)
    last = len(values) - 1
    return [values[round(number * last / max(count - 1, 1))] for number in range(count)]
