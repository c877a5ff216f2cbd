"""All promises, over all views."""

from __future__ import annotations

from brightcanvas.plan.model import Plan
from brightcanvas.promises import clear, in_view, lean, sharp
from brightcanvas.promises.verdict import Verdict, forgiven

_CHECKS = (in_view.check, clear.check, sharp.check, lean.check)


def check_all(plan: Plan) -> tuple[Verdict, ...]:
    """Every promise of every backdrop at every breakpoint that it concerns."""
    found = (
        verdict
        for one in plan.backdrops
        for view in one.views
        for check in _CHECKS
        if (verdict := check(one.backdrop.name, view))
    )
    return tuple(found if plan.brief.is_strict else map(forgiven, found))
