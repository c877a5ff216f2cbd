"""Other content for a file that people edit as well: it stays that file, and nothing is lost."""

from __future__ import annotations

import contextlib
import ctypes
import os
import stat
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from brightcanvas.values.errors import MachineError
from brightcanvas.values.files import ASIDE, read_regular

LOOKED_AFTER = 0.05
"""Seconds after a replacement in which an editor may still write into the file that was there."""


class ChangedError(Exception):
    """Somebody else has changed the file meanwhile; nothing was written."""


def replace_content(path: Path, before: bytes, content: bytes) -> Path | None:
    """Put other content into a file, which keeps its owner, its mode, and the links to it.

    Args:
        path: of the file.
        before: what it holds as far as we know.
        content: that it gets, whole or not at all.

    Returns:
        Where the text is kept that somebody else saved at that very moment; None mostly.

    Raises:
        ChangedError: it holds something else.
        MachineError: it can't be written.
    """
    place = path.resolve()
    try:
        if place.stat().st_nlink > 1:  # another name for it would go on having the old content
            _overwritten(place, before, content)
            return None
        with _aside(place, content) as (written, old):
            _check(place, before)
            if _swapped(written, place):
                _keep_or_give_back(written, place, before, content)
                return _raced(place, written, before)
            with contextlib.suppress(OSError):  # some disks have no second names
                old.hardlink_to(place)
            written.replace(place)
            return _raced(place, old, before)
    except OSError as error:
        raise MachineError(f"{path} can't be written: {error.strerror or error}.") from error


def _swapped(one: Path, other: Path) -> bool:
    """Let two files change their names, with no moment between; False: not to be had here.

    As Linux (renameat2) and macOS (renamex_np) do: whatever an editor has put there since it was
    looked at lies under the other name then.
    """
    names, here, swap = (os.fsencode(one), os.fsencode(other)), -100, 2
    try:
        system = ctypes.CDLL(None)
        if hasattr(system, "renameat2"):
            return bool(system.renameat2(here, names[0], here, names[1], swap) == 0)
        return bool(hasattr(system, "renamex_np") and system.renamex_np(*names, swap) == 0)
    except (OSError, TypeError):  # Windows
        return False


def _keep_or_give_back(was: Path, place: Path, before: bytes, content: bytes) -> None:
    """Undo a swap that took away what an editor had saved since our last look."""
    if read_regular(was) == before:
        return
    _swapped(was, place)
    if read_regular(was) != content:  # it has saved once more: that is the newest
        was.replace(place)
    raise ChangedError(str(place))


def _check(place: Path, before: bytes) -> None:
    if read_regular(place) != before:
        raise ChangedError(str(place))


@contextmanager
def _aside(place: Path, content: bytes) -> Iterator[tuple[Path, Path]]:
    """The content in a file beside it that is like it, and a name for the one that was there."""
    handle, name = tempfile.mkstemp(dir=place.parent, prefix=ASIDE)
    written, old = Path(name), Path(f"{name}-old")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        _make_like(written, place)
        yield written, old
    finally:
        for one in (written, old):
            with contextlib.suppress(OSError):
                one.unlink(missing_ok=True)


def _make_like(written: Path, place: Path) -> None:
    like = place.stat()
    if hasattr(os, "chown") and (like.st_uid, like.st_gid) != (os.getuid(), os.getgid()):
        with contextlib.suppress(OSError):  # who isn't root can't give a file away
            os.chown(written, like.st_uid, like.st_gid)
    written.chmod(stat.S_IMODE(like.st_mode))


def _overwritten(place: Path, before: bytes, content: bytes) -> None:
    """Written where it stands: what was there lies aside until the new content is whole."""
    with _aside(place, before) as (kept, _):
        _check(place, before)
        try:
            _write_in_place(place, content)
        except OSError:
            _write_in_place(place, kept.read_bytes())
            raise


def _write_in_place(place: Path, content: bytes) -> None:
    with place.open("r+b") as file:
        file.write(content)
        file.truncate()
        file.flush()
        os.fsync(file.fileno())


def _raced(place: Path, old: Path, before: bytes) -> Path | None:
    """What an editor wrote into the old file between our last look and its end."""
    until = time.monotonic() + LOOKED_AFTER
    while old.exists():
        if time.monotonic() > until:
            return None
        text = read_regular(old)
        if text and text != before:
            kept = _free_beside(place)
            kept.write_bytes(text)
            return kept
        time.sleep(LOOKED_AFTER / 10)
    return None


def _free_beside(place: Path) -> Path:
    """A name that nobody has, as in ``brief-saved-at-once-2.toml``."""
    names = (
        place.with_name(f"{place.stem}-saved-at-once{f'-{number}' if number > 1 else ''}"
                        f"{place.suffix}")
        for number in range(1, 1000)
    )  # fmt: skip
    return next(one for one in names if not one.exists())
