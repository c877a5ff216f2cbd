"""Sources as tasks name them: by their content, with the path carried beside."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock

from brightcanvas.analysis.seams import rolled_to_gaps, seamless
from brightcanvas.colour.resample import Reducible
from brightcanvas.formats.kinds import FileKind
from brightcanvas.formats.loaded import Loaded, load
from brightcanvas.formats.pictures.picture_reading import picture_of
from brightcanvas.formats.survey import (
    SourceFacts,
    changed,
    check_unchanged,
    file_digest,
    moment_of,
)
from brightcanvas.plan.planned import Preparation
from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster

LOOKED_AT = 1600
"""Px across of a drawing that is looked at; what is made of it is rendered for itself."""

AT_HAND, MOST_PX = 2, 40_000_000
"""Decoded sources that stay in memory, and the px of all of them; one may be larger."""


@dataclass(frozen=True)
class Source:
    """A source file."""

    digest: str
    """SHA-256 of its content, in hex."""
    kind: FileKind
    size: Size
    path: Path = field(compare=False)
    """Where that content is found."""

    @classmethod
    def of(cls, facts: SourceFacts) -> Source:
        """By what a survey told."""
        return cls(facts.digest, facts.kind, facts.size, facts.path)

    def load(self) -> Loaded:
        """The file of a picture or a drawing: what is decoded is what was named.

        Raises:
            SourceError: it was changed meanwhile.
        """
        file = load(self.path)
        if file.digest != self.digest:
            raise changed(self.path)
        return file

    @contextmanager
    def held(self) -> Iterator[Path]:
        """A clip's file, which is read piece by piece while this is open.

        Raises:
            SourceError: it is not what was named, or was changed before the end.
        """
        moment = moment_of(self.path)
        if file_digest(self.path) != self.digest:
            raise changed(self.path)
        yield self.path
        check_unchanged(self.path, moment, self.digest)


@dataclass(frozen=True)
class PreparedSource:
    """One picture of a source, with its preparation done."""

    source: Source
    second: float = 0.0
    """Of a clip; 0 for pictures."""
    preparation: Preparation = field(default_factory=Preparation)

    @classmethod
    def of(cls, facts: SourceFacts, poster_at: float | None, how: Preparation) -> PreparedSource:
        """By what a survey told; ``poster_at`` counts for clips only."""
        second = (poster_at or 0.0) if facts.kind.is_clip else 0.0
        return cls(Source.of(facts), second, how)

    @property
    def is_untouched(self) -> bool:
        """Whether nothing is done to it."""
        return self.preparation == Preparation()

    def read(self, across: int | None = None) -> Raster:
        """Its pixels; of a drawing in so many px across, where that is said."""
        return prepared(self._as_it_is(across), self.preparation)

    def _as_it_is(self, across: int | None) -> Raster:
        if not self.source.kind.is_clip:
            return picture_of(self.source.load(), across)
        from brightcanvas.formats.clips.clip_reading import read_frame

        with self.source.held() as path:
            return read_frame(path, self.second)


def prepared(picture: Raster, preparation: Preparation) -> Raster:
    """A source with its preparation done."""
    if preparation.seamless:
        picture = seamless(picture)
    return rolled_to_gaps(picture) if preparation.rolled else picture


class _Read:
    """A source that is decoded and prepared when its pixels are first needed, and only then."""

    def __init__(self, source: PreparedSource) -> None:
        self._source = source
        self._lock = Lock()
        self._reducible: Reducible | None = None

    def reducible(self) -> Reducible:
        with self._lock:
            if self._reducible is None:
                across = LOOKED_AT if self._source.is_untouched else None
                self._reducible = Reducible(self._source.read(across))
            return self._reducible

    def release(self) -> None:
        with self._lock:
            self._reducible = None

    @property
    def pixels(self) -> float:
        size = self._source.source.size
        return size.width * size.height


class SourceCache:
    """A worker's place for the sources that it has decoded: the last ones stay at hand."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._reads: OrderedDict[PreparedSource, _Read] = OrderedDict()

    def reducible(self, source: PreparedSource) -> Reducible:
        """A prepared source, of which smaller ones are made."""
        with self._lock:
            read = self._reads.setdefault(source, _Read(source))
            self._reads.move_to_end(source)
            self._make_room()
        return read.reducible()

    def picture(self, source: PreparedSource) -> Raster:
        """Its pixels."""
        return self.reducible(source).picture

    def release(self, source: PreparedSource) -> None:
        """Give its memory back; it is read once more when it is needed again."""
        with self._lock:
            read = self._reads.get(source)
        if read:
            read.release()

    def _make_room(self) -> None:
        while len(self._reads) > 1 and (
            len(self._reads) > AT_HAND or sum(one.pixels for one in self._reads.values()) > MOST_PX
        ):
            self._reads.popitem(last=False)
