"""Ways to serve a breakpoint, and which of them are taken where files are to be few."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import reduce
from itertools import product

from brightcanvas.plan.model import Parting, View
from brightcanvas.plan.parting import Cost


@dataclass(frozen=True)
class PartInSizes:
    """One part, in some sizes."""

    view: View
    load: Cost
    """For the average visit, files for nothing."""

    @property
    def files(self) -> int:
        """Its sizes, and one for browsers of any age; that one alone where next to nobody is."""
        picture = self.view.picture
        if picture is None:
            return 0
        return len(picture.rungs) + 1 if picture.demand.usual else 1

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


def way_of(parts: tuple[PartInSizes, ...], parting: Parting | None = None) -> Way:
    """A breakpoint in some parts."""
    load = reduce(Cost.plus, (one.load for one in parts)).total
    return Way(parts, parting, sum(one.files for one in parts), load)


def few_enough(ways: Sequence[Sequence[Way]], most: int) -> tuple[Way, ...]:
    """One way for each breakpoint, so that the average visit loads least within a number of files.

    Args:
        ways: for each breakpoint, at least one.
        most: files in all; where even the fewest are more, those are taken.
    """
    best: dict[int, tuple[float, tuple[Way, ...]]] = {0: (0.0, ())}
    for choices in ways:
        longer: dict[int, tuple[float, tuple[Way, ...]]] = {}
        for (files, (load, chosen)), way in product(best.items(), choices):
            count, total = files + way.files, load + way.load
            if count not in longer or total < longer[count][0]:
                longer[count] = total, (*chosen, way)
        best = longer
    within = [one for count, one in best.items() if count <= most]
    return min(within, key=lambda one: one[0])[1] if within else best[min(best)][1]
