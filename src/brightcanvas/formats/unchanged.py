"""Whether a file that was read piece by piece stayed what it was all the while."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.formats.loaded import readable
from brightcanvas.values.digests import digest_of
from brightcanvas.values.errors import SourceError

UNSURE = 2_000_000_000
"""Nanoseconds: a file that was changed no longer ago may be changed again without a new time."""


@dataclass(frozen=True)
class Moment:
    """What the system says of a file."""

    bytes: int
    marks: tuple[int, ...]
    """Its number, its size, and its times of change in nanoseconds."""
    is_sure: bool
    """Whether a change from now on shows in the marks."""


def moment_of(path: Path) -> Moment:
    """What the system says of a file now.

    Raises:
        SourceError: it is gone.
    """
    with readable(path):
        found = path.stat()
    marks = (found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns)
    return Moment(found.st_size, marks, max(marks[2:]) < time.time_ns() - UNSURE)


def check_unchanged(path: Path, before: Moment, digest: str) -> None:
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
