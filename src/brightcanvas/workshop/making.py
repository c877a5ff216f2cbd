"""Making the assets: pixels in, files' bytes out, nothing twice."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Callable, Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from threading import Lock

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.raster import Raster
from brightcanvas.eye.attention import suggest_subject
from brightcanvas.eye.seams import rolled_to_gaps, seamless, seams_of
from brightcanvas.media.clips import read_frame
from brightcanvas.media.drawing_cuts import cut_drawing
from brightcanvas.media.encode import codec_version
from brightcanvas.media.pictures import read_picture
from brightcanvas.media.stripping import bare
from brightcanvas.media.survey import SourceFacts
from brightcanvas.plan.model import Preparation
from brightcanvas.tone.average import average_colour
from brightcanvas.tone.resample import resize
from brightcanvas.tone.treatments import treated
from brightcanvas.weight.aside import is_large
from brightcanvas.weight.content import Content, content_of
from brightcanvas.weight.lightest import Guide, follow, search
from brightcanvas.weight.likeness import Score
from brightcanvas.weight.search import Found, Study
from brightcanvas.workshop.gate import Gate
from brightcanvas.workshop.jobs import Job
from brightcanvas.workshop.made import Look, Made, Result
from brightcanvas.workshop.memory import (
    guide_from,
    guide_text,
    look_from,
    look_text,
    made_from,
    made_parts,
)
from brightcanvas.workshop.store import Store, key_of

WORTH = 0.85
"""A source is compressed again only if that makes it this much smaller: it loses once more."""

Progress = Callable[[str], None]
"""Told the name of each piece of work that is done."""


class Source:
    """A source that is decoded and prepared when its pixels are first needed, and only then."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._lock = Lock()
        self._picture: Raster | None = None

    @property
    def picture(self) -> Raster:
        """The prepared source."""
        with self._lock:
            if self._picture is None:
                self._picture = self._read()
            return self._picture

    def release(self) -> None:
        """Give its memory back; it is read once more when it is needed again."""
        with self._lock:
            self._picture = None

    def _read(self) -> Raster:
        job = self._job
        return prepared(read_source(job.facts, job.poster_at), job.preparation)


def read_source(facts: SourceFacts, poster_at: float) -> Raster:
    """The pixels of a source, as they are."""
    return read_frame(facts.path, poster_at) if facts.kind.is_clip else read_picture(facts.path)


def prepared(picture: Raster, preparation: Preparation) -> Raster:
    """A source with its preparation done."""
    if preparation.seamless:
        picture = seamless(picture)
    return rolled_to_gaps(picture) if preparation.rolled else picture


class Resized:
    """A rung that is resized when its pixels are first needed, and only then."""

    def __init__(self, job: Job, source: Source) -> None:
        self._job = job
        self._source = source
        self._picture: Raster | None = None

    @property
    def picture(self) -> Raster:
        """The rung's pixels."""
        if self._picture is None:
            job, source = self._job, self._source.picture
            resized = source if job.takes_all else resize(source, job.area, *job.size)
            self._picture = treated(resized, job.tone, job.css_px)
        return self._picture

    def handed_over(self) -> Raster:
        """The rung's pixels; of large ones no other copy is kept, nor the source."""
        picture = self.picture
        if is_large(picture.size):
            self._picture = None
            self._source.release()
        return picture


