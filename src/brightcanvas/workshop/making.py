"""Making the assets: pixels in, files' bytes out, nothing twice."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from threading import Lock

from brightcanvas.analysis.saliency import suggest_subject
from brightcanvas.analysis.seams import rolled_to_gaps, seamless, seams_of
from brightcanvas.brief.model import Offer, Slot
from brightcanvas.colour.average import average_colour
from brightcanvas.colour.reducing import Reducible
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.drawing_cuts import cut_drawing
from brightcanvas.formats.encode import codec_version, encode
from brightcanvas.formats.pictures import decode, read_picture
from brightcanvas.formats.stripping import bare
from brightcanvas.formats.survey import SourceFacts
from brightcanvas.framing.weights import UNTRIED, Tried
from brightcanvas.plan.model import Preparation
from brightcanvas.plan.planning import preparation_of
from brightcanvas.quality.aside import is_large
from brightcanvas.quality.content import Content, content_of
from brightcanvas.quality.lightest import is_photograph, search
from brightcanvas.quality.metric import Score
from brightcanvas.quality.search import Found, Study
from brightcanvas.quality.weighing import ACROSS, weighed
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Rect
from brightcanvas.values.picture_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster
from brightcanvas.values.tones import UNTREATED, Tone
from brightcanvas.workshop.gate import Gate
from brightcanvas.workshop.jobs import Asked, Job, identity_of, veil_of
from brightcanvas.workshop.made import Look, Made, Result
from brightcanvas.workshop.memory import (
    look_from,
    look_text,
    made_from,
    made_parts,
    tried_from,
    tried_text,
)
from brightcanvas.workshop.store import Store, key_of

WORTH = 0.85
"""A source is compressed again only if that makes it this much smaller: it loses once more."""

Progress = Callable[[str], None]
"""Told the name of each piece of work that is done."""


class Source:
    """A source that is decoded and prepared when its pixels are first needed, and only then."""

    def __init__(self, facts: SourceFacts, poster_at: float, preparation: Preparation) -> None:
        self._facts = facts
        self._poster_at = poster_at
        self._preparation = preparation
        self._lock = Lock()
        self._reducible: Reducible | None = None

    @property
    def reducible(self) -> Reducible:
        """The prepared source, of which smaller ones are made."""
        with self._lock:
            if self._reducible is None:
                is_prepared = self._preparation != Preparation()
                across = None if is_prepared else LOOKED_AT
                read = read_source(self._facts, self._poster_at, across)
                self._reducible = Reducible(prepared(read, self._preparation))
            return self._reducible

    @property
    def picture(self) -> Raster:
        """Its pixels."""
        return self.reducible.picture

    def release(self) -> None:
        """Give its memory back; it is read once more when it is needed again."""
        with self._lock:
            self._reducible = None


LOOKED_AT = 1600
"""Px across of a drawing that is looked at; what is made of it is rendered for itself."""


def read_source(facts: SourceFacts, poster_at: float, across: int | None = None) -> Raster:
    """The pixels of a source, as they are; a drawing's in so many px across, where that is said."""
    if not facts.kind.is_clip:
        return read_picture(facts.path, across)
    from brightcanvas.formats.clips import read_frame

    return read_frame(facts.path, poster_at)


def prepared(picture: Raster, preparation: Preparation) -> Raster:
    """A source with its preparation done."""
    if preparation.seamless:
        picture = seamless(picture)
    return rolled_to_gaps(picture) if preparation.rolled else picture


class Resized:
    """A size that is made when its pixels are first needed, and only then."""

    def __init__(self, job: Job, source: Source) -> None:
        self._job = job
        self._source = source
        self._picture: Raster | None = None

    @property
    def picture(self) -> Raster:
        """The pixels, one to one."""
        if self._picture is None:
            self._picture = treated(self._untreated(), self._job.tone, self._job.css_px)
        return self._picture

    def _untreated(self) -> Raster:
        job = self._job
        if job.facts.kind.is_drawing and job.preparation == Preparation():
            return decode(cut_drawing(job.facts.path, job.area, job.size))
        source = self._source.reducible
        return source.picture if job.takes_all else source.resized(job.area, *job.size)

    def study(self) -> Study:
        """What files are made of and compared with; of large ones no other copy is kept."""
        picture = self.picture
        if is_large(picture.size):
            self._picture = None
            self._source.release()
        return Study(picture, self._job.viewing)


