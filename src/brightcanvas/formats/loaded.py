"""Files of pictures and drawings in memory: what is hashed is what is decoded."""

from __future__ import annotations

import errno
import hashlib
import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from difflib import get_close_matches
from functools import cached_property
from itertools import islice
from pathlib import Path
from typing import BinaryIO

from brightcanvas.formats.kinds import WANTED, FileKind, kind_of_content
from brightcanvas.values.errors import MachineError, SourceError
from brightcanvas.values.files import check_regular, read_regular

LARGEST_FILE = 500_000_000
"""Bytes of a picture's file; clips may be longer, for they are never in memory whole."""


@dataclass(frozen=True)
class Loaded:
    """A file as it was at one moment."""

    path: Path
    content: bytes = field(repr=False)

    @property
    def name(self) -> str:
        """For messages."""
        return str(self.path)

    @cached_property
    def kind(self) -> FileKind:
        """What it is.

        Raises:
            SourceError: nothing that can be used.
        """
        return kind_of_content(self.content, self.name)

    @cached_property
    def digest(self) -> str:
        """SHA-256, in hex."""
        return hashlib.sha256(self.content).hexdigest()

    def stream(self) -> io.BytesIO:
        """For a codec."""
        return io.BytesIO(self.content)


def load(path: Path) -> Loaded:
    """The file of a picture or a drawing.

    Raises:
        SourceError: there is none, or it is longer than any picture.
        MachineError: it may not be read.
    """
    with readable(path):
        return Loaded(path, read_regular(path, LARGEST_FILE))


def kind_of(path: Path) -> FileKind:
    """The kind of the file at ``path``, by its beginning.

    Raises:
        SourceError: there is no such file, or it is of no kind that can be used.
        MachineError: the file may not be read.
    """
    with opened_file(path) as file:
        return kind_of_file(file, path)


def kind_of_file(file: BinaryIO, path: Path) -> FileKind:
    """The kind of an open file; it is read from its beginning afterwards."""
    head = file.read(HEAD_BYTES)
    file.seek(0)
    return kind_of_content(head, str(path))


HEAD_BYTES = 4096


@contextmanager
def opened_file(path: Path) -> Iterator[BinaryIO]:
    """A regular file, open: codecs get it, and never a name that they might understand.

    Raises:
        SourceError: there is no such file.
        MachineError: it may not be read.
    """
    with readable(path):
        check_regular(path)
        file = path.open("rb")
    with file:
        yield file


@contextmanager
def readable(path: Path) -> Iterator[None]:
    """What the system says of a file becomes one clear message.

    Raises:
        SourceError: there is no such file, or it is something else.
        MachineError: it may not be read.
    """
    try:
        yield
    except FileNotFoundError as error:
        like = _named_like(path)
        told = f"Did you mean {like}?" if like else "Check 'source' in the brief."
        raise SourceError(f"{path}: there is no such file. {told}") from error
    except IsADirectoryError as error:
        raise SourceError(f"{path}: this is a folder. Wanted: {WANTED}.") from error
    except PermissionError as error:
        what = "a folder" if path.is_dir() else "not readable for you"
        raise MachineError(f"{path}: this is {what}.") from error
    except OSError as error:
        if error.errno == errno.EFBIG:
            told = f"more than {LARGEST_FILE / 1e6:.0f} MB are no picture for a page"
            raise SourceError(f"{path}: {told}. Save it smaller.") from error
        told = error.strerror or str(error)
        raise SourceError(f"{path}: it can't be opened ({told}).") from error


def _named_like(path: Path) -> str | None:
    """The file beside it whose name differs by capitals alone, or else is the nearest."""
    try:
        beside = [other.name for other in islice(path.parent.iterdir(), MOST_BESIDE)]
    except (OSError, ValueError):
        return None
    alike = [name for name in beside if name.casefold() == path.name.casefold()]
    return next(iter(alike or get_close_matches(path.name, beside, n=1, cutoff=0.8)), None)


MOST_BESIDE = 2000
"""Files that are looked through for one of a like name."""
