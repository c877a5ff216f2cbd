"""The stills of clips for which the brief leaves the choice to us."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from brightcanvas.brief.brief import ClipWish
from brightcanvas.pipeline.graph import Pipeline, Results
from brightcanvas.plan.planned import BackdropPlan, Picture, Plan, PlannedVariant
from brightcanvas.tasks.of_views import loop_task, stills_task
from brightcanvas.tasks.task import AnyTask


def with_stills(plan: Plan, pipeline: Pipeline) -> Plan:
    """The plan with the second of every still that was left to us.

    All views of a backdrop that show one clip show one frame of it: the widest one's copy and
    subject decide.
    """
    results = pipeline.run(task for one in plan.backdrops for task in _tasks(one))
    return replace(plan, backdrops=tuple(_decided(one, results) for one in plan.backdrops))


def _tasks(one: BackdropPlan) -> Iterator[AnyTask]:
    wish = one.backdrop.clip
    for picture in _deciding(one):
        yield stills_task(picture)
        if wish:
            yield loop_task(picture, wish)


def _deciding(one: BackdropPlan) -> list[Picture]:
    """The widest view's picture of each clip whose still is open."""
    found = dict[Path, Picture]()
    for view in reversed(one.views):
        if view.picture and _is_open(view.picture):
            found.setdefault(view.picture.facts.path, view.picture)
    return list(found.values())


def _decided(one: BackdropPlan, results: Results) -> BackdropPlan:
    seconds = {
        picture.facts.path: _second(picture, one.backdrop.clip, results)
        for picture in _deciding(one)
    }
    return replace(one, views=tuple(_at_second(view, seconds) for view in one.views))


def _second(picture: Picture, wish: ClipWish | None, results: Results) -> float:
    """Of the best still; where the clip plays, of the best one in the stretch that does."""
    stills = results[stills_task(picture)]
    if wish is None:
        return stills[0].second
    loop = results[loop_task(picture, wish)]
    within = (one.second for one in stills if loop.begin <= one.second < loop.end - loop.fade)
    return next(within, loop.begin)


def _is_open(picture: Picture) -> bool:
    return picture.facts.kind.is_clip and picture.offer.poster_at is None


def _at_second(view: PlannedVariant, seconds: dict[Path, float]) -> PlannedVariant:
    picture = view.picture
    if picture is None or not _is_open(picture):
        return view
    offer = replace(picture.offer, poster_at=seconds[picture.facts.path])
    return replace(view, picture=replace(picture, offer=offer))
