"""One whole build: plan, make, write the rules, check the promises, publish.

Whether a scrim stands in the style sheet or is baked into the pictures is chosen between two runs
of the graph: what is baked is a number in the fields of the tasks that follow, so their keys tell
all of it.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from urllib.parse import urlsplit

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.brief.brief import Brief, Slot, SourceOption
from brightcanvas.delivery.published_files import rule_files
from brightcanvas.framing.weights import UNTRIED, KnownPicture
from brightcanvas.ledger.record import LEDGER, Record
from brightcanvas.pipeline.budgets import loads_of, within_budgets
from brightcanvas.pipeline.document import ledger_text
from brightcanvas.pipeline.executors import Executor, SerialExecutor, executor_for
from brightcanvas.pipeline.graph import Pipeline, Results
from brightcanvas.pipeline.home import own_folder
from brightcanvas.pipeline.ownership import IN_THE_BRIEF, Output
from brightcanvas.pipeline.poster_stills import with_stills
from brightcanvas.pipeline.publishing import publish
from brightcanvas.pipeline.recording import BuildResults, Naming
from brightcanvas.pipeline.result_store import Store
from brightcanvas.pipeline.stamp import Remembered, stamp_path, stamp_text
from brightcanvas.plan.planned import BackdropPlan, Picture, Plan, PlannedVariant
from brightcanvas.plan.planning import SourcesFacts, facts_of, plan_with
from brightcanvas.promises.checking import check_all
from brightcanvas.promises.verdict import Verdict
from brightcanvas.single_file.host_check import places_from
from brightcanvas.tasks.clip_tasks import MakeClip
from brightcanvas.tasks.of_views import (
    clip_tasks,
    judged_task,
    judgement,
    moving_judgement,
    picture_tasks,
    seams_task,
    suggestion_task,
)
from brightcanvas.tasks.task import AnyTask, Task
from brightcanvas.tasks.weigh_pictures import trials_of
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.files import LARGEST_SOURCE, write_whole
from brightcanvas.values.legible import Scrim, stated_scrim
from brightcanvas.values.work import Watcher

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


def _may_be_baked(view: PlannedVariant) -> bool:
    """Without copy to judge it by, what is lighter isn't known, but a strength may be stated."""
    wish = view.slot.scrim
    return wish is not None and (
        wish.baked == "yes" or (wish.baked == "lighter" and judgement(view) is not None)
    )


def _baked(view: PlannedVariant, judged: Results) -> PlannedVariant | None:
    """The view with its scrim baked; None where it needs none."""
    task = judgement(view)
    scrim = judged[task].scrim if task else stated_scrim(view.slot.scrim)
    return _with_tint(view, view.picture, scrim) if scrim and view.picture else None


def _with_tint(view: PlannedVariant, picture: Picture, scrim: Scrim) -> PlannedVariant:
    strength = min(1.0, scrim.strength + STRONGER)
    tone = replace(picture.tone, fade=strength, fade_to=scrim.colour)
    return PlannedVariant(replace(view.slot, scrim=None, tone=tone), replace(picture, tone=tone))


def _is_lighter(one: PlannedVariant, other: PlannedVariant, weighed: Results) -> bool:
    first, second = (weighed[judged_task(view)].files[0].bytes for view in (one, other))
    return first < second


def _with(one: BackdropPlan, chosen: dict[PlannedVariant, PlannedVariant]) -> BackdropPlan:
    return BackdropPlan(
        one.backdrop, tuple(chosen.get(view, view) for view in one.views), one.partings
    )


@dataclass(frozen=True)
class Outcome:
    """What a build came to."""

    plan: Plan
    record: Record
    verdicts: tuple[Verdict, ...]
    published: Mapping[str, str]
    """Every published file by its name, with SHA-256 in hex."""
    suggestions: tuple[tuple[str, Suggestion], ...]
    """For backdrops that are cut round no named subject: the backdrop, and a suggested one."""
    ledger: str
    """The text of ``ledger.json``."""
    lacking: tuple[str, ...] = ()
    """Files that the brief's table has no address for."""
    damaged: int = 0
    """Results in the store that were damaged, and were made again."""
    left: tuple[str, ...] = ()
    """Outdated files that could not be removed."""

    @property
    def holds(self) -> bool:
        """Whether every promise holds."""
        return all(verdict.holds for verdict in self.verdicts)


