"""Files that are there whole or not at all, that are files at all, and their digests."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import json
import os
import stat
import sys
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path

from brightcanvas.values.errors import MachineError

ASIDE = ".aside-"
"""How the names of files begin that are being written."""

NO_FILE = "it is a pipe, a device or the like, and no file"

LARGEST_RECORD = 64_000_000
"""Bytes of a file that we keep notes in; a longer one is none of ours."""


LARGEST_SOURCE = 120.0
"""Megapixels. A larger source is refused: decoded, it takes 3 to 4 bytes per pixel."""

LARGEST_COMPRESSED = 40.0
"""Megapixels of a picture that is compressed as it is: it is looked at whole, which takes 40 bytes
per pixel, and no page shows so much."""


def write_whole(path: Path, content: bytes, aside: str = ASIDE) -> None:
    """Write a file aside, flush it, and put it in its place in one step.

    Args:
        path: of the file.
        content: that it gets.
        aside: how the name begins under which it is written first, in the same folder.

    Raises:
        MachineError: the disk is full, the folder may not be written, and the like.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, written = tempfile.mkstemp(dir=path.parent, prefix=aside)
    except (OSError, ValueError) as error:
        raise _refused(path, error) from error
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        Path(written).chmod(0o644)
        _put_in_place(Path(written), path)
    except OSError as error:
        raise _refused(path, error) from error
    finally:
        with contextlib.suppress(OSError):
            Path(written).unlink(missing_ok=True)


BUSY_WAITS = (0.01, 0.05, 0.2, 0.5)
"""Seconds between tries where somebody reads the file that is replaced: Windows refuses that."""


def _put_in_place(written: Path, path: Path) -> None:
    for seconds in BUSY_WAITS if sys.platform == "win32" else ():
        try:
            written.replace(path)
        except PermissionError:
            time.sleep(seconds)
        else:
            return
    written.replace(path)


def _refused(path: Path, error: OSError | ValueError) -> MachineError:
    return MachineError(f"{path} can't be written: {_reason(error)}.")


def _reason(error: OSError | ValueError) -> str:
    return str(getattr(error, "strerror", None) or error)


def read_regular(path: Path, most: int | None = None) -> bytes:
    """The content of a regular file: a pipe would be waited for, a device never ends.

    Args:
        path: of the file; links are followed.
        most: bytes; None: as many as there are.

    Raises:
        OSError: there is none, it is of another kind, or it is longer than that.
    """
    check_regular(path)
    # Nobody needs to be at the other end of a pipe that was put there since.
    flags = os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0)
    with os.fdopen(os.open(path, flags), "rb") as file:
        if not stat.S_ISREG(os.fstat(file.fileno()).st_mode):
            raise OSError(errno.EINVAL, NO_FILE, str(path))
        content = file.read() if most is None else file.read(most + 1)
    if most is not None and len(content) > most:
        raise OSError(errno.EFBIG, os.strerror(errno.EFBIG), str(path))
    return content


def holds(path: Path, content: bytes) -> bool:
    """Whether there is a regular file with that content."""
    try:
        return read_regular(path, len(content)) == content
    except OSError:
        return False


def check_regular(path: Path) -> None:
    """Make sure that something is a regular file.

    Raises:
        OSError: there is none, or it is a folder, a pipe, a device and the like.
    """
    try:
        mode = path.stat().st_mode
    except ValueError as error:  # a name with a zero byte
        raise OSError(errno.ENOENT, os.strerror(errno.ENOENT), str(path)) from error
    if stat.S_ISDIR(mode):
        raise IsADirectoryError(errno.EISDIR, os.strerror(errno.EISDIR), str(path))
    if not stat.S_ISREG(mode):
        raise OSError(errno.EINVAL, NO_FILE, str(path))


def read_notes(path: Path) -> object:
    """The JSON of a file in which we keep notes; None where it can't be read as that."""
    try:
        return json.loads(read_regular(path, LARGEST_RECORD))
    except (OSError, ValueError, RecursionError):
        return None


def digest_of(path: Path) -> str:
    """SHA-256 of a regular file's bytes, in hex."""
    check_regular(path)
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def likely_page(names: Iterable[str]) -> str | None:
    """The page that is begun with, among names of files: index.html, or the first by its name."""
    pages = sorted(name for name in names if name.lower().endswith((".html", ".htm")))
    return "index.html" if "index.html" in pages else next(iter(pages), None)
