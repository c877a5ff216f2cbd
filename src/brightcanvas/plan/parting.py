"""Parting a breakpoint: by the orientation of the window, and at whole widths.

Each part has a cut and sizes of its own. A breakpoint is parted where that saves the usual
screens bytes that are worth the files it takes, or keeps a promise that one cut can't. All ways
to part it by orientation, and at widths between those that people have, are compared.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache, reduce
from itertools import pairwise

from brightcanvas.brief.brief import Breakpoint
from brightcanvas.framing.usual_screens import usual_in
from brightcanvas.values.conditions import Condition
from brightcanvas.values.geometry import Orientation, Span, plain_number
from brightcanvas.values.screens import Screen

MOST_WIDTHS = 3
"""Widths within one orientation at which a breakpoint is tried to be parted."""

LEAST_STEP = 1.1
"""Widths that differ by less than this factor are not worth telling apart."""

UPRIGHT, SIDEWAYS = "upright", "sideways"


NOTICED = 0.05
"""Share of visits below which two ways to part lose as much of what was ordered."""


@dataclass(frozen=True)
class Cost:
    """What some parts cost the average visit: what it misses of the order, and what it loads."""

    bytes: float
    """Loaded; the files' price included."""
    missed: float = 0.0
    """Bytes that it is worth to keep all promises in windows that next to nobody has; 0: kept."""

    lost: float = 0.0
    """Share of all visits, 0..1, that see something else than what was ordered; one that sees
    half of a subject counts half."""
    is_broken: bool = False
    """Whether some window, if only one that nobody has, sees something else."""

    @property
    def total(self) -> float:
        """Of bytes."""
        return self.bytes + self.missed

    @property
    def rank(self) -> tuple[int, bool, float]:
        """What is lost decides first, then bytes: what no way can keep costs none of them more."""
        return round(self.lost / NOTICED), self.is_broken, self.total

    def plus(self, other: Cost) -> Cost:
        """Of both; promises are missed once."""
        return Cost(
            self.bytes + other.bytes,
            max(self.missed, other.missed),
            self.lost + other.lost,
            self.is_broken or other.is_broken,
        )


CostOf = Callable[[Breakpoint], Cost | None]
"""None for a part that no window has."""


@dataclass(frozen=True)
class Parted:
    """The parts of one breakpoint, and what they cost."""

    parts: tuple[Breakpoint, ...]
    cost: float
    whole: float
    """What it would cost in one part."""


def parted(whole: Breakpoint, usual: Sequence[Screen], most: int | None, cost_of: CostOf) -> Parted:
    """The way to part a breakpoint that keeps most, and of those the cheapest.

    In one part where no other way is better.

    Args:
        whole: the breakpoint.
        usual: the windows that people have, of all widths.
        most: parts, at most; None: any number.
        cost_of: one part.
    """
    once = cache(cost_of)
    known: dict[tuple[Breakpoint, ...], Cost] = {}
    for way in ways_to_part(whole, usual):
        costs = [cost for part in way if (cost := once(part))]
        if len(costs) == len(way) and (most is None or len(way) <= most):
            known[way] = reduce(Cost.plus, costs)
    best = min(known, key=lambda way: (known[way].rank, len(way)))
    return Parted(best, known[best].total, known[whole,].total)


def ways_to_part(whole: Breakpoint, usual: Sequence[Screen]) -> Iterator[tuple[Breakpoint, ...]]:
    """Every way that is compared; the first is in one part."""
    yield (whole,)
    if whole.orientation is not None:
        return
    yield from (way for way in _ways_across(whole, None, usual) if len(way) > 1)
    for upright in _ways_across(whole, Orientation.PORTRAIT, usual):
        for sideways in _ways_across(whole, Orientation.LANDSCAPE, usual):
            yield (*upright, *sideways)


def _ways_across(
    whole: Breakpoint, orientation: Orientation | None, usual: Sequence[Screen]
) -> Iterator[tuple[Breakpoint, ...]]:
    """All choices among the widths at which one orientation may be parted."""
    edges = _edges([one.viewport.width for one in usual_in(usual, whole.widths, orientation)])
    for chosen in range(2 ** len(edges)):
        cuts = [edge for bit, edge in enumerate(edges) if chosen >> bit & 1]
        spans = pairwise((whole.widths.low, *cuts, whole.widths.high))
        yield tuple(_part(whole, Span(low, high), orientation) for low, high in spans)


def _edges(widths: Sequence[float]) -> list[float]:
    """Round widths in the widest gaps between those that people have, rising."""
    gaps = [(two / one, one, two) for one, two in pairwise(sorted(set(widths)))]
    wide = [one for one in gaps if one[0] >= LEAST_STEP]
    widest = sorted(wide, reverse=True)[:MOST_WIDTHS]
    return sorted(round_between(one, two) for _, one, two in widest)


def round_between(low: float, high: float) -> float:
    """The roundest whole number above ``low`` up to ``high``, the nearest to their middle."""
    middle = math.sqrt(low * high)
    for step in (200, 100, 50, 40, 20, 10, 1):
        nearest = round(middle / step) * step
        if low < nearest <= high:
            return float(nearest)
    return high


def _part(whole: Breakpoint, widths: Span, orientation: Orientation | None) -> Breakpoint:
    words = [UPRIGHT if orientation is Orientation.PORTRAIT else SIDEWAYS] if orientation else []
    if widths != whole.widths:
        at_first = widths.low == whole.widths.low
        edge = widths.high if at_first else widths.low
        words.append(f"{'below' if at_first else 'from'}-{plain_number(edge)}")
    if orientation is None and widths == whole.widths:
        return whole
    part = "-".join(words)
    return replace(whole, when=Condition(widths, orientation), part=part, parted=whole)
