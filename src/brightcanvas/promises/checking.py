"""All promises, over everything that is known, and what they are checked by.

Each module of this room that has a ``check`` is a promise: it takes the facts and yields verdicts,
none where it isn't concerned or nothing is known yet. So a new promise is one new file.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cache

import brightcanvas.promises
from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.analysis.seams import Seams
from brightcanvas.brief.brief import Budget
from brightcanvas.ledger.record import Record
from brightcanvas.plan.planned import Plan, PlannedVariant
from brightcanvas.promises.verdict import Verdict, downgrade_rare
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
class PromiseFacts:
    """All that is known. Before anything is made, that is the plan."""

    plan: Plan
    record: Record | None = None
    """What was published."""
    seams: Mapping[PlannedVariant, Seams] = field(default_factory=dict)
    """Of what is repeated."""
    legibility: Mapping[PlannedVariant, Legibility] = field(default_factory=dict)
    """Of what has copy."""
    suggestions: Mapping[PlannedVariant, Suggestion] = field(default_factory=dict)
    """Of what is cut round no named subject."""
    loads: tuple[BudgetLoad, ...] = ()
    seeks_ways: bool = True
    """Whether ways out are looked for where something does not hold: that takes longest."""

    @property
    def views(self) -> Iterator[tuple[str, PlannedVariant]]:
        """Each view with its backdrop's name."""
        return ((one.backdrop.name, view) for one in self.plan.backdrops for view in one.views)


Check = Callable[[PromiseFacts], Iterator[Verdict]]


def check_all(facts: PromiseFacts) -> tuple[Verdict, ...]:
    """Every promise of every backdrop at every breakpoint that it concerns."""
    found = (verdict for check in all_checks() for verdict in check(facts))
    return tuple(found if facts.plan.brief.is_strict else map(downgrade_rare, found))


@cache
def all_checks() -> tuple[Check, ...]:
    """The promises' checks, by the names of their modules."""
    room = brightcanvas.promises
    names = sorted(module.name for module in pkgutil.iter_modules(room.__path__))
    modules = [importlib.import_module(f"{room.__name__}.{name}") for name in names]
    return tuple(module.check for module in modules if hasattr(module, "check"))
