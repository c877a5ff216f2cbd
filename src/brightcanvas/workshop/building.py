"""One whole build: plan, make, write the rules, check the promises, publish."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from urllib.parse import urlsplit

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.brief.model import Brief, Offer, PageWish, Slot
from brightcanvas.delivery.headers import SHEET, all_links, early_links, header_lines
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.markup import markup
from brightcanvas.delivery.moving import moving_script
from brightcanvas.delivery.page import try_page
from brightcanvas.delivery.paste import paste_page
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.formats.survey import DEFAULT_LIMIT, SourceFacts
from brightcanvas.framing.weights import Tried
from brightcanvas.ledger.model import Record
from brightcanvas.plan.model import Plan, View
from brightcanvas.plan.planning import facts_of, plan_with
from brightcanvas.promises.checking import check_all
from brightcanvas.promises.verdict import Verdict
from brightcanvas.values.errors import BriefError
from brightcanvas.values.legible import Scrim
from brightcanvas.workshop.baking import bake_scrims
from brightcanvas.workshop.budgeting import check as check_budgets
from brightcanvas.workshop.budgeting import within_budgets
from brightcanvas.workshop.document import ledger_text
from brightcanvas.workshop.files import write_whole
from brightcanvas.workshop.jobs import Job, jobs_of
from brightcanvas.workshop.legibility import (
    Legibility,
    judged_job,
    judged_once,
    letters_of,
    moving_once,
)
from brightcanvas.workshop.made import Result
from brightcanvas.workshop.making import Workshop
from brightcanvas.workshop.moving import MadeClip, make_clips, moving_views
from brightcanvas.workshop.naming import Naming, worth_publishing
from brightcanvas.workshop.posters import with_posters
from brightcanvas.workshop.publishing import LEDGER, publish
from brightcanvas.workshop.serving import places_from
from brightcanvas.workshop.stamp import STORE_FOLDER, Remembered, stamp_path, stamp_text
from brightcanvas.workshop.store import Store
from brightcanvas.workshop.verdicts import check_made

TRY_PAGE = "try-it.html"


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

    @property
    def holds(self) -> bool:
        """Whether every promise holds."""
        return all(verdict.holds for verdict in self.verdicts)


@dataclass(frozen=True)
class Watcher:
    """Whom a build tells how far it is."""

    starts: Callable[[int], None] = lambda count: None  # noqa: ARG005
    """Called once with the number of files to come."""
    done: Callable[[str], None] = lambda name: None  # noqa: ARG005
    """Called after each of them with what it was; from several threads."""


def build(brief: Brief, limit: float = DEFAULT_LIMIT, watcher: Watcher | None = None) -> Outcome:
    """Make and publish everything that a brief asks for.

    Args:
        brief: as loaded.
        limit: most megapixels of a source.
        watcher: told about the progress.

    Raises:
        BrightCanvasError: nothing is published then.
    """
    watcher = watcher or Watcher()
    table = _address_table(brief)
    folder = brief.path.parent / STORE_FOLDER
    store = Store(folder)
    workshop = Workshop(store, watcher.done)
    plan = weighed_plan(brief, limit, workshop)
    plan = _with_baked_scrims(with_posters(plan, store), workshop)
    results = _make(plan, workshop, watcher)
    clips = {
        view: made
        for one in plan.backdrops
        for view, made in make_clips(one, store, watcher.done).items()
    }
    playing = _playing(plan, clips)
    free = plan
    plan, results = within_budgets(
        free, results, playing, lambda lowered: _make(lowered, workshop, watcher)
    )
    clips = {
        view: clips[before]
        for before, view in zip(free.views, plan.views, strict=True)
        if before in clips
    }
    legibility = _judge_all(plan, results, clips, store)
    record, files = Naming(results, legibility, clips, table).record(plan)
    lacking = record.addresses.lacking(sorted(files))
    files |= rule_files(record, brief.pages, lacking)
    verdicts = (
        *check_all(plan),
        *check_made(plan, results, legibility, record),
        *check_budgets(plan, results, playing, lambda job: workshop.make([job])[job]),
    )
    ledger = ledger_text(record, verdicts, files)
    published = files | {LEDGER: ledger.encode()}
    publish(brief.output, published, folder / "publishing.json")
    digests = {name: hashlib.sha256(content).hexdigest() for name, content in published.items()}
    store.trim(brief.room)
    return Outcome(plan, record, verdicts, digests, _suggestions(plan, results), ledger, lacking)


def remember(
    outcome: Outcome, status: int, texts: Mapping[str, str], limit: float, began: int
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
    if brief.address_table:
        files[brief.address_table.resolve()] = _digest(brief.address_table)
    text = stamp_text(files, began, {"limit": limit}, Remembered(status, texts))
    write_whole(stamp_path(brief.path), text.encode())


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def weighed_plan(brief: Brief, limit: float, workshop: Workshop) -> Plan:
    """The plan of a brief, by what quick trials tell of its sources."""
    return _planned(brief, limit, workshop.tried)


def plan_as_built(brief: Brief, limit: float) -> Plan:
    """The plan as a build would have it, as far as that is known without looking at pixels."""
    store = Store(brief.path.parent / STORE_FOLDER)
    return _planned(brief, limit, Workshop(store, lambda _: None).known)


def _planned(brief: Brief, limit: float, ask: Callable[[Slot, Offer, SourceFacts], Tried]) -> Plan:
    facts = facts_of(brief, limit)

    def weigh(slot: Slot, offer: Offer) -> Tried:
        return ask(slot, offer, facts[offer.source])

    return plan_with(brief, facts, cache(weigh))


def _with_baked_scrims(plan: Plan, workshop: Workshop) -> Plan:
    """Decide by the size that a view is judged by, made both ways."""

    def weigh(view: View) -> int:
        letters = letters_of(view)
        assert letters is not None
        job = judged_job(view, letters)
        return workshop.make([job])[job].files[0].bytes

    def find_scrim(view: View) -> Scrim | None:
        letters = letters_of(view)
        assert letters is not None
        job = judged_job(view, letters)
        judged = _judged(view, workshop.make([job]), workshop.store)
        return judged.scrim if judged else None

    return bake_scrims(plan, find_scrim, weigh)


def _make(plan: Plan, workshop: Workshop, watcher: Watcher) -> Mapping[Job, Result]:
    jobs = [job for view in plan.views for job in jobs_of(view)]
    clips = sum(
        len(one.backdrop.clip.formats)
        for one in plan.backdrops
        for _ in moving_views(one)
        if one.backdrop.clip
    )
    watcher.starts(len(set(jobs)) + clips)
    return workshop.make(jobs)


def _playing(plan: Plan, clips: Mapping[View, MadeClip]) -> dict[tuple[str, str], int]:
    """Bytes of the clips that play, as browsers that know the newest format fetch them."""
    return {
        (one.backdrop.name, view.slot.breakpoint.name): len(
            worth_publishing(clips[view].files)[0].content
        )
        for one in plan.backdrops
        for view in one.views
        if view in clips
    }


def _judge_all(
    plan: Plan, results: Mapping[Job, Result], clips: Mapping[View, MadeClip], store: Store
) -> dict[View, Legibility]:
    """How well each view's copy can be read, as its files show it, in every frame of them."""
    judged: dict[View, Legibility] = {}
    for view in plan.views:
        found, clip = _judged(view, results, store), clips.get(view)
        if found and clip and view.picture:
            behind = view.slot.behind or results[next(jobs_of(view))].average
            content = clip.files[0].content
            found = moving_once(view, view.picture, content, behind, found, store)
        if found:
            judged[view] = found
    return judged


