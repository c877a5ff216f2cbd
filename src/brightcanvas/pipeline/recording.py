"""Published names, and the record of what is published under them."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from brightcanvas.analysis.loops import Loop
from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.analysis.seams import Seams
from brightcanvas.brief.brief import Backdrop
from brightcanvas.ledger.record import (
    Addresses,
    Asset,
    BackdropRecord,
    ClipAsset,
    ClipShown,
    PublishedVariant,
    Record,
    Shipped,
)
from brightcanvas.pipeline.graph import Results
from brightcanvas.plan.planned import BackdropPlan, Plan, PlannedVariant
from brightcanvas.promises.checking import BudgetLoad, PromiseFacts
from brightcanvas.quality.clips.clip_search import ClipFile
from brightcanvas.quality.pictures.lightest import worth_keeping
from brightcanvas.tasks.copy import Legibility
from brightcanvas.tasks.of_views import (
    clip_tasks,
    judgement,
    moving_judgement,
    oldest_task,
    picture_tasks,
    seams_task,
    size_tasks,
    suggestion_task,
)
from brightcanvas.tasks.picture_tasks import MadeFile, MakePicture
from brightcanvas.values.colours import Colour
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.legible import stated_scrim

WHITE = Colour(1, 1, 1)


def settings_text(made: MadeFile) -> str:
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


def file_name(backdrop: str, size: tuple[int, int], digest: str, ending: str) -> str:
    """Of a published file; a file that several parts show has one name."""
    width, height = size
    return f"{backdrop}-{width}x{height}-{digest[:8]}.{ending}"


def _together(shipped: Iterable[Shipped]) -> tuple[Shipped, ...]:
    """Sizes with the same files are one: those of a drawing, which is sharp in every size."""
    found: dict[tuple[Asset, ...], Shipped] = {}
    for one in shipped:
        found.setdefault(one.assets, one)
    return tuple(found.values())


def _worth_shipping(shipped: Sequence[Shipped], oldest: Asset) -> tuple[Shipped, ...]:
    """The sizes in newer formats, or the oldest one's file in their place where none is lighter.

    A file of more px may be heavier.
    """
    assets = [asset for one in shipped for asset in one.assets]
    if any(one.bytes < oldest.bytes or oldest.width < SAME_SIZE * one.width for one in assets):
        return _together(shipped)
    return tuple(replace(one, assets=(oldest,)) for one in shipped[:1])


SAME_SIZE = 0.97


class BuildResults:
    """What was made for a plan, by its views."""

    def __init__(self, plan: Plan, results: Results) -> None:
        self.plan = plan
        self.results = results
        self._clips = clip_tasks(plan)

    def clips(self, view: PlannedVariant) -> tuple[ClipFile, ...]:
        """The files of the clip that plays there, if any; the lightest first."""
        task = self._clips.get(view)
        return self.results[task] if task else ()

    def loop(self, view: PlannedVariant) -> Loop | None:
        """What is played there of its source."""
        task = self._clips.get(view)
        return self.results[task.loop] if task else None

    def facts(self, record: Record, loads: tuple[BudgetLoad, ...]) -> PromiseFacts:
        """All that the promises are checked by."""
        return PromiseFacts(
            self.plan, record, self.seams, self.legibilities, self.suggestions, loads
        )

    @property
    def seams(self) -> dict[PlannedVariant, Seams]:
        """Of the views that repeat their picture."""
        tasks = ((view, seams_task(view)) for view in self.plan.views)
        return {view: self.results[task] for view, task in tasks if task}

    @property
    def suggestions(self) -> dict[PlannedVariant, Suggestion]:
        """Of the views that are cut round no named subject."""
        tasks = ((view, suggestion_task(view)) for view in self.plan.views)
        found = ((view, self.results[task]) for view, task in tasks if task)
        return {view: one for view, one in found if one}

    @property
    def legibilities(self) -> dict[PlannedVariant, Legibility]:
        """Of the views with copy."""
        found = ((view, self.legibility(view)) for view in self.plan.views)
        return {view: one for view, one in found if one}

    def legibility(self, view: PlannedVariant) -> Legibility | None:
        """How well its copy can be read, in every frame; None where nothing was to be judged."""
        task = moving_judgement(view, self._clips.get(view)) or judgement(view)
        return self.results[task] if task else None


def _named(record: Record) -> set[str]:
    """The files that the rules name: what turned out to be needed by nobody is left out."""
    shown = [one for backdrop in record.backdrops for one in backdrop.shown]
    pictures = {asset.file for one in shown for asset in one.assets}
    return pictures | {asset.file for one in shown if one.clip for asset in one.clip.assets}


class Naming:
    """Gives every made file its published name, equal files the same one."""

    def __init__(self, made: BuildResults, table: Mapping[str, str]) -> None:
        self._made = made
        self._results = made.results
        self._table = table
        self._files: dict[str, bytes] = {}
        self._names: dict[str, str] = {}

    def record(self) -> tuple[Record, dict[str, bytes]]:
        """What was made, and the content of each picture by its published name."""
        plan = self._made.plan
        brief = plan.brief
        backdrops = tuple(self._backdrop(one) for one in plan.backdrops)
        addresses = Addresses(brief.address, self._table)
        record = Record(brief.title, addresses, backdrops, brief.layer, brief.pages)
        return record, {name: self._files[name] for name in sorted(_named(record))}

    def _backdrop(self, one: BackdropPlan) -> BackdropRecord:
        averages = [
            self._results[task].average for view in one.views for task in picture_tasks(view)
        ]
        fallback = averages[-1] if averages else WHITE
        shown = tuple(self._shown(one.backdrop, view, fallback) for view in one.views)
        return BackdropRecord(one.backdrop, shown)

    def _shown(
        self, backdrop: Backdrop, view: PlannedVariant, fallback: Colour
    ) -> PublishedVariant:
        name = backdrop.name
        tasks, oldest, shipped = size_tasks(view), None, tuple[Shipped, ...]()
        if view.picture:
            oldest = self._assets(name, oldest_task(view))[-1]
            made = [
                Shipped(size_variant, self._assets(name, task))
                for size_variant, task in zip(view.picture.size_variants, tasks, strict=False)
            ]
            shipped = _worth_shipping(made, oldest)
        average = self._results[tasks[0]].average if tasks else fallback
        judged = self._made.legibility(view)
        clip = self._clip(backdrop, view)
        scrim = judged.scrim if judged else stated_scrim(view.slot.scrim)
        is_covered = bool(clip or backdrop.hosted or backdrop.form != "background")
        behind = view.slot.behind or average
        return PublishedVariant(view, behind, scrim, shipped, oldest, clip, is_covered)

    def _clip(self, backdrop: Backdrop, view: PlannedVariant) -> ClipShown | None:
        files, wish, loop = self._made.clips(view), backdrop.clip, self._made.loop(view)
        if not files or wish is None or loop is None:
            return None
        assets = tuple(self._clip_asset(backdrop.name, one) for one in files)
        return ClipShown(assets, wish, loop)

    def _clip_asset(self, backdrop: str, made: ClipFile) -> ClipAsset:
        kind, (width, height) = made.encoding.format, made.size
        digest = hashlib.sha256(made.content).hexdigest()
        name = self._names.setdefault(digest, file_name(backdrop, made.size, digest, kind.ending))
        self._files[name] = made.content
        return ClipAsset(
            name,
            made.type,
            width,
            height,
            len(made.content),
            digest,
            round(made.timing.seconds, 3),
            made.timing.frames,
            round(float(made.timing.rate), 3),
            round(made.score.mean, 4),
            round(made.score.worst, 4),
            "the source's own" if made.is_source else f"constant quality {made.encoding.quality}",
            made.played,
            made.is_source,
            made.is_capped,
            made.grain,
            made.offers,
        )

    def _assets(self, backdrop: str, task: MakePicture) -> tuple[Asset, ...]:
        return tuple(
            self._asset(backdrop, made) for made in worth_keeping(self._results[task].files)
        )

    def _asset(self, backdrop: str, made: MadeFile) -> Asset:
        digest = hashlib.sha256(made.content).hexdigest()
        width, height = made.size
        ending = made.format.ending
        name = self._names.setdefault(digest, file_name(backdrop, made.size, digest, ending))
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
