"""Published names, and the record of what is published under them."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.formats import FileFormat
from brightcanvas.brief.model import Backdrop
from brightcanvas.clip.transcoding import ClipFile
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
from brightcanvas.plan.model import BackdropPlan, Plan, View
from brightcanvas.weight.formats import worth_keeping
from brightcanvas.workshop.jobs import Job, jobs_of
from brightcanvas.workshop.legibility import Legibility
from brightcanvas.workshop.made import Made, Result
from brightcanvas.workshop.moving import MadeClip

WHITE = Colour(1, 1, 1)


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


def worth_publishing(files: Sequence[ClipFile]) -> list[ClipFile]:
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


class Naming:
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
        assets = tuple(self._clip_asset(prefix, one) for one in worth_publishing(made.files))
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
