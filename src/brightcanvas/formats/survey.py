"""Facts of a source, read from its head without decoding its pixels."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.drawings.drawing_cuts import read_drawing_head
from brightcanvas.formats.kinds import FileKind
from brightcanvas.formats.loaded import Loaded, kind_of, load, readable
from brightcanvas.formats.pictures.picture_reading import picture_of, read_picture_head
from brightcanvas.values.errors import SourceError
from brightcanvas.values.files import LARGEST_SOURCE, digest_of
from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.raster import Raster

UNSURE = 2_000_000_000
"""Nanoseconds: a file that was changed no longer ago may be changed again without a new time."""


@dataclass(frozen=True)
class FileState:
    """What the system says of a file."""

    bytes: int
    marks: tuple[int, ...]
    """Its number, its size, and its times of change in nanoseconds."""
    is_sure: bool
    """Whether a change from now on shows in the marks."""


def moment_of(path: Path) -> FileState:
    """What the system says of a file now.

    Raises:
        SourceError: it is gone.
    """
    with readable(path):
        found = path.stat()
    marks = (found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns)
    return FileState(found.st_size, marks, max(marks[2:]) < time.time_ns() - UNSURE)


def check_unchanged(path: Path, before: FileState, digest: str) -> None:
    """Make sure that a file is what it was.

    Args:
        path: of it.
        before: as it was, taken before it was read.
        digest: SHA-256 of what it held then, in hex.

    Raises:
        SourceError: it was changed meanwhile.
    """
    same = moment_of(path).marks == before.marks
    if not (same and before.is_sure) and file_digest(path) != digest:
        raise changed(path)


def file_digest(path: Path) -> str:
    """SHA-256 of a source, in hex.

    Raises:
        SourceError: it is gone.
    """
    with readable(path):
        return digest_of(path)


def changed(path: Path) -> SourceError:
    """What is told of a source that is another one now."""
    return SourceError(f"{path}: it was changed while it was used. Run it again.")


LEAST_CLIP = 16
"""Px of a clip's side: encoders take no less than a block."""

LONGEST_SIDE = 65_500
"""Pixels. No format that is written here holds more on one side."""


@dataclass(frozen=True)
class SourceFacts:
    """What a source is, before anything is decoded."""

    path: Path
    kind: FileKind
    size: Size
    """Upright, in px; of a drawing as it counts, see ``drawing_cuts``."""
    has_alpha: bool
    bytes: int
    digest: str
    """SHA-256 of the file, in hex."""
    jpeg_quality: int | None = None
    """How it was last compressed, estimated; JPEG only."""
    seconds: float | None = None
    """Length of a clip."""
    pages: int = 1
    """Of a document of pictures, of which the first is taken."""


def survey(path: Path, limit: float = LARGEST_SOURCE) -> SourceFacts:
    """Look at a source.

    Args:
        path: of the picture, drawing or clip.
        limit: most megapixels that are accepted.

    Raises:
        SourceError: it can't be used; the message says why.
    """
    kind = kind_of(path)
    return _survey_clip(path, kind, limit) if kind.is_clip else survey_of(load(path), limit)


def survey_of(file: Loaded, limit: float = LARGEST_SOURCE) -> SourceFacts:
    """Look at a picture or a drawing, see ``survey``.

    Args:
        file: of it.
        limit: most megapixels that are accepted.

    Raises:
        SourceError: it can't be used; the message says why.
    """
    kind = file.kind
    head = (read_drawing_head if kind.is_drawing else read_picture_head)(file)
    _check_size(file.name, head.size, limit)
    if kind.format and not codec_of(kind.format).is_whole(file.content):
        raise SourceError(
            f"{file.name}: the file is damaged or cut short: its end is missing."
            " Save or upload it again."
        )
    return SourceFacts(
        path=file.path,
        kind=kind,
        size=head.size,
        has_alpha=head.has_alpha,
        bytes=len(file.content),
        digest=file.digest,
        jpeg_quality=head.jpeg_quality,
        pages=head.pages,
    )


def _survey_clip(path: Path, kind: FileKind, limit: float) -> SourceFacts:
    from brightcanvas.formats.clips.clip_reading import read_clip_head

    moment = moment_of(path)
    digest = file_digest(path)
    head = read_clip_head(path)
    _check_size(str(path), head.size, limit)
    if min(head.size.width, head.size.height) < LEAST_CLIP:
        raise SourceError(f"{path}: {head.size} px are no clip for a page.")
    check_unchanged(path, moment, digest)
    return SourceFacts(
        path, kind, head.size, head.has_alpha, moment.bytes, digest, None, head.seconds
    )


def _check_size(path: str, size: Size, limit: float) -> None:
    megapixels = size.width * size.height / 1e6
    if megapixels > limit:
        raise SourceError(
            f"{path}: {size} px are {plain_number(round(megapixels, 1))} megapixels, more than the"
            f" limit of {plain_number(limit)}. Save it smaller, or raise --largest-source."
        )
    if max(size.width, size.height) > LONGEST_SIDE:
        raise SourceError(f"{path}: {size} px; no side may be longer than {LONGEST_SIDE} px.")


def read_source(path: Path, limit: float) -> tuple[SourceFacts, Raster]:
    """Look at a source, and decode it; of a clip its first frame.

    Args:
        path: of it.
        limit: megapixels, at most; what is larger is never decoded.

    Raises:
        SourceError: it can't be used.
    """
    if kind_of(path).is_clip:
        from brightcanvas.formats.clips.clip_reading import read_frame

        return survey(path, limit), read_frame(path, 0.0)
    file = load(path)
    return survey_of(file, limit), picture_of(file)