def build(
    brief: Brief,
    limit: float = LARGEST_SOURCE,
    watcher: Watcher | None = None,
    executor: Executor | None = None,
) -> Outcome:
    """Make and publish everything that a brief asks for.

    Args:
        brief: as loaded.
        limit: most megapixels of a source.
        watcher: told about the progress.
        executor: who carries the tasks out; None: those that the brief names.

    Raises:
        BrightCanvasError: nothing is published then.
    """
    watcher, store = watcher or Watcher(), store_of(brief)
    table = _address_table(brief)
    hired = executor or executor_for(brief.workers)
    try:
        pipeline = Pipeline(store, hired, watcher.done)
        plan = whole_plan(brief, limit, pipeline)
        watcher.starts(sum(1 for task in dict.fromkeys(tasks_of(plan)) if task.label))
        outcome = _published(*_within_budgets(plan, pipeline), pipeline, table)
    finally:
        if executor is None:
            hired.close()
    store.trim(brief.room)
    return outcome


def store_of(brief: Brief) -> Store:
    """The store beside a brief."""
    return Store(own_folder(brief.path.parent))


def named_by(brief: Brief) -> frozenset[Path]:
    """The brief, and all that it is made from: what nothing may ever replace or remove."""
    offers = (offer for one in brief.backdrops for slot in one.slots for offer in slot.offers)
    table = [brief.address_table] if brief.address_table else []
    return frozenset([brief.path, *table, *copies_of(brief), *(offer.source for offer in offers)])


def copies_of(brief: Brief) -> frozenset[Path]:
    """The files of what was measured, and those of the pages that it was measured on."""
    slots = [slot for one in brief.backdrops for slot in one.slots]
    copies = [slot.copy for slot in slots if slot.copy]
    named = {path for one in copies if one.measured_in for path in (one.measured_in, *one.pages)}
    named |= {path for one in slots if one.boxes_in for path in (one.boxes_in, *one.measured_pages)}
    return frozenset(path for path in named if path.is_file())


def output_of(brief: Brief, folder: Path, what: str, remedy: str = IN_THE_BRIEF) -> Output:
    """A folder that something of a brief is published into.

    Args:
        brief: whose it is.
        folder: that gets the files.
        what: of the brief it is: ``build``, ``draft``.
        remedy: how people name another folder.
    """
    owner = f"the {what} of {brief.path.name}"
    return Output(folder, brief.path.parent, owner, remedy, named_by(brief))


def whole_plan(brief: Brief, limit: float, pipeline: Pipeline) -> Plan:
    """The plan of a brief by what its sources weigh, with its stills and scrims chosen.

    Args:
        brief: as loaded.
        limit: megapixels of a source, at most.
        pipeline: that carries out what has to be known for it.
    """
    facts = facts_of(brief, limit)
    weighed = pipeline.run(_trials(brief, facts))
    plan = plan_with(brief, facts, lambda s, o: weighed[trials_of(s, o, facts[o.source])])
    return with_baked_scrims(with_stills(plan, pipeline), pipeline)


def _trials(brief: Brief, facts: SourcesFacts) -> Iterator[Task[KnownPicture]]:
    slots = (slot for one in brief.backdrops for slot in one.slots)
    return (trials_of(slot, offer, facts[offer.source]) for slot in slots for offer in slot.offers)


def plan_as_built(brief: Brief, limit: float) -> Plan:
    """The plan as a build would have it, as far as that is known without looking at pixels."""
    facts, kept = facts_of(brief, limit), Pipeline(store_of(brief), SerialExecutor())

    def known(slot: Slot, offer: SourceOption) -> KnownPicture:
        return kept.known(trials_of(slot, offer, facts[offer.source])) or UNTRIED

    return plan_with(brief, facts, known)


