"""``bright-canvas plan``."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from brightcanvas.library.for_briefs import check, load_brief, plan_brief
from brightcanvas.pipeline.document import picture_facts
from brightcanvas.terminal.report import print_plan
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.framing.size_variants import SizeVariant
    from brightcanvas.plan.planned import BackdropPlan, Plan, PlannedVariant
    from brightcanvas.promises.verdict import Verdict
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Plan the brief and print it; a promise that can't be held shows in the status."""
    plan = plan_brief(load_brief(arguments.brief), largest_source=arguments.largest_source)
    verdicts = check(plan)
    if streams.as_json:
        streams.document(_facts(plan, verdicts))
    else:
        print_plan(plan, verdicts, streams.console())
    held = all(verdict.holds for verdict in verdicts)
    return ExitStatus.ALL_WELL if held else ExitStatus.PROMISE_BROKEN


def _facts(plan: Plan, verdicts: tuple[Verdict, ...]) -> dict[str, Any]:
    return {
        "backdrops": [_backdrop(one) for one in plan.backdrops],
        "promises": [verdict.facts for verdict in verdicts],
    }


def _backdrop(one: BackdropPlan) -> dict[str, Any]:
    return {
        "name": one.backdrop.name,
        "element": one.backdrop.element,
        "breakpoints": [_view(view) for view in one.views],
    }


def _view(view: PlannedVariant) -> dict[str, Any]:
    picture = view.picture
    return {
        "name": view.slot.breakpoint.name,
        "part": view.slot.breakpoint.part,
        "picture": picture_facts(picture) if picture else None,
        "sizes": [_rung(size_variant) for size_variant in picture.size_variants] if picture else [],
    }


def _rung(size_variant: SizeVariant) -> dict[str, Any]:
    return {
        "width": size_variant.width,
        "height": size_variant.height,
        "candidate": f"{size_variant.label}x",
    }
