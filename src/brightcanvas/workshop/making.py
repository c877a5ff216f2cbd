"""Making the assets: pixels in, files' bytes out, nothing twice."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass
from functools import partial
from threading import Lock

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.raster import Raster
from brightcanvas.basics.shapes import Point, Rect
from brightcanvas.basics.tones import UNTREATED, Tone
from brightcanvas.eye.attention import Suggestion, suggest_subject
from brightcanvas.eye.seams import Seams, rolled_to_gaps, seamless, seams_of
from brightcanvas.media.clips import read_frame
from brightcanvas.media.encode import codec_version, encode
from brightcanvas.media.pictures import read_picture
from brightcanvas.media.survey import SourceFacts
from brightcanvas.plan.model import Preparation
from brightcanvas.tone.average import average_colour
from brightcanvas.tone.resample import resize
from brightcanvas.tone.treatments import treated
from brightcanvas.weight.content import Content, content_of
from brightcanvas.weight.formats import encodings_for
from brightcanvas.workshop.store import Store, key_of

Progress = Callable[[str], None]
"""Told the name of each piece of work that is done."""


@dataclass(frozen=True)
class Made:
    """One encoded picture."""

    format: FileFormat
    content: bytes

    @property
    def bytes(self) -> int:
        """Its weight."""
        return len(self.content)


@dataclass(frozen=True)
class Job:
    """One part of a source, to be made in one size."""

    facts: SourceFacts
    poster_at: float
    preparation: Preparation
    area: Rect
    size: tuple[int, int]
    """Width and height of the result in px."""
    tone: Tone = UNTREATED
    css_px: float = 1.0
    """Px of the result that make a CSS px at the largest box; matters to blurs only."""

    @property
    def source_identity(self) -> dict[str, object]:
        """What decides the pixels of the prepared source."""
        return {
            "source": self.facts.digest,
            "second": self.poster_at if self.facts.kind.is_clip else 0,
            "seamless": self.preparation.seamless,
            "rolled": self.preparation.rolled,
        }

    @property
    def identity(self) -> dict[str, object]:
        """What decides the pixels of the result."""
        area = self.area
        return {
            **self.source_identity,
            "area": [area.left, area.top, area.right, area.bottom],
            "size": list(self.size),
            "tone": asdict(self.tone),
            "css_px": self.css_px if self.tone.soften else 1,
        }


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


@dataclass(frozen=True)
class Look:
    """What a prepared source looks like."""

    content: Content
    seams: Seams
    suggestion: Suggestion


@dataclass(frozen=True)
class Result:
    """What became of a job: the files in every format tried, newest first, and the colour."""

    files: tuple[Made, ...]
    average: Colour
    look: Look


class Workshop:
    """Carries out the jobs of one build."""

    def __init__(self, store: Store, progress: Progress) -> None:
        self._store = store
        self._progress = progress

    def make(self, jobs: Iterable[Job]) -> dict[Job, Result]:
        """Make every job once; the jobs of one source follow each other, so it is read once."""
        by_source: dict[str, list[Job]] = {}
        for job in dict.fromkeys(jobs):
            by_source.setdefault(key_of(**job.source_identity), []).append(job)
        results: dict[Job, Result] = {}
        with ThreadPoolExecutor(max_workers=os.cpu_count()) as pool:
            for group in by_source.values():
                source = Source(group[0])
                look = self._look(group[0], source)
                made = pool.map(partial(self._make, source=source, look=look), group)
                results.update(zip(group, made, strict=True))
        return results

    def _look(self, job: Job, source: Source) -> Look:
        key = key_of(work="look", **job.source_identity)
        kept = self._store.find(key)
        if kept is None:
            kept = look_text(look_at(source.picture)).encode()
            self._store.keep(key, kept)
        return look_from(kept.decode())

    def _make(self, job: Job, source: Source, look: Look) -> Result:
        rung = Resized(job, source)
        files = tuple(
            self._file(job, rung, encoding) for encoding in encodings_for(_content(look, job))
        )
        return Result(files, self._average(job, rung), look)

    def _file(self, job: Job, rung: Resized, encoding: Encoding) -> Made:
        key = key_of(
            work="file",
            codec=codec_version(encoding.format),
            settings=[encoding.format.name, encoding.quality, encoding.lossless],
            **job.identity,
        )
        content = self._store.find(key)
        if content is None:
            content = encode(rung.picture, encoding)
            self._store.keep(key, content)
        self._progress(f"{job.facts.path.name} at {job.size[0]} px, {encoding.format.label}")
        return Made(encoding.format, content)

    def _average(self, job: Job, rung: Resized) -> Colour:
        key = key_of(work="average", **job.identity)
        kept = self._store.find(key)
        if kept is None:
            colour = average_colour(rung.picture)
            kept = json.dumps([colour.red, colour.green, colour.blue]).encode()
            self._store.keep(key, kept)
        return Colour(*json.loads(kept))


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


def look_text(look: Look) -> str:
    """A look as JSON."""
    return json.dumps(asdict(look))


def look_from(text: str) -> Look:
    """A look from its JSON."""
    parts = json.loads(text)
    subject = parts["suggestion"]
    suggestion = Suggestion(
        Point(**subject["point"]), Rect(**subject["box"]), subject["confidence"]
    )
    return Look(Content(**parts["content"]), Seams(**parts["seams"]), suggestion)


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
            job = self._job
            resized = resize(self._source.picture, job.area, *job.size)
            self._picture = treated(resized, job.tone, job.css_px)
        return self._picture
