"""Making the assets: pixels in, files' bytes out, nothing twice."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from threading import Lock

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.raster import Raster
from brightcanvas.basics.shapes import Rect
from brightcanvas.media.clips import read_frame
from brightcanvas.media.encode import codec_version, encode
from brightcanvas.media.pictures import read_picture
from brightcanvas.media.survey import SourceFacts
from brightcanvas.tone.average import average_colour
from brightcanvas.tone.resample import resize
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
    area: Rect
    size: tuple[int, int]
    """Width and height of the result in px."""

    @property
    def identity(self) -> dict[str, object]:
        """What decides the pixels of the result."""
        area = self.area
        return {
            "source": self.facts.digest,
            "second": self.poster_at if self.facts.kind.is_clip else 0,
            "area": [area.left, area.top, area.right, area.bottom],
            "size": list(self.size),
        }


class Source:
    """A source that is decoded when its pixels are first needed, and only then."""

    def __init__(self, facts: SourceFacts, poster_at: float) -> None:
        self._facts = facts
        self._poster_at = poster_at
        self._lock = Lock()
        self._picture: Raster | None = None

    @property
    def picture(self) -> Raster:
        """The decoded source."""
        with self._lock:
            if self._picture is None:
                self._picture = self._read()
            return self._picture

    def _read(self) -> Raster:
        if self._facts.kind.is_clip:
            return read_frame(self._facts.path, self._poster_at)
        return read_picture(self._facts.path)


@dataclass(frozen=True)
class Result:
    """What became of a job: the files in every format tried, newest first, and the colour."""

    files: tuple[Made, ...]
    average: Colour


class Workshop:
    """Carries out the jobs of one build."""

    def __init__(self, store: Store, progress: Progress) -> None:
        self._store = store
        self._progress = progress

    def make(self, jobs: Iterable[Job]) -> dict[Job, Result]:
        """Make every job once; the jobs of one source follow each other, so it is read once."""
        by_source: dict[tuple[str, float], list[Job]] = {}
        for job in dict.fromkeys(jobs):
            by_source.setdefault((job.facts.digest, job.poster_at), []).append(job)
        results: dict[Job, Result] = {}
        with ThreadPoolExecutor(max_workers=os.cpu_count()) as pool:
            for group in by_source.values():
                source = Source(group[0].facts, group[0].poster_at)
                content = self._content(group[0], source)
                made = pool.map(lambda job: self._make(job, source, content), group)  # noqa: B023
                results.update(zip(group, made, strict=True))
        return results

    def _content(self, job: Job, source: Source) -> Content:
        identity = {"source": job.facts.digest, "second": job.identity["second"]}
        key = key_of(work="content", **identity)
        kept = self._store.find(key)
        if kept is None:
            found = content_of(source.picture)
            kept = json.dumps([found.has_alpha, found.is_flat]).encode()
            self._store.keep(key, kept)
        return Content(*json.loads(kept))

    def _make(self, job: Job, source: Source, content: Content) -> Result:
        rung = Resized(job, source)
        files = tuple(self._file(job, rung, encoding) for encoding in encodings_for(content))
        return Result(files, self._average(job, rung))

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
            self._picture = resize(self._source.picture, self._job.area, *self._job.size)
        return self._picture