class Workshop:
    """Carries out the jobs of one build."""

    def __init__(self, store: Store, progress: Progress) -> None:
        self._store = store
        self._progress = progress
        self._gate = Gate()

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
        """Guides first: those that start from them wait for them."""
        source = Source(jobs[0])
        look = self._look(jobs[0], source)
        guides = dict.fromkeys(job.guide or job for job in jobs)
        guiding = {job: pool.submit(self._guiding, job, source, look) for job in guides}
        results: dict[Job, Future[Result]] = {}
        for job in jobs:
            results[job] = pool.submit(self._make, job, source, look, guiding)
        try:
            return {job: future.result() for job, future in results.items()}
        except BaseException:
            pool.shutdown(wait=False, cancel_futures=True)
            raise

    def _look(self, job: Job, source: Source) -> Look:
        key = key_of(work="look", **job.source_identity)
        kept = self._store.find(key)
        if kept is None:
            kept = look_text(look_at(source.picture)).encode()
            self._store.keep(key, kept)
        return look_from(kept.decode())

    def _guiding(self, job: Job, source: Source, look: Look) -> Guide:
        """What a guide tells the others; making it makes its files too."""
        key = key_of(work="guide", **_settings(job))
        kept = self._store.find(key)
        if kept is not None:
            return guide_from(kept.decode())
        rung = Resized(job, source)
        with self._gate.passing(job.pixels):
            self._average(job, rung)
            study = Study(rung.handed_over(), job.viewing)
            found, guide = search(study, _content(look, job), job.wanted)
        self._keep_files(job, found)
        self._store.keep(key, guide_text(guide).encode())
        return guide

    def _make(
        self, job: Job, source: Source, look: Look, guiding: dict[Job, Future[Guide]]
    ) -> Result:
        guide = guiding[job.guide or job].result()
        rung = Resized(job, source)
        files = self._files(job)
        if files is None and self._is_best_drawn(job):
            files = self._keep_files(job, ())
        elif files is None:
            with self._gate.passing(job.pixels):
                self._average(job, rung)
                study = Study(rung.handed_over(), job.viewing)
                found = follow(study, _content(look, job), job.wanted, guide)
            del study
            files = self._keep_files(job, found)
        for made in files:
            self._progress(f"{job.facts.path.name} at {job.size[0]} px, {made.format.label}")
        return Result(files, self._average(job, rung), look)

    def _is_best_drawn(self, job: Job) -> bool:
        """Whether the pixels of a drawing will be heavier than itself, as its smallest rung tells.

        Its outlines get longer in step with its width, and what they weigh with them.
        """
        if job.guide is None or not job.is_drawn:
            return False
        *pixels, drawing = self._files(job.guide) or ()
        is_drawing = drawing.format is FileFormat.SVG
        lightest = min((one.bytes for one in pixels), default=0)
        return is_drawing and lightest * job.size[0] / job.guide.size[0] >= drawing.bytes

    def _files(self, job: Job) -> tuple[Made, ...] | None:
        kept = self._store.find(key_of(work="files", **_settings(job)))
        if kept is None:
            return None
        listed = json.loads(kept)
        contents = [self._store.find(one["name"]) for one in listed]
        if any(content is None for content in contents):
            return None
        return tuple(
            made_from(one, content or b"") for one, content in zip(listed, contents, strict=True)
        )

    def _keep_files(self, job: Job, found: tuple[Found, ...]) -> tuple[Made, ...]:
        files = _with_drawing(job, tuple(_left_alone(job, one) for one in found))
        listed = []
        for made in files:
            name = hashlib.sha256(made.content).hexdigest()
            self._store.keep(name, made.content)
            listed.append(made_parts(made, name))
        self._store.keep(key_of(work="files", **_settings(job)), json.dumps(listed).encode())
        return files

    def _average(self, job: Job, rung: Resized) -> Colour:
        key = key_of(work="average", **job.identity)
        kept = self._store.find(key)
        if kept is None:
            colour = average_colour(rung.picture)
            kept = json.dumps([colour.red, colour.green, colour.blue]).encode()
            self._store.keep(key, kept)
        return Colour(*json.loads(kept))


def _settings(job: Job) -> dict[str, object]:
    """Everything that decides a job's files."""
    formats = [*job.wanted.formats, *([FileFormat.SVG] if job.facts.kind.is_drawing else [])]
    return {**job.order, "codecs": [codec_version(one) for one in formats]}


def _with_drawing(job: Job, files: tuple[Made, ...]) -> tuple[Made, ...]:
    """With the cut of a drawing itself, for every browser, where its pixels are no lighter."""
    if not job.is_drawn:
        return files
    content = cut_drawing(job.facts.path, job.area)
    drawing = Made(Encoding(FileFormat.SVG, lossless=True), Score(1.0, 1.0), content)
    is_heavier = bool(files) and drawing.bytes > files[-1].bytes
    return files if is_heavier else (*files, drawing)


def _left_alone(job: Job, found: Found) -> Made:
    """The file that was found, or the source's own where that is no heavier."""
    made = Made(found.encoding, found.score, found.content)
    if not job.takes_all or job.facts.kind.codec != found.encoding.format.name:
        return made
    content = bare(job.facts.path)
    if content is None or made.bytes <= WORTH * len(content):
        return made
    return Made(found.encoding, Score(1.0, 1.0), content, is_source=True)


def _content(look: Look, job: Job) -> Content:
    """What the treated picture is: a ground fills transparency, a blur leaves no even areas."""
    tone = job.tone
    return Content(
        has_alpha=look.content.has_alpha and tone.ground is None,
        is_flat=look.content.is_flat and not tone.soften,
    )


def look_at(picture: Raster) -> Look:
    """Everything that is worth knowing of a source and needs its pixels."""
    return Look(content_of(picture), seams_of(picture), suggest_subject(picture))
