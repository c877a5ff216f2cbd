"""Putting files into the output folder without touching what others put there."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from brightcanvas.ledger.record import LEDGER
from brightcanvas.pipeline.home import is_plain_file, own_folder
from brightcanvas.pipeline.ownership import (
    Output,
    Owned,
    check_reached,
    digest_at,
    is_given,
    is_spared,
    left_aside,
    note,
    owned,
)
from brightcanvas.values.errors import BriefError, MachineError
from brightcanvas.values.files import ASIDE, write_whole

TIMEOUT = 120.0
"""Seconds to wait for another run that is publishing."""


def publish(output: Output, files: Mapping[str, bytes]) -> tuple[str, ...]:
    """Write files by their names into a folder, the ledger last, and sweep what is outdated.

    Anything in the way that is not ours is refused before a single file is written. Runs that
    meet publish one after the other.

    Returns:
        Names of outdated files that could not be removed.

    Raises:
        BriefError: a file that we did not make, or that was changed since, is in the way, or
            the folder is somebody else's.
        MachineError: a file can't be written.
    """
    with _alone(own_folder(output.home) / "publishing.lock"):
        return _publish(output, files)


def file_facts(name: str, content: bytes) -> dict[str, Any]:
    """A published file as plain JSON values."""
    return {"file": name, "bytes": len(content), "sha256": _digest(content)}


@contextmanager
def _alone(lock: Path) -> Iterator[None]:
    """While no other run publishes; the system lets go of a lock whose run was killed."""
    from filelock import FileLock, Timeout

    try:
        lock.parent.mkdir(parents=True, exist_ok=True)
        if lock.is_symlink() or (lock.exists() and not is_plain_file(lock)):
            raise BriefError(f"{lock} is no plain file, and not of Bright Canvas: move it away.")
        held = FileLock(lock).acquire(timeout=TIMEOUT)
    except Timeout as error:
        raise MachineError(
            f"Another run has been publishing for more than {TIMEOUT:.0f} s: wait for it, or end"
            " it, and try again."
        ) from error
    except OSError as error:
        raise MachineError(f"{lock} can't be written: {error.strerror or error}.") from error
    with held:
        yield


def _publish(output: Output, files: Mapping[str, bytes]) -> tuple[str, ...]:
    check_reached(output)
    new = {name: _digest(content) for name, content in files.items()}
    before = owned(output, new.get(LEDGER))
    for path in left_aside(output, before.aside):
        path.unlink(missing_ok=True)
    found = {name: digest_at(output.folder / name) for name in new}
    _check_way(output, new, found, before)
    token = uuid.uuid4().hex
    note(output, Owned(output.owner, _either(new, before), token))
    for name in sorted(files, key=lambda name: name == LEDGER):
        if found[name] != new[name]:
            write_whole(output.folder / name, files[name], f"{ASIDE}{token}-")
    left = _sweep(output, before, keep=set(new))
    kept = {name: frozenset({digest}) for name, digest in new.items()}
    note(output, Owned(output.owner, kept | {name: before.files[name] for name in left}))
    return left


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def _check_way(
    output: Output, new: Mapping[str, str], found: Mapping[str, str | None], before: Owned
) -> None:
    for name, digest in new.items():
        assert is_given(name, (digest,)), name
        path, there = output.folder / name, found[name]
        if is_spared(output, path):
            raise BriefError(f"{path} is what the brief is made from: {output.remedy}.")
        if there not in (None, digest) and there not in before.files.get(name, ()):
            raise BriefError(
                f"{path} was not made by {output.owner}, or was changed since. Move it away, or"
                f" {output.remedy}. Nothing was written."
            )


def _either(new: Mapping[str, str], before: Owned) -> dict[str, frozenset[str]]:
    """What is there while files are being replaced."""
    names = {*new, *before.files}
    return {
        name: before.files.get(name, frozenset()) | ({new[name]} if name in new else frozenset())
        for name in names
    }


def _sweep(output: Output, before: Owned, keep: set[str]) -> tuple[str, ...]:
    """Remove what we made before and no longer need, if nobody changed it; what is left of it."""
    left = []
    for name in sorted(before.files.keys() - keep):
        path = output.folder / name
        if digest_at(path) in before.files[name] and not is_spared(output, path):
            with suppress(OSError):
                path.unlink(missing_ok=True)
            left += [name] if path.exists() else []
    return tuple(left)
