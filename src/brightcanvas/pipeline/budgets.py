"""Byte budgets: what one screen loads, and the quality that fits.

The worst screen of a budget is found among those of each part and density. Where it loads
too much, the pictures that it loads come down to one common score, so that none suffers
for another; how far follows from how bytes grow with scores, and is corrected by what the files
then weigh. Clips count, and stay as they are: they have a limit of their own in the brief.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from brightcanvas.brief.brief import Breakpoint, Budget, Slot, names_by_page
from brightcanvas.pipeline.graph import Pipeline, Results
from brightcanvas.plan.planned import BackdropPlan, Plan, PlannedVariant
from brightcanvas.promises.budget import kilobytes
from brightcanvas.promises.checking import BudgetLoad
from brightcanvas.tasks.of_views import clip_tasks, picture_tasks, size_tasks, task_for
from brightcanvas.tasks.picture_tasks import MakePicture
from brightcanvas.values.colours import Tone
from brightcanvas.values.geometry import Rect, Size, plain_number
from brightcanvas.values.targets import LEVELS, LOWEST_LEVEL

ROUNDS = 4
"""How often scores are brought down before a budget is given up."""

BYTES_PER_DISTORTION = -0.5
"""Change of the logarithm of the bytes with that of 1 - score, about."""

FILLED = 0.97
"""What share of a budget is aimed at."""

CLOSER = 0.7
"""Share of each side that a closer cut shows: half of the area."""

Clips = Mapping[PlannedVariant, int]
"""Bytes of the clip that plays at a view."""


@dataclass(frozen=True)
class ScreenLoad:
    """What one screen loads."""

    bytes: int
    viewport: Size
    density: float
    shares: tuple[tuple[PlannedVariant, MakePicture, int], ...]
    """Its pictures: the view, the task of its rung, the bytes."""
    clips: int
    """Bytes of its clips, which count too."""


def within_budgets(plan: Plan, pipeline: Pipeline) -> Plan:
    """The plan with scores brought down until every budget holds, as far as that goes.

    All that the plan needs was made; of lowered ones the pictures are made here.
    """
    clips = _playing(plan, pipeline.results)
    for _ in range(ROUNDS):
        lowered = plan
        for budget in plan.brief.budgets:
            load = worst_load(plan, pipeline.results, clips, budget)
            if load and load.clips < budget.most < load.bytes:
                lowered = _lowered(lowered, load, budget)
        if lowered == plan:
            break
        plan = lowered
        pipeline.run(task for view in plan.views for task in picture_tasks(view))
    return plan


def _playing(plan: Plan, results: Results) -> Clips:
    """Bytes of the clips that play, as browsers that know the newest format fetch them."""
    return {view: len(results[task][0].content) for view, task in clip_tasks(plan).items()}


def _lowered(plan: Plan, load: ScreenLoad, budget: Budget) -> Plan:
    """The plan with less asked of everything that a screen loads."""
    room = max(budget.most - load.clips, 1) * FILLED
    needed = math.log(room / (load.bytes - load.clips)) / BYTES_PER_DISTORTION
    names = {view.slot.breakpoint.name for view, _, _ in load.shares}

    def view_lowered(backdrop: str, view: PlannedVariant) -> PlannedVariant:
        concerned = budget.backdrop in (None, backdrop) and view.slot.breakpoint.name in names
        if not concerned:
            return view
        target = 1 - (1 - view.slot.target) * math.exp(needed)
        target = round(max(target, LEVELS[LOWEST_LEVEL]), 4)
        return replace(view, slot=replace(view.slot, target=min(target, view.slot.target)))

    return replace(
        plan,
        backdrops=tuple(
            BackdropPlan(
                one.backdrop, tuple(view_lowered(one.backdrop.name, view) for view in one.views)
            )
            for one in plan.backdrops
        ),
    )


def worst_load(plan: Plan, results: Results, clips: Clips, budget: Budget) -> ScreenLoad | None:
    """The most that a screen of a budget loads, on any page; None where it loads nothing."""
    found = list[ScreenLoad]()
    for concerned in _together(plan, budget):
        for whole in {view.slot.breakpoint.whole for one in concerned for view in one.views}:
            if budget.breakpoint in (None, whole.name):
                found += _loads(concerned, whole, results, clips, budget)
    return max(found, key=lambda load: (load.bytes, -load.viewport.width), default=None)


def _together(plan: Plan, budget: Budget) -> Iterator[list[BackdropPlan]]:
    """What of a budget is loaded together: that of each page."""
    concerned = {
        one.backdrop.name: one
        for one in plan.backdrops
        if budget.backdrop in (None, one.backdrop.name)
    }
    for _, names in names_by_page(plan.brief.pages, concerned):
        yield [one for name, one in concerned.items() if name in names]


def _loads(
    concerned: Sequence[BackdropPlan],
    whole: Breakpoint,
    results: Results,
    clips: Clips,
    budget: Budget,
) -> Iterator[ScreenLoad]:
    """What one screen of each part and density of a breakpoint loads."""
    views = [view for one in concerned for view in one.views]
    for viewport, density in itertools.product(_windows(views, whole), _densities(budget.density)):
        shares = tuple(_shares(views, results, viewport, density))
        playing = sum(clips[view] for view, _, _ in shares if _plays(view, viewport, clips))
        if shares:
            total = playing + sum(share for _, _, share in shares)
            yield ScreenLoad(total, viewport, density, shares, playing)


def _plays(view: PlannedVariant, viewport: Size, clips: Clips) -> bool:
    return view in clips and view.slot.plays_in(viewport)


def _windows(views: Sequence[PlannedVariant], whole: Breakpoint) -> Iterator[Size]:
    """One upright and one on its side for each width at which a part begins, or its clip."""
    slots = [view.slot for view in views if view.slot.breakpoint.whole == whole]
    begins = {begin for slot in slots for begin in _begins(slot)}
    for width in sorted({max(320.0, begin) for begin in begins}):
        for size in (Size(width, width * UPRIGHT), Size(width, width / UPRIGHT)):
            if whole.has(size):
                yield size


def _begins(slot: Slot) -> tuple[float, ...]:
    """Widths at which a part begins, and its clip in both kinds of windows."""
    least = slot.moves_from
    return slot.breakpoint.widths.low, least.width, least.height * UPRIGHT


UPRIGHT = 1.8
"""Height over width of a window that is taken for all upright ones."""


def _densities(most: float | None) -> list[float]:
    known = {1.0, 2.0, 3.0, *([most] if most else [])}
    return sorted(one for one in known if most is None or one <= most)


def _shares(
    views: Sequence[PlannedVariant], results: Results, viewport: Size, density: float
) -> Iterator[tuple[PlannedVariant, MakePicture, int]]:
    for view in views:
        if view.picture and view.slot.breakpoint.has(viewport):
            task = task_for(view, density)
            yield view, task, results[task].files[0].bytes


def loads_of(plan: Plan, pipeline: Pipeline) -> Iterator[BudgetLoad]:
    """What the worst screen of each budget loads; where that is too much, with what would help."""
    results, clips = pipeline.results, _playing(plan, pipeline.results)
    for budget in plan.brief.budgets:
        load = worst_load(plan, results, clips, budget)
        if load is None:
            continue
        slots = [view.slot for view, _, _ in load.shares]
        yield BudgetLoad(
            budget, load.bytes, load.clips, load.viewport, load.density,
            lowest=min(slot.target for slot in slots),
            is_lowered=any(slot.target < LEVELS[slot.quality] for slot in slots),
            offers=tuple(_offers(load, pipeline)) if load.bytes > budget.most else (),
        )  # fmt: skip


def _offers(load: ScreenLoad, pipeline: Pipeline) -> Iterator[str]:
    """Ways to fewer bytes, tried on the heaviest picture of the screen."""
    if load.clips:
        yield "give [backdrop.clip] a 'most', or the backdrop moving = false here"
    view, task, share = max(load.shares, key=lambda entry: entry[2])
    assert view.picture is not None
    rest = load.bytes - share

    def total(other: MakePicture) -> str:
        made = pipeline.run([other])[other].files[0].bytes
        return kilobytes(rest + made)

    name = view.picture.facts.path.name
    yield f"for {name}: tone = {{ soften = 3 }} makes it {total(_toned(view, task, soften=3.0))}"
    yield f"tone = {{ darken = 0.4 }} {total(_toned(view, task, darken=0.4))}"
    smaller = [one for one in size_tasks(view) if one.width < task.width]
    if smaller:
        factor = smaller[-1].width / task.width
        densest = plain_number(round(load.density * factor, 2))
        yield f"screens served up to {densest}x instead of {load.density:g}x {total(smaller[-1])}"
    yield f"a closer cut, of half of it, {total(_closer(task))}"


def _closer(task: MakePicture) -> MakePicture:
    """The middle half of the cut, drawn as large as the whole was."""
    area = task.area
    across, down = area.width * (1 - CLOSER) / 2, area.height * (1 - CLOSER) / 2
    inner = Rect(area.left + across, area.top + down, area.right - across, area.bottom - down)
    return replace(task, area=inner)


def _toned(
    view: PlannedVariant, task: MakePicture, *, soften: float = 0.0, darken: float = 0.0
) -> MakePicture:
    assert view.picture is not None
    tone: Tone = replace(
        task.tone,
        soften=max(task.tone.soften, soften),
        darken=max(task.tone.darken, darken),
    )
    return replace(task, tone=tone, css_px=task.width / view.picture.drawn)
