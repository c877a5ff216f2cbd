"""Choosing between a scrim in the style sheet and the same tint baked into the pictures.

The choice is made between two runs of the graph: what is baked is a number in the fields of the
tasks that follow, so their keys tell all of it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from brightcanvas.pipeline.graph import Pipeline, Results
from brightcanvas.plan.model import BackdropPlan, Picture, Plan, View
from brightcanvas.tasks.of_views import judged_task, judgement
from brightcanvas.values.legible import Scrim

STRONGER = 0.02
"""How much stronger a baked tint is made: compression blurs a picture's tones a little."""


def with_baked_scrims(plan: Plan, pipeline: Pipeline) -> Plan:
    """The plan with the scrims baked where the brief says so, or where that is lighter.

    A flat scrim and a fade of the same colour and strength look the same (see treatments).
    What is lighter is decided by the size that a view is judged by, made both ways.
    """
    concerned = [view for view in plan.views if _may_be_baked(view)]
    judged = pipeline.run(task for view in concerned if (task := judgement(view)))
    baked = {view: made for view in concerned if (made := _baked(view, judged))}
    weighed = pipeline.run(judged_task(one) for view in baked for one in (view, baked[view]))
    chosen = dict(_chosen(baked, weighed))
    return replace(plan, backdrops=tuple(_with(one, chosen) for one in plan.backdrops))


def _may_be_baked(view: View) -> bool:
    wish = view.slot.scrim
    return wish is not None and wish.baked != "no" and judgement(view) is not None


def _baked(view: View, judged: Results) -> View | None:
    """The view with its scrim baked; None where it needs none."""
    task = judgement(view)
    scrim = judged[task].scrim if task else None
    return _with_tint(view, view.picture, scrim) if scrim and view.picture else None


def _with_tint(view: View, picture: Picture, scrim: Scrim) -> View:
    strength = min(1.0, scrim.strength + STRONGER)
    tone = replace(picture.tone, fade=strength, fade_to=scrim.colour)
    return View(replace(view.slot, scrim=None, tone=tone), replace(picture, tone=tone))


def _chosen(baked: dict[View, View], weighed: Results) -> Iterator[tuple[View, View]]:
    for view, other in baked.items():
        wish = view.slot.scrim
        as_it_is, tinted = (weighed[judged_task(one)].files[0].bytes for one in (view, other))
        if wish and (wish.baked != "lighter" or tinted < as_it_is):
            yield view, other


def _with(one: BackdropPlan, chosen: dict[View, View]) -> BackdropPlan:
    return BackdropPlan(
        one.backdrop, tuple(chosen.get(view, view) for view in one.views), one.partings
    )
