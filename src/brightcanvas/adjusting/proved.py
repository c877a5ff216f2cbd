"""A backdrop with all that the page for adjusting tells of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from brightcanvas.brief.cascade import Written
from brightcanvas.brief.model import Brief
from brightcanvas.plan.model import BackdropPlan, View
from brightcanvas.promises.verdict import Verdict
from brightcanvas.tasks.copy import Legibility


@dataclass(frozen=True)
class Proved:
    """One backdrop with all that is known of it."""

    brief: Brief
    plan: BackdropPlan
    written: Mapping[str, Mapping[str, Written]]
    legibility: Mapping[View, Legibility]
    verdicts: Sequence[Verdict]
    has_ways: bool = False
    """Whether ways out were looked for."""
