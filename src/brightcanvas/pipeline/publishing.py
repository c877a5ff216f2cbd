"""Putting files into the output folder without touching what others put there."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from brightcanvas.ledger.model import LEDGER
from brightcanvas.values.errors import BriefError, MachineError
from brightcanvas.values.files import ASIDE, write_whole

PATIENCE = 120.0
"""Seconds to wait for another run that is publishing."""


def publish(output: Path, files: Mapping[str, bytes], journal: Path) -> None:
    """Write ``files`` (by name) into ``output``, the ledger last, and sweep what is outdated.

    A file is ours if its content is what the last ledger lists for it, or what the journal
    of an interrupted run says it was about to write. Anything else in the way is refused
    before a single file is written. Runs that meet publish one after the other.

    Raises:
        BriefError: a file that we did not make, or that was changed since, is in the way.
        MachineError: a file can't be written.
    """
    with _alone(journal.with_suffix(".lock")):
        _publish(output, files, journal)


def with_ledger(files: Mapping[str, bytes]) -> dict[str, bytes]:
    """Files with the list that tells them as ours the next time."""
    listed = [file_facts(name, content) for name, content in sorted(files.items())]
    ledger = {"made_by": "bright-canvas", "files": listed}
    return {**files, LEDGER: json.dumps(ledger, indent=2).encode()}


def file_facts(name: str, content: bytes) -> dict[str, Any]:
    """A published file as plain JSON values."""
    return {"file": name, "bytes": len(content), "sha256": _digest(content)}


@contextmanager
def _alone(lock: Path) -> Iterator[None]:
    """While no other run publishes; the system lets go of a lock whose run was killed."""
    from filelock import FileLock, Timeout

    try:
        lock.parent.mkdir(parents=True, exist_ok=True)
        held = FileLock(lock).acquire(timeout=PATIENCE)
    except Timeout as error:
        raise MachineError(
            f"Another run has been publishing for more than {PATIENCE:.0f} s: wait for it, or end"
            " it, and try again."
        ) from error
    except OSError as error:
        raise MachineError(f"{lock} can't be written: {error.strerror or error}.") from error
    with held:
        yield


def _publish(output: Path, files: Mapping[str, bytes], journal: Path) -> None:
    _sweep_aside(output, journal)
    ours = _ours(output, journal)
    new = {name: _digest(content) for name, content in files.items()}
    _check_way(output, new, ours)
    _note(journal, new, ours)
    order = sorted(files, key=lambda name: name == LEDGER)
    for name in order:
        if _digest_at(output / name) != new[name]:
            write_whole(output / name, files[name])
    _sweep(output, ours, keep=set(new))
    journal.unlink(missing_ok=True)


def _sweep_aside(output: Path, journal: Path) -> None:
    """A journal that is still there tells of a run that was killed while it wrote."""
    if journal.exists() and output.is_dir():
        for path in output.glob(f"{ASIDE}*"):
            path.unlink(missing_ok=True)


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def _digest_at(path: Path) -> str | None:
    try:
        return _digest(path.read_bytes())
    except (FileNotFoundError, IsADirectoryError):
        return None
    except OSError as error:
        raise MachineError(f"{path} can't be read: {error.strerror or error}.") from error


def _ours(output: Path, journal: Path) -> dict[str, set[str]]:
    """The digests of what we wrote or were about to write, by plain file name."""
    known: dict[str, set[str]] = {}
    ledger = _read_json(output / LEDGER)
    for entry in ledger.get("files", []) if isinstance(ledger, dict) else []:
        if isinstance(entry, dict) and _is_plain(entry.get("file")):
            known.setdefault(entry["file"], set()).add(str(entry.get("sha256")))
    noted = _read_json(journal)
    for name, digests in noted.items() if isinstance(noted, dict) else []:
        if _is_plain(name) and isinstance(digests, list):
            known.setdefault(name, set()).update(str(one) for one in digests)
    return known


def _is_plain(name: object) -> bool:
    """A ledger may be forged: only names that stay within the folder count."""
    return isinstance(name, str) and name not in ("", ".", "..") and not set(name) & set("/\\:\0")


def _read_json(path: Path) -> object:
    try:
        return json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return None


def _is_our_ledger(path: Path) -> bool:
    ledger = _read_json(path)
    return isinstance(ledger, dict) and ledger.get("made_by") == "bright-canvas"


def _check_way(output: Path, new: Mapping[str, str], ours: Mapping[str, set[str]]) -> None:
    if output.exists() and not output.is_dir():
        raise BriefError(f"{output} is a file: name another 'output' in the brief.")
    for name, digest in new.items():
        path = output / name
        found = _digest_at(path)
        if path.is_dir() or not (found is None or found == digest or _is_ours(path, found, ours)):
            raise BriefError(
                f"{path} was not made by Bright Canvas, or was changed since. Move it away, or"
                " name another 'output' in the brief. Nothing was written."
            )


def _is_ours(path: Path, digest: str, ours: Mapping[str, set[str]]) -> bool:
    if path.name == LEDGER:
        return _is_our_ledger(path)
    return digest in ours.get(path.name, set())


def _note(journal: Path, new: Mapping[str, str], ours: Mapping[str, set[str]]) -> None:
    noted = {name: sorted({digest} | ours.get(name, set())) for name, digest in new.items()}
    older = {name: sorted(digests) for name, digests in ours.items() if name not in noted}
    write_whole(journal, json.dumps(noted | older).encode())


def _sweep(output: Path, ours: Mapping[str, set[str]], keep: set[str]) -> None:
    """Remove what we made before and no longer need, if nobody changed it."""
    for name, digests in ours.items():
        if name not in keep and name != LEDGER and _digest_at(output / name) in digests:
            (output / name).unlink(missing_ok=True)