def _judged(view: View, results: Mapping[Job, Result], store: Store) -> Legibility | None:
    letters = letters_of(view)
    if letters is None or view.picture is None:
        return None
    job = judged_job(view, letters)
    content = results[job].files[0].content
    behind = view.slot.behind or results[job].average
    return judged_once(view, view.picture, content, behind, store)


def _suggestions(plan: Plan, results: Mapping[Job, Result]) -> tuple[tuple[str, Suggestion], ...]:
    found: dict[str, Suggestion] = {}
    for one in plan.backdrops:
        for view in reversed(one.views):
            if view.picture and view.picture.order and not view.picture.subjects:
                job = next(jobs_of(view))
                if suggestion := results[job].look.suggestion:
                    found.setdefault(one.backdrop.name, suggestion)
    return tuple(found.items())


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


def rule_files(
    record: Record, pages: Sequence[PageWish], lacking: Sequence[str]
) -> dict[str, bytes]:
    """The style sheet, the hints, the markup, and the pages to try and to paste them."""
    addresses = record.addresses
    texts = {"moving.js": moving_script()} if record.moves else {}
    texts |= {
        SHEET: stylesheet(record, addresses),
        "head.html": hints(record, addresses),
        "headers.txt": header_lines(all_links(record)),
        "early-hints.txt": header_lines(list(early_links(record))),
        "markup.html": "\n".join(markup(one, addresses) for one in record.backdrops),
        "paste.html": paste_page(record, lacking),
        TRY_PAGE: try_page(record),
    }
    for page in pages:
        own = replace(
            record, backdrops=tuple(one for one in record.backdrops if one.name in page.backdrops)
        )
        texts[f"head-{page.name}.html"] = hints(own, addresses)
    return {name: text.encode() for name, text in texts.items()}