class Workshop:
    """Carries out the jobs of one build."""

    def __init__(self, store: Store, progress: Progress) -> None:
        self.store = store
        self._progress = progress
        self._gate = Gate()
        self._source: tuple[str, Source] | None = None

    def tried(self, slot: Slot, offer: Offer, facts: SourceFacts) -> Tried:
        """What quick trials tell of a source's files, or told before; nothing of drawn ones."""
        preparation, second = preparation_of(slot), offer.poster_at or 0.0
        key = _trial_key(slot, offer, facts)
        kept = self.store.find(key)
        if kept is None:
            source = self._source_of(facts, second, preparation)
            found = self._weighed(source, slot, facts)
            kept = tried_text(found).encode()
            self.store.keep(key, kept)
        return tried_from(kept.decode())

    def known(self, slot: Slot, offer: Offer, facts: SourceFacts) -> Tried:
        """What trials have told before; nothing where there were none."""
        kept = self.store.find(_trial_key(slot, offer, facts))
        return tried_from(kept.decode()) if kept else UNTRIED

    def _weighed(self, source: Source, slot: Slot, facts: SourceFacts) -> Tried:
        if facts.kind.is_drawing or not is_photograph(source_content(source, slot.tone)):
            return UNTRIED
        reducible = source.reducible
        if slot.tone != UNTREATED:
            size = reducible.picture.size
            width = min(ACROSS, int(size.width))
            whole = Rect(0, 0, size.width, size.height)
            small = reducible.resized(whole, width, max(1, round(width / size.aspect)))
            reducible = Reducible(treated(small, slot.tone))
        return weighed(reducible, slot.target, veil_of(slot.scrim))

    def make(self, jobs: Iterable[Job]) -> dict[Job, Result]:
        """Make every job once; the jobs of one source follow each other, so it is read once."""
        by_source: dict[str, list[Job]] = {}
        for job in dict.fromkeys(jobs):
            by_source.setdefault(key_of(**job.source_identity), []).append(job)
        results: dict[Job, Result] = {}
        with ThreadPoolExecutor(max_workers=os.cpu_count()) as pool:
            for group in by_source.values():
                results |= self._make_group(group, pool)
        return results

    def _make_group(self, jobs: list[Job], pool: ThreadPoolExecutor) -> dict[Job, Result]:
        """Large ones first: what is left at the end is short."""
        first = jobs[0]
        source = self._source_of(first.facts, first.poster_at, first.preparation)
        asked = Asked(any(j.asks.seams for j in jobs), any(j.asks.subject for j in jobs))
        look = self._look(first, source, asked)
        ordered = sorted(jobs, key=lambda job: -job.pixels)
        results = {job: pool.submit(self._make, job, source, look) for job in ordered}
        try:
            return {job: results[job].result() for job in jobs}
        except BaseException:
            pool.shutdown(wait=False, cancel_futures=True)
            raise

    def _source_of(self, facts: SourceFacts, second: float, preparation: Preparation) -> Source:
        """The source in hand, or another one in its place: one at a time stays in memory."""
        key = key_of(**identity_of(facts, second, preparation))
        if self._source is None or self._source[0] != key:
            self._source = (key, Source(facts, second, preparation))
        return self._source[1]

    def _look(self, job: Job, source: Source, asked: Asked) -> Look:
        key = key_of(work="look", **job.source_identity, **asdict(asked))
        kept = self.store.find(key)
        if kept is None:
            kept = look_text(look_at(source.picture, asked)).encode()
            self.store.keep(key, kept)
        return look_from(kept.decode())

    def _make(self, job: Job, source: Source, look: Look) -> Result:
        rung = Resized(job, source)
        files = self._files(job)
        if files is None:
            with self._gate.passing(job.pixels):
                self._average(job, rung)
                files = self._found(job, rung, look)
            self._keep_files(job, files)
        for made in files:
            self._progress(f"{job.facts.path.name} at {job.size[0]} px, {made.format.label}")
        return Result(files, self._average(job, rung), look)

    def _found(self, job: Job, rung: Resized, look: Look) -> tuple[Made, ...]:
        study = rung.study()
        if not job.is_drawn:
            found = search(study, _content(look, job), job.wanted)
            return tuple(_left_alone(job, one) for one in found)
        drawing = Made(
            DRAWN, Score(1.0, 1.0), cut_drawing(job.facts.path, job.area), job.area.size.rounded
        )
        if drawing.bytes <= SURELY_LIGHTEST * len(encode(study.picture, QUICK)):
            return (drawing,)
        found = search(study, _content(look, job), job.wanted)
        pixels = tuple(_left_alone(job, one) for one in found)
        return pixels if pixels[0].bytes < drawing.bytes else (drawing,)

    def _files(self, job: Job) -> tuple[Made, ...] | None:
        kept = self.store.find(key_of(work="files", **_settings(job)))
        if kept is None:
            return None
        listed = json.loads(kept)
        contents = [self.store.find(one["name"]) for one in listed]
        if any(content is None for content in contents):
            return None
        return tuple(
            made_from(one, content or b"") for one, content in zip(listed, contents, strict=True)
        )

    def _keep_files(self, job: Job, files: tuple[Made, ...]) -> None:
        listed = []
        for made in files:
            name = hashlib.sha256(made.content).hexdigest()
            self.store.keep(name, made.content)
            listed.append(made_parts(made, name))
        self.store.keep(key_of(work="files", **_settings(job)), json.dumps(listed).encode())

    def _average(self, job: Job, rung: Resized) -> Colour:
        key = key_of(work="average", **job.identity)
        kept = self.store.find(key)
        if kept is None:
            colour = average_colour(rung.picture)
            kept = json.dumps([colour.red, colour.green, colour.blue]).encode()
            self.store.keep(key, kept)
        return Colour(*json.loads(kept))


