"""Whether anything changed since the last build, told without loading anything heavy.

A stamp beside the store says from what the last build was made, what it published, and what it
told. While all of that is as it was, there is nothing to do. Times and sizes of files are
compared first; where they differ, or a file was changed too shortly before to be sure, their
contents are.
"""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from brightcanvas.pipeline.home import own_folder
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.files import digest_of, read_notes
from brightcanvas.values.version import ROOT

LONGEST = 60
"""Characters of a brief's name that its stamp's has: names have their limits."""

UNSURE = 2_000_000_000
"""Nanoseconds: file systems may keep times no finer than that."""


@dataclass(frozen=True)
class Remembered:
    """The last build, which is still what a new one would come to."""

    status: ExitStatus
    texts: Mapping[str, str]
    """What was told, by the kind of terminal it was told to."""


def stamp_path(brief: Path) -> Path:
    """Where a brief's stamp is."""
    return own_folder(brief.parent) / f"last-build-{brief.stem[:LONGEST]}.json"


def remembered(brief: Path, settings: Mapping[str, Any]) -> Remembered | None:
    """The last build of a brief, if nothing that matters has changed since.

    Args:
        brief: path of the brief.
        settings: of this call.
    """
    try:
        parts: Any = read_notes(stamp_path(brief))
        fresh = parts["program"] == program() and parts["settings"] == dict(settings)
        # A folder that was copied brings the stamp of the one that it was copied from.
        fresh = fresh and str(brief.resolve()) in parts["files"]
        if fresh and all(_is_same(Path(path), known) for path, known in parts["files"].items()):
            texts = {str(kind): str(text) for kind, text in parts["texts"].items()}
            return Remembered(ExitStatus(parts["status"]), texts)
    except (OSError, ValueError, LookupError, TypeError, AttributeError, OverflowError):
        pass
    return None


def stamp_text(
    files: Mapping[Path, str],
    began: int,
    settings: Mapping[str, Any],
    told: Remembered,
) -> str:
    """The stamp of a build.

    Args:
        files: everything it was made from and everything it published, with SHA-256 in hex.
        began: when it began, nanoseconds since 1970.
        settings: of the call.
        told: what came of it.
    """
    return json.dumps(
        {
            "program": program(),
            "settings": dict(settings),
            "files": {str(path): _known(path, digest, began) for path, digest in files.items()},
            "status": told.status,
            "texts": dict(told.texts),
        }
    )


def program() -> str:
    """A digest of the program that runs: of its files' names, sizes and times, and its codecs'."""
    marks = sorted(_marks(ROOT))
    for library in map(find_spec, ("PIL", "av")):
        if library and library.origin:
            marks += sorted(_marks(Path(library.origin).parent))
    return hashlib.sha256("\n".join(marks).encode()).hexdigest()


def _marks(folder: Path) -> Iterable[str]:
    for place, folders, names in os.walk(folder):
        folders[:] = [name for name in folders if name not in ("__pycache__", "demo")]
        for name in names:
            if name.endswith((".py", ".j2", ".js", ".so", ".pyd")):
                found = os.stat(os.path.join(place, name))  # noqa: PTH116, PTH118 - many, fast
                yield f"{name} {found.st_size} {found.st_mtime_ns}"


def _known(path: Path, digest: str, began: int) -> list[Any]:
    found = path.stat()
    sure = found.st_mtime_ns < began - UNSURE
    return [found.st_size, found.st_mtime_ns if sure else 0, digest]


def _is_same(path: Path, known: list[Any]) -> bool:
    size, changed, digest = known
    found = path.stat()
    if found.st_size != size:
        return False
    return bool(found.st_mtime_ns == changed or digest_of(path) == digest)
