"""Drafts: quick files for looking, in a folder of their own, marked as what they are.

A draft has the cuts, the rules and the scrims of the final files, but one quick JPEG for each
part, made of a reduced copy of its source that is kept from the first time on. Nothing of it is
measured, so it has no promises but those of the framing, and its pages say so.
"""

from __future__ import annotations

import hashlib
from collections.abc import Hashable
from dataclasses import dataclass, replace
from pathlib import Path

from brightcanvas.brief.brief import Brief
from brightcanvas.colour.resample import resize
from brightcanvas.colour.spaces import average_colour
from brightcanvas.colour.treatments import treated
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.markup import markup
from brightcanvas.delivery.published_files import TRY_PAGE, try_page
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.framing.size_variants import SizeVariant
from brightcanvas.ledger.record import (
    BESIDE,
    LEDGER,
    Asset,
    BackdropRecord,
    PublishedVariant,
    Record,
    Shipped,
)
from brightcanvas.pipeline.building import output_of, plan_as_built, store_of
from brightcanvas.pipeline.document import ledger_text
from brightcanvas.pipeline.executors import Threads
from brightcanvas.pipeline.graph import Pipeline
from brightcanvas.pipeline.poster_stills import with_stills
from brightcanvas.pipeline.publishing import publish
from brightcanvas.pipeline.recording import file_name
from brightcanvas.plan.planned import BackdropPlan, Picture, Plan, PlannedVariant
from brightcanvas.promises.checking import PromiseFacts, check_all
from brightcanvas.tasks.copy import copy_on, judge
from brightcanvas.tasks.looking_tasks import ReduceSource
from brightcanvas.tasks.of_views import source_of
from brightcanvas.values.colours import Colour
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import Scrim
from brightcanvas.values.raster import Raster

WIDEST = 1440
"""Px across of a draft's files, at most."""

QUICK = Encoding(FileFormat.JPEG, quality=70, draft=True)
WHITE = Colour(1, 1, 1)


@dataclass(frozen=True)
class BuildDraft:
    """A draft that was made."""

    folder: Path
    page: Path
    ledger: str
    record: Record

    @property
    def pictures(self) -> frozenset[str]:
        """Names of its pictures."""
        return frozenset(asset.file for asset in self.record.assets)


@dataclass(frozen=True)
class DraftFile:
    """What was made of one view."""

    content: bytes
    format: FileFormat
    width: int
    height: int
    behind: Colour
    scrim: Scrim | None


Memory = dict[Hashable, DraftFile]
"""What the last draft was made of; what has not changed since is not made again."""


def draft(brief: Brief, limit: float, memory: Memory | None = None) -> BuildDraft:
    """Make a draft of everything that a brief asks for, beside the final files.

    Args:
        brief: as loaded.
        limit: megapixels of a source, at most.
        memory: of the last draft, which becomes that of this one; None: there is none.

    Raises:
        BrightCanvasError: nothing is written then.
    """
    memory = {} if memory is None else memory
    with Threads() as threads:
        pipeline = Pipeline(store_of(brief), threads)
        plan = with_stills(plan_as_built(brief, limit), pipeline)
        drafter = _Drafter(plan, pipeline, memory)
    record = Record(
        brief.title, BESIDE, tuple(drafter.backdrop(one) for one in plan.backdrops), brief.layer
    )
    memory.clear()
    memory.update(drafter.made)
    files = drafter.files | _rules(record)
    ledger = ledger_text(record, check_all(PromiseFacts(plan)), files, is_draft=True)
    output = folder_of(brief)
    publish(output_of(brief, output, "draft"), files | {LEDGER: ledger.encode()})
    return BuildDraft(output, output / TRY_PAGE, ledger, record)


def folder_of(brief: Brief) -> Path:
    """Where a brief's draft is: never among its final files."""
    return brief.output.with_name(f"{brief.output.name}-draft")


