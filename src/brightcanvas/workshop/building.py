"""One whole build: plan, make, write the rules, check the promises, publish."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import Path
from urllib.parse import urlsplit

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.errors import BriefError
from brightcanvas.basics.formats import FileFormat
from brightcanvas.basics.legible import Scrim
from brightcanvas.basics.targets import LEVELS
from brightcanvas.brief.model import Backdrop, Brief, PageWish
from brightcanvas.clip.transcoding import ClipFile
from brightcanvas.eye.attention import Suggestion
from brightcanvas.eye.legibility import BUSY_FROM
from brightcanvas.framing.joining import joined
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import (
    Asset,
    BackdropRecord,
    ClipAsset,
    ClipShown,
    Record,
    Shipped,
    Shown,
)
from brightcanvas.media.survey import DEFAULT_LIMIT
from brightcanvas.plan.model import BackdropPlan, Plan, View
from brightcanvas.plan.planning import plan_brief
from brightcanvas.promises import faithful, moving, readable, seamless
from brightcanvas.promises.checking import check_all
from brightcanvas.promises.verdict import Verdict
from brightcanvas.rehearsal import one_fetch
from brightcanvas.rules.headers import SHEET, all_links, early_links, header_lines
from brightcanvas.rules.hints import backdrop_hints, hints
from brightcanvas.rules.markup import markup
from brightcanvas.rules.moving import moving_script
from brightcanvas.rules.page import try_page
from brightcanvas.rules.paste import paste_page
from brightcanvas.rules.pictures import picture_markup
from brightcanvas.rules.stylesheet import backdrop_rules, stylesheet
from brightcanvas.weight.formats import worth_keeping
from brightcanvas.workshop.baking import bake_scrims
from brightcanvas.workshop.budgeting import check as check_budgets
from brightcanvas.workshop.budgeting import within_budgets
from brightcanvas.workshop.document import ledger_text
from brightcanvas.workshop.files import write_whole
from brightcanvas.workshop.jobs import Job, jobs_of
from brightcanvas.workshop.legibility import (
    Legibility,
    judged_once,
    judged_rung,
    letters_of,
    moving_once,
)
from brightcanvas.workshop.made import Made, Result
from brightcanvas.workshop.making import Workshop
from brightcanvas.workshop.moving import MadeClip, make_clips, moving_views
from brightcanvas.workshop.posters import with_posters
from brightcanvas.workshop.publishing import LEDGER, publish
from brightcanvas.workshop.serving import places_from
from brightcanvas.workshop.stamp import STORE_FOLDER, Remembered, stamp_path, stamp_text
from brightcanvas.workshop.store import Store

TRY_PAGE = "try-it.html"
WHITE = Colour(1, 1, 1)


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
    plan = plan_brief(brief, limit)
    folder = brief.path.parent / STORE_FOLDER
    store = Store(folder)
    plan = _with_baked_scrims(with_posters(plan, store), store)
    results = _make(plan, store, watcher)
    clips = {
        view: made
        for one in plan.backdrops
        for view, made in make_clips(one, store, watcher.done).items()
    }
    playing = _playing(plan, clips)
    free = plan
    plan, results = within_budgets(
        free, results, playing, lambda lowered: _make(lowered, store, watcher)
    )
    clips = {
        view: clips[before]
        for before, view in zip(free.views, plan.views, strict=True)
        if before in clips
    }
    legibility = _judge_all(plan, results, clips, store)
    workshop = Workshop(store, lambda _: None)
    record, files = _Naming(results, legibility, clips, table).record(plan)
    lacking = record.addresses.lacking(sorted(files))
    files |= rule_files(record, brief.pages, lacking)
    verdicts = (
        *check_all(plan),
        *_check_made(plan, results),
        *_check_copy(plan, legibility),
        *_check_likeness(record),
        *_check_clips(record),
        *_check_fetches(record),
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


def _with_baked_scrims(plan: Plan, store: Store) -> Plan:
    """Decide by the rung that a view is judged by, made both ways."""
    workshop = Workshop(store, lambda _: None)

    def judged_job(view: View) -> Job:
        letters = letters_of(view)
        assert view.picture is not None
        assert letters is not None
        return list(jobs_of(view))[judged_rung(view.picture, letters)]

    def weigh(view: View) -> int:
        job = judged_job(view)
        return worth_keeping(workshop.make([job])[job].files)[0].bytes

    def find_scrim(view: View) -> Scrim | None:
        job = judged_job(view)
        judged = _judged(view, workshop.make([job]), store)
        return judged.scrim if judged else None

    return bake_scrims(plan, find_scrim, weigh)


def _make(plan: Plan, store: Store, watcher: Watcher) -> Mapping[Job, Result]:
    jobs = [job for view in plan.views for job in jobs_of(view)]
    clips = sum(
        len(one.backdrop.clip.formats)
        for one in plan.backdrops
        for _ in moving_views(one)
        if one.backdrop.clip
    )
    watcher.starts(3 * len(set(jobs)) + clips)
    return Workshop(store, watcher.done).make(jobs)


def _playing(plan: Plan, clips: Mapping[View, MadeClip]) -> dict[tuple[str, str], int]:
    """Bytes of the clips that play, as browsers that know the newest format fetch them."""
    return {
        (one.backdrop.name, view.slot.breakpoint.name): len(
            _worth_publishing(clips[view].files)[0].content
        )
        for one in plan.backdrops
        for view in one.views
        if view in clips
    }


def _check_made(plan: Plan, results: Mapping[Job, Result]) -> Iterator[Verdict]:
    """The promises that can only be checked on what was made."""
    for one in plan.backdrops:
        for view in one.views:
            for job in islice(jobs_of(view), 1):
                seams = results[job].look.seams
                if verdict := seamless.check(one.backdrop.name, view, seams):
                    yield verdict


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
    job = list(jobs_of(view))[judged_rung(view.picture, letters)]
    content = worth_keeping(results[job].files)[0].content
    behind = view.slot.behind or results[job].average
    return judged_once(view, view.picture, content, behind, store)


def _check_copy(plan: Plan, judged: Mapping[View, Legibility]) -> Iterator[Verdict]:
    for one in plan.backdrops:
        for view in one.views:
            found, letters = judged.get(view), letters_of(view)
            if found and letters and view.picture:
                names = one.backdrop.name, view.slot.breakpoint.name
                yield readable.verdict(
                    *names,
                    letters,
                    (found.lowest, found.plain),
                    (view.picture.stage.sight_with(found.aspect), found.second),
                    (found.scrim, found.least),
                )
                yield readable.calm_verdict(*names, found.busyness, BUSY_FROM, found.calming_blur)


def _check_likeness(record: Record) -> Iterator[Verdict]:
    for one in record.backdrops:
        for shown in one.shown:
            slot = shown.view.slot
            level = slot.quality if slot.target == LEVELS[slot.quality] else "by the budget"
            if verdict := faithful.check(one.name, shown, level, slot.target):
                yield verdict


def _check_clips(record: Record) -> Iterator[Verdict]:
    for one in record.backdrops:
        if one.hosted:
            yield moving.check_hosted(one.name, one.shown[-1].view.slot.breakpoint.name)
        for shown in one.shown:
            if shown.clip:
                yield from moving.check(one.name, shown, shown.clip)


def settings_text(made: Made) -> str:
    """How a file was encoded, in a few words."""
    encoding = made.encoding
    if made.format is FileFormat.SVG:
        return "the drawing itself, cut and cleaned"
    if made.is_source:
        return "the source's own file"
    if encoding.lossless:
        return "lossless"
    words = [f"quality {encoding.quality}"]
    words += ["even tables"] if encoding.even_tables else []
    words += ["colour in every px"] if encoding.full_colour else []
    return ", ".join(words)


def _suggestions(plan: Plan, results: Mapping[Job, Result]) -> tuple[tuple[str, Suggestion], ...]:
    found: dict[str, Suggestion] = {}
    for one in plan.backdrops:
        for view in reversed(one.views):
            if view.picture and view.picture.order and not view.picture.subjects:
                job = next(jobs_of(view))
                found.setdefault(one.backdrop.name, results[job].look.suggestion)
    return tuple(found.items())


def _check_fetches(record: Record) -> Iterator[Verdict]:
    for one in record.backdrops:
        addresses = record.addresses
        rules, hinted = backdrop_rules(one, addresses), backdrop_hints(one, addresses)
        elements = picture_markup(one, addresses) if one.is_element else ""
        yield one_fetch.check(one.name, rules, elements, hinted, is_hinted=one.first_view)


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


def _worth_publishing(files: Sequence[ClipFile]) -> list[ClipFile]:
    """A clip no lighter than one that plays in more browsers is needed by nobody."""
    kept: list[ClipFile] = []
    for one in reversed(files):
        if not kept or len(one.content) < len(kept[0].content):
            kept.insert(0, one)
    return kept


def _together(shipped: Iterable[Shipped]) -> tuple[Shipped, ...]:
    """Rungs with the same files are one: those of a drawing, which is sharp in every size."""
    found: dict[tuple[Asset, ...], Shipped] = {}
    for one in shipped:
        before = found.get(one.assets)
        if before:
            tiles = tuple(joined((*before.rung.tiles, *one.rung.tiles)))
            one = replace(one, rung=replace(one.rung, tiles=tiles))
        found[one.assets] = one
    return tuple(found.values())


class _Naming:
    """Gives every made file its published name, equal files the same one."""

    def __init__(
        self,
        results: Mapping[Job, Result],
        legibility: Mapping[View, Legibility],
        clips: Mapping[View, MadeClip],
        table: Mapping[str, str],
    ) -> None:
        self._results = results
        self._table = table
        self._legibility = legibility
        self._clips = clips
        self._files: dict[str, bytes] = {}
        self._names: dict[str, str] = {}

    def record(self, plan: Plan) -> tuple[Record, dict[str, bytes]]:
        """What was made, and the content of each picture by its published name."""
        brief = plan.brief
        backdrops = tuple(self._backdrop(one) for one in plan.backdrops)
        addresses = Addresses(brief.address, self._table)
        return Record(brief.title, addresses, backdrops, brief.layer), self._files

    def _backdrop(self, one: BackdropPlan) -> BackdropRecord:
        averages = [self._results[job].average for view in one.views for job in jobs_of(view)]
        fallback = averages[-1] if averages else WHITE
        backdrop = one.backdrop
        return BackdropRecord(
            backdrop.name,
            backdrop.element,
            backdrop.first_view,
            tuple(self._shown(backdrop, view, fallback) for view in one.views),
            backdrop.hosted,
            backdrop.is_element,
            backdrop.alternative,
            backdrop.force,
        )

    def _shown(self, backdrop: Backdrop, view: View, fallback: Colour) -> Shown:
        prefix = f"{backdrop.name}-{view.slot.breakpoint.name}"
        jobs = list(jobs_of(view))
        shipped = _together(
            Shipped(rung, self._assets(prefix, job))
            for rung, job in zip(view.picture.rungs if view.picture else (), jobs, strict=True)
        )
        average = self._results[jobs[0]].average if jobs else fallback
        judged = self._legibility.get(view)
        clip = self._clip(prefix, backdrop, self._clips.get(view))
        scrim = judged.scrim if judged else None
        is_covered = bool(clip or backdrop.hosted or backdrop.is_element)
        return Shown(view, view.slot.behind or average, scrim, shipped, clip, is_covered)

    def _clip(self, prefix: str, backdrop: Backdrop, made: MadeClip | None) -> ClipShown | None:
        if made is None or backdrop.clip is None:
            return None
        assets = tuple(self._clip_asset(prefix, one) for one in _worth_publishing(made.files))
        loop, found = made.loop, made.flashes
        return ClipShown(
            assets=assets,
            wish=backdrop.clip,
            jump=loop.jump,
            fade=loop.fade,
            flashes=found.most,
            flash_second=found.second,
            lost=loop.lost,
            before=loop.before,
        )

    def _clip_asset(self, prefix: str, made: ClipFile) -> ClipAsset:
        kind, (width, height) = made.encoding.format, made.size
        digest = hashlib.sha256(made.content).hexdigest()
        name = f"{prefix}-{width}x{height}-{digest[:8]}.{kind.ending}"
        name = self._names.setdefault(digest, name)
        self._files[name] = made.content
        return ClipAsset(
            name,
            made.type,
            width,
            height,
            len(made.content),
            digest,
            round(made.course.seconds, 3),
            made.course.frames,
            round(float(made.course.rate), 3),
            round(made.score.mean, 4),
            round(made.score.worst, 4),
            f"constant quality {made.encoding.quality}",
        )

    def _assets(self, prefix: str, job: Job) -> tuple[Asset, ...]:
        return tuple(
            self._asset(prefix, job, made) for made in worth_keeping(self._results[job].files)
        )

    def _asset(self, prefix: str, job: Job, made: Made) -> Asset:
        digest = hashlib.sha256(made.content).hexdigest()
        is_drawing = made.format is FileFormat.SVG
        width, height = job.area.size.rounded if is_drawing else job.size
        name = f"{prefix}-{width}x{height}-{digest[:8]}.{made.format.ending}"
        name = self._names.setdefault(digest, name)
        self._files[name] = made.content
        score = made.score
        return Asset(
            name,
            made.format,
            width,
            height,
            made.bytes,
            digest,
            round(score.figure, 4),
            round(score.worst, 4),
            score.place,
            settings_text(made),
        )
