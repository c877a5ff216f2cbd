"""Choosing between a scrim in the style sheet and the same tint baked into the pictures.

The choice is made between two runs of the graph: what is baked is a number in the fields of the
tasks that follow, so their keys tell all of it.
"""

from __future__ import annotations

from dataclasses import replace

from brightcanvas.pipeline.graph import Pipeline, Results
from brightcanvas.plan.model import BackdropPlan, Picture, Plan, View
from brightcanvas.tasks.of_views import judged_task, judgement
from brightcanvas.values.legible import Scrim, stated_scrim

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
    doubtful = [view for view in baked if view.slot.scrim and view.slot.scrim.baked == "lighter"]
    weighed = pipeline.run(judged_task(one) for view in doubtful for one in (view, baked[view]))
    heavier = [view for view in doubtful if not _is_lighter(baked[view], view, weighed)]
    chosen = {view: made for view, made in baked.items() if view not in heavier}
    return replace(plan, backdrops=tuple(_with(one, chosen) for one in plan.backdrops))


def _may_be_baked(view: View) -> bool:
    """Without copy to judge it by, what is lighter isn't known, but a strength may be stated."""
    wish = view.slot.scrim
    return wish is not None and (
        wish.baked == "yes" or (wish.baked == "lighter" and judgement(view) is not None)
    )


def _baked(view: View, judged: Results) -> View | None:
    """The view with its scrim baked; None where it needs none."""
    task = judgement(view)
    scrim = judged[task].scrim if task else stated_scrim(view.slot.scrim)
    return _with_tint(view, view.picture, scrim) if scrim and view.picture else None


def _with_tint(view: View, picture: Picture, scrim: Scrim) -> View:
    strength = min(1.0, scrim.strength + STRONGER)
    tone = replace(picture.tone, fade=strength, fade_to=scrim.colour)
    return View(replace(view.slot, scrim=None, tone=tone), replace(picture, tone=tone))


def _is_lighter(one: View, other: View, weighed: Results) -> bool:
    first, second = (weighed[judged_task(view)].files[0].bytes for view in (one, other))
    return first < second


def _with(one: BackdropPlan, chosen: dict[View, View]) -> BackdropPlan:
    return BackdropPlan(
        one.backdrop, tuple(chosen.get(view, view) for view in one.views), one.partings
    )
