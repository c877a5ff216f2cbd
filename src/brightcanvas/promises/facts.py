"""What promises are checked by."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.analysis.seams import Seams
from brightcanvas.brief.model import Budget
from brightcanvas.ledger.model import Record
from brightcanvas.plan.model import Plan, View
from brightcanvas.tasks.copy import Legibility
from brightcanvas.values.geometry import Size


@dataclass(frozen=True)
class BudgetLoad:
    """A budget, and the screen that loads the most of what it allows."""

    budget: Budget
    bytes: int
    clips: int
    """Bytes of it that are clips."""
    viewport: Size
    """CSS px."""
    density: float
    lowest: float
    """The lowest score that is asked of its pictures."""
    is_lowered: bool
    """Whether scores were brought down for it."""
    offers: tuple[str, ...]
    """Ways to fewer bytes, tried, where it is not held."""


@dataclass(frozen=True)
class Facts:
    """All that is known. Before anything is made, that is the plan."""

    plan: Plan
    record: Record | None = None
    """What was published."""
    seams: Mapping[View, Seams] = field(default_factory=dict)
    """Of what is repeated."""
    legibility: Mapping[View, Legibility] = field(default_factory=dict)
    """Of what has copy."""
    suggestions: Mapping[View, Suggestion] = field(default_factory=dict)
    """Of what is cut round no named subject."""
    loads: tuple[BudgetLoad, ...] = ()
    seeks_ways: bool = True
    """Whether ways out are looked for where something does not hold: that takes longest."""

    @property
    def views(self) -> Iterator[tuple[str, View]]:
        """Each view with its backdrop's name."""
        return ((one.backdrop.name, view) for one in self.plan.backdrops for view in one.views)