def tasks_of(plan: Plan) -> Iterator[AnyTask]:
    """Everything that a plan needs made and judged."""
    clips = clip_tasks(plan)
    for one in plan.backdrops:
        for view in one.views:
            yield from picture_tasks(view)
            if view in clips:
                yield clips[view]
                yield clips[view].loop
            yield from filter(None, _looks(view, clips.get(view)))


def _looks(view: PlannedVariant, clip: MakeClip | None) -> Iterator[AnyTask | None]:
    yield judgement(view)
    yield moving_judgement(view, clip)
    yield seams_task(view)
    yield suggestion_task(view)


def _within_budgets(plan: Plan, pipeline: Pipeline) -> tuple[Plan, Results]:
    """The plan with scores brought down until budgets hold, and all that was made for it."""
    pipeline.run(tasks_of(plan))
    plan = within_budgets(plan, pipeline)
    return plan, pipeline.run(tasks_of(plan))


def _published(
    plan: Plan, results: Results, pipeline: Pipeline, table: Mapping[str, str]
) -> Outcome:
    brief, made = plan.brief, BuildResults(plan, results)
    record, files = Naming(made, table).record()
    lacking = record.addresses.lacking(sorted(files))
    files |= rule_files(record, lacking)
    verdicts = check_all(made.facts(record, tuple(loads_of(plan, pipeline))))
    ledger = ledger_text(record, verdicts, files)
    published = files | {LEDGER: ledger.encode()}
    left = publish(output_of(brief, brief.output, "build"), published)
    digests = {name: hashlib.sha256(content).hexdigest() for name, content in published.items()}
    suggestions = tuple(_suggestions(plan, made.suggestions).items())
    damaged = pipeline.store.damaged
    return Outcome(plan, record, verdicts, digests, suggestions, ledger, lacking, damaged, left)


def _suggestions(
    plan: Plan, suggested: Mapping[PlannedVariant, Suggestion]
) -> dict[str, Suggestion]:
    """Where the middle is kept for want of a subject and of a position."""
    found: dict[str, Suggestion] = {}
    for one in plan.backdrops:
        for view in reversed(one.views):
            if view in suggested and view.picture and view.picture.order:
                found.setdefault(one.backdrop.name, suggested[view])
    return found


def remember(
    outcome: Outcome, status: ExitStatus, texts: Mapping[str, str], limit: float, began: int
) -> None:
    """Leave a stamp, so that a next run with nothing changed has nothing to do.

    Args:
        outcome: of the build.
        status: that it ended with.
        texts: what was told, by the kind of terminal.
        limit: most megapixels of a source.
        began: when it began, nanoseconds since 1970.
    """
    brief = outcome.plan.brief
    facts = {view.picture.facts for view in outcome.plan.views if view.picture}
    files = {one.path.resolve(): one.digest for one in facts}
    files |= {brief.output.resolve() / name: digest for name, digest in outcome.published.items()}
    files[brief.path.resolve()] = brief.digest
    listed = [brief.address_table] if brief.address_table else []
    for path in (*listed, *copies_of(brief)):
        files[path.resolve()] = _digest(path)
    text = stamp_text(files, began, {"limit": limit}, Remembered(status, texts))
    write_whole(stamp_path(brief.path), text.encode())


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def _address_table(brief: Brief) -> Mapping[str, str]:
    """URLs by file name, as the brief's list has them."""
    if brief.address_table is None:
        return {}
    if brief.address_table.is_dir():
        raise BriefError(f"{brief.address_table} is a folder; a list of files and URLs is wanted")
    table = places_from(brief.address_table, ())
    for name, url in table.items():
        scheme = urlsplit(url).scheme
        if scheme not in ("", "http", "https") or any(ord(one) < 33 for one in url):
            raise BriefError(f"{brief.address_table}: {url!r}, for {name}, is no web address")
    return table
