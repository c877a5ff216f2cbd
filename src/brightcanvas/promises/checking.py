"""All promises, over everything that is known.

Each module of this room that has a ``check`` is a promise: it takes the facts and yields verdicts,
none where it isn't concerned or nothing is known yet. So a new promise is one new file.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator
from functools import cache

import brightcanvas.promises
from brightcanvas.promises.facts import Facts
from brightcanvas.promises.verdict import Verdict, forgiven

Check = Callable[[Facts], Iterator[Verdict]]


def check_all(facts: Facts) -> tuple[Verdict, ...]:
    """Every promise of every backdrop at every breakpoint that it concerns."""
    found = (verdict for check in all_checks() for verdict in check(facts))
    return tuple(found if facts.plan.brief.is_strict else map(forgiven, found))


@cache
def all_checks() -> tuple[Check, ...]:
    """The promises' checks, by the names of their modules."""
    room = brightcanvas.promises
    names = sorted(module.name for module in pkgutil.iter_modules(room.__path__))
    modules = [importlib.import_module(f"{room.__name__}.{name}") for name in names]
    return tuple(module.check for module in modules if hasattr(module, "check"))