def _trial_key(slot: Slot, offer: Offer, facts: SourceFacts) -> str:
    veil = veil_of(slot.scrim)
    return key_of(
        work="tried", **identity_of(facts, offer.poster_at or 0.0, preparation_of(slot)),
        tone=asdict(slot.tone), target=slot.target, veil=asdict(veil) if veil else None,
        codecs=[codec_version(one) for one in (FileFormat.AVIF, FileFormat.JPEG)],
    )  # fmt: skip


DRAWN = Encoding(FileFormat.SVG, lossless=True)
QUICK = Encoding(FileFormat.AVIF, quality=40, draft=True)
SURELY_LIGHTEST = 0.7
"""A drawing of so much of the bytes of a coarse quick trial of its pixels, or less, is lighter
than they are at any score that is asked for."""


def _settings(job: Job) -> dict[str, object]:
    """Everything that decides a job's files."""
    formats = [*job.wanted.formats, *([FileFormat.SVG] if job.facts.kind.is_drawing else [])]
    return {**job.order, "codecs": [codec_version(one) for one in formats]}


def _left_alone(job: Job, found: Found) -> Made:
    """The file that was found, or the source's own where that is no heavier."""
    size = found.size if found.size[0] else job.size
    made = Made(found.encoding, found.score, found.content, size)
    if not job.takes_all or job.facts.kind.codec != found.encoding.format.name:
        return made
    content = bare(job.facts.path)
    if content is None or made.bytes <= WORTH * len(content):
        return made
    return Made(found.encoding, Score(1.0, 1.0), content, job.size, is_source=True)


def _content(look: Look, job: Job) -> Content:
    return treated_content(look.content, job.tone)


def source_content(source: Source, tone: Tone) -> Content:
    """What a source is once it is treated."""
    return treated_content(content_of(source.picture), tone)


def treated_content(content: Content, tone: Tone) -> Content:
    """What a treated picture is: a ground fills transparency, a blur leaves no even areas."""
    return Content(
        has_alpha=content.has_alpha and tone.ground is None,
        is_flat=content.is_flat and not tone.soften,
    )


def look_at(picture: Raster, asked: Asked) -> Look:
    """What is worth knowing of a source, and needs its pixels."""
    return Look(
        content_of(picture),
        seams_of(picture) if asked.seams else None,
        suggest_subject(picture) if asked.subject else None,
    )