def _rules(record: Record) -> dict[str, bytes]:
    texts = {
        "backdrops.css": f"/* A draft: not for publishing. */\n{stylesheet(record, BESIDE)}",
        "head.html": hints(record, BESIDE),
        "markup.html": "\n".join(markup(one, BESIDE) for one in record.backdrops),
        TRY_PAGE: try_page(record, is_draft=True),
    }
    return {name: text.encode() for name, text in texts.items()}


class _Drafter:
    """Makes the files of one draft."""

    def __init__(self, plan: Plan, pipeline: Pipeline, memory: Memory) -> None:
        self._memory = memory
        self.made: Memory = {}
        pictures = [view.picture for view in plan.views if view.picture]
        self._reduced = pipeline.run(ReduceSource(source_of(one)) for one in pictures)
        self._copies: dict[ReduceSource, Raster] = {}
        self.files: dict[str, bytes] = {}

    def backdrop(self, one: BackdropPlan) -> BackdropRecord:
        """One backdrop, with one file for each part; clips show their still."""
        backdrop = replace(one.backdrop, clip=None, hosted=None)
        return BackdropRecord(
            backdrop, tuple(self._shown(backdrop.name, view) for view in one.views)
        )

    def _shown(self, name: str, view: PlannedVariant) -> PublishedVariant:
        picture = view.picture
        if picture is None:
            return PublishedVariant(view, view.slot.behind or WHITE, None, ())
        made = self._made_of(view, picture)
        asset = self._asset(name, made)
        size_variant = SizeVariant(asset.width, asset.height, 1, 1.0)
        return PublishedVariant(
            view, made.behind, made.scrim, (Shipped(size_variant, (asset,)),), asset
        )

    def _made_of(self, view: PlannedVariant, picture: Picture) -> DraftFile:
        """One quick file of a view, as it was made for the last draft if nothing has changed."""
        across, copy = picture.size_variants[0].width, copy_on(view)
        key = (source_of(picture), picture.cut, across, picture.tone, copy, view.slot.behind)
        self.made[key] = self._memory.get(key) or self._make(view, picture)
        return self.made[key]

    def _make(self, view: PlannedVariant, picture: Picture) -> DraftFile:
        pixels, copy = self._pixels(picture), copy_on(view)
        behind = view.slot.behind or average_colour(pixels)
        scrim = judge(copy, pixels, behind).scrim if copy else None
        kind = Encoding(FileFormat.PNG, lossless=True) if pixels.has_alpha else QUICK
        width, height = pixels.size.rounded
        return DraftFile(encode(pixels, kind), kind.format, width, height, behind, scrim)

    def _asset(self, backdrop: str, made: DraftFile) -> Asset:
        digest = hashlib.sha256(made.content).hexdigest()
        size = made.width, made.height
        file = file_name(f"{backdrop}-draft", size, digest, made.format.ending)
        self.files[file] = made.content
        return Asset(
            file, made.format, *size, len(made.content), digest, 0.0, 0.0, (0.5, 0.5),
            "a draft: not measured",
        )  # fmt: skip

    def _pixels(self, picture: Picture) -> Raster:
        copy, area = self._copy(picture), picture.cut.area
        scale = copy.size.width / picture.size.width
        part = area.scaled(Size(scale, copy.size.height / picture.size.height))
        across = min(picture.size_variants[0].width, WIDEST, max(1, round(part.width)))
        down = max(1, round(across / area.size.aspect))
        inside = Rect(
            part.left, part.top, min(part.right, copy.size.width), min(part.bottom,
            copy.size.height),
        )  # fmt: skip
        return treated(resize(copy, inside, across, down), picture.tone, across / picture.drawn)

    def _copy(self, picture: Picture) -> Raster:
        """The reduced copy of a prepared source, decoded once."""
        task = ReduceSource(source_of(picture))
        if task not in self._copies:
            self._copies[task] = decode(self._reduced[task])
        return self._copies[task]
