"""Which published files are ours, and who owns an output folder.

A record in the folder beside the brief says what was put where, by whom, with SHA-256. A file is
replaced or removed only if that record lists it, under a name that we give, with the digest that
it has now, and if it is reached through no link. An output folder has one owner.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from brightcanvas.ledger.record import LEDGER
from brightcanvas.pipeline.home import is_plain_file, own_folder
from brightcanvas.values.errors import BriefError, MachineError
from brightcanvas.values.files import ASIDE, read_notes, read_regular, write_whole

RECORD = "outputs.json"

IN_THE_BRIEF = "name another 'output' in the brief"
BY_INTO = "name another folder with --into"
"""What to do where a folder is somebody else's."""

_PAGED = r"(-[\w-]+)?"
_OF_RULES = re.compile(
    rf"backdrops{_PAGED}\.css|moving\.js|(markup|paste|try-it|head{_PAGED})\.html|ledger\.json"
    rf"|(headers|early-hints){_PAGED}\.txt"
    r"|inspection\.html|before-after(-[\w-]+)?\.html|proof\.html|waterfall\.png|rehearsal\.html"
)
_OF_ASSETS = re.compile(r"[\w-]+-\d+x\d+-([0-9a-f]{8})\.[a-z0-9]{3,5}")
_DIGEST = re.compile(r"[0-9a-f]{64}")
_TOKEN = re.compile(r"[0-9a-f]{32}")

NO_FILE = ""
"""Instead of a digest."""

Digests = Mapping[str, frozenset[str]]
"""By a file's name what it may hold: one, or while it is being replaced several, in hex."""


@dataclass(frozen=True)
class Output:
    """A folder into which one of us publishes."""

    folder: Path
    home: Path
    """The folder of the brief: the record lies in our folder there."""
    owner: str
    """Who publishes there, as people are told: ``brief.toml``'s build, its sheets."""
    remedy: str = IN_THE_BRIEF
    """What to do when it belongs to somebody else."""
    spared: frozenset[Path] = frozenset()
    """Files that are never replaced or removed: the brief, and all that it names."""

    @property
    def key(self) -> str:
        """The folder's name in the record: one that holds when all is moved together."""
        try:
            return Path(os.path.relpath(self.folder.resolve(), self.home.resolve())).as_posix()
        except ValueError:  # another drive
            return self.folder.resolve().as_posix()

    @property
    def record(self) -> Path:
        """Where it is noted what was put there."""
        return own_folder(self.home) / RECORD


@dataclass(frozen=True)
class Owned:
    """What is noted of one output folder."""

    owner: str
    files: Digests = field(default_factory=dict)
    aside: str = ""
    """In the names of files that an interrupted run was writing."""


def owned(output: Output, ledger: str | None) -> Owned:
    """What we put into an output folder before.

    Args:
        output: the folder.
        ledger: SHA-256 of the ledger that is about to be written there, in hex, if there is one.
            Where it is there already, nothing has to be replaced: a folder that came without its
            record is taken over.

    Raises:
        BriefError: it belongs to somebody else.
    """
    found = _folders(output.record).get(output.key)
    noted = _entry(found) if found is not None else None
    if noted and noted.owner != output.owner and output.folder.exists():
        raise _taken(output, noted.owner)
    ours = noted.files if noted and noted.owner == output.owner else {}
    if LEDGER not in ours and digest_at(output.folder / LEDGER) != ledger:
        _refuse_builds(output)
    return Owned(output.owner, ours, noted.aside if ours and noted else "")


def _taken(output: Output, owner: str) -> BriefError:
    return BriefError(
        f"{output.folder} belongs to {owner}: {output.remedy}, or remove that folder if it is no"
        " longer needed. Nothing was written."
    )


def note(output: Output, entry: Owned) -> None:
    """Write down what is in an output folder, or is about to be."""
    folders = {key: one for key, one in _folders(output.record).items() if _is_kept(output, key)}
    folders[output.key] = {
        "owner": entry.owner,
        "aside": entry.aside,
        "files": {name: sorted(digests) for name, digests in sorted(entry.files.items())},
    }
    text = json.dumps({"made_by": "bright-canvas", "folders": folders}, indent=1)
    write_whole(output.record, text.encode())


def _is_kept(output: Output, key: str) -> bool:
    """Folders that are gone need no owner."""
    try:
        return (output.home / key).exists()
    except (OSError, ValueError):
        return False


def _folders(record: Path) -> dict[str, Any]:
    found = read_notes(record)
    folders = found.get("folders") if isinstance(found, dict) else None
    return folders if isinstance(folders, dict) else {}


def _entry(found: object) -> Owned:
    """An entry, as far as it says what can be: anybody may have written into that file."""
    parts = found if isinstance(found, dict) else {}
    owner, aside, files = (parts.get(key) for key in ("owner", "aside", "files"))
    listed = files.items() if isinstance(files, dict) else ()
    digests = {name: _digests(several) for name, several in listed}
    return Owned(
        owner if isinstance(owner, str) else "",
        {name: known for name, known in digests.items() if is_given(name, known)},
        aside if isinstance(aside, str) and _TOKEN.fullmatch(aside) else "",
    )


def _digests(found: object) -> frozenset[str]:
    listed = found if isinstance(found, list) else []
    return frozenset(one for one in listed if isinstance(one, str) and _DIGEST.fullmatch(one))


def is_given(name: str, digests: Iterable[str]) -> bool:
    """Whether a file's name is one that we give to a file with one of these digests."""
    asset = _OF_ASSETS.fullmatch(name)
    if asset:
        return all(one.startswith(asset[1]) for one in digests)
    return bool(_OF_RULES.fullmatch(name))


def _refuse_builds(output: Output) -> None:
    found = read_notes(output.folder / LEDGER)
    if isinstance(found, dict) and found.get("made_by") == "bright-canvas":
        raise _taken(output, "another build, or to one whose record is lost")


def check_reached(output: Output) -> None:
    """Make sure that no link leads to an output folder from the brief's own.

    Raises:
        BriefError: one does, or a file is in the place of a folder.
    """
    for place in [output.folder, *_between(output)]:
        if place.is_symlink():
            raise BriefError(f"{place} is a link: name the folder that it leads to.")
        if place.exists() and not place.is_dir():
            raise BriefError(f"{place} is a file: {output.remedy}.")


def _between(output: Output) -> list[Path]:
    """The folders from the brief's down to the output."""
    if not output.folder.is_relative_to(output.home):
        return []
    above = (one for one in output.folder.parents if one != output.home)
    return [one for one in above if one.is_relative_to(output.home)]


def digest_at(path: Path) -> str | None:
    """SHA-256 of a file, in hex; None where nothing is; ``NO_FILE`` for what is no plain file.

    Raises:
        MachineError: it can't be read.
    """
    if path.is_symlink() or (path.exists() and not path.is_file()):
        return NO_FILE
    try:
        return hashlib.sha256(read_regular(path)).hexdigest()
    except FileNotFoundError:
        return None
    except OSError as error:
        raise MachineError(f"{path} can't be read: {error.strerror or error}.") from error


def is_spared(output: Output, path: Path) -> bool:
    """Whether a file is one that is never touched, under whatever name."""
    try:
        return any(one.exists() and one.samefile(path) for one in output.spared)
    except OSError:
        return False


def left_aside(output: Output, token: str) -> list[Path]:
    """What an interrupted run was writing."""
    if not token or not output.folder.is_dir():
        return []
    begun = output.folder.glob(f"{ASIDE}{token}-*")
    return [one for one in begun if is_plain_file(one)]
