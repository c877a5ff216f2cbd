"""What a host serves of our files: still ours, or compressed again, and what that cost."""

from __future__ import annotations

import csv
import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from urllib.error import URLError
from urllib.parse import unquote, urlsplit
from urllib.request import Request, urlopen

from brightcanvas.formats.pasts import past_of
from brightcanvas.formats.pictures import decode, explained_content
from brightcanvas.ledger.model import LEDGER
from brightcanvas.quality.metric import Original, Viewing
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.picture_formats import WRITTEN

TIMEOUT = 20
"""Seconds to wait for a host."""

LARGEST = 100_000_000
"""Bytes of one served file that are read at most."""

ACCEPT = "image/avif,image/webp,image/*,*/*;q=0.8"
"""What browsers in use ask for."""

PICTURES = tuple(one.ending for one in WRITTEN)


@dataclass(frozen=True)
class HostedFile:
    """One of our files, as a host serves it."""

    file: str
    state: str
    """``ours``, ``repacked`` (same pixels), ``compressed again``, ``resized`` or ``missing``."""
    before: int
    """Bytes of our file."""
    after: int
    """Bytes that are served."""
    score: float | None
    """How much what is served looks like our file."""
    told: str

    @property
    def is_ours(self) -> bool:
        """Whether visitors see exactly the pixels that we made."""
        return self.state in ("ours", "repacked")


def check_served(output: Path, places: Mapping[str, str]) -> list[HostedFile]:
    """Compare every published picture with what is served in its place.

    Args:
        output: folder with our files and the ledger.
        places: path or URL for the names of our files.
    """
    return [_check(output / name, places.get(name)) for name in published(output)]


def published(output: Path) -> list[str]:
    """The names of the pictures that the ledger lists.

    Raises:
        BriefError: there is no ledger.
    """
    try:
        ledger = json.loads((output / LEDGER).read_text(encoding="utf-8"))
        names = [str(entry["file"]) for entry in ledger["files"]]
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise BriefError(f"There is no ledger in {output}: build first.") from error
    return [name for name in names if name.rpartition(".")[2] in PICTURES]


def places_from(where: Path, names: Iterable[str]) -> dict[str, str]:
    """Where each file is served: by name in a folder, or as a list says.

    A list has a line for each file: its URL, or our file's name, a comma and the URL.

    Raises:
        BriefError: it is no folder and no list.
    """
    if where.is_dir():
        return {name: str(where / name) for name in names if (where / name).is_file()}
    try:
        lines = where.read_text(encoding="utf-8-sig").splitlines()
    except (OSError, UnicodeDecodeError) as error:
        raise BriefError(f"{where} is no folder and no list of URLs: {error}") from error
    return dict(_listed(lines))


def _listed(lines: Iterable[str]) -> Iterator[tuple[str, str]]:
    for row in csv.reader(lines):
        cells = [cell.strip() for cell in row if cell.strip()]
        if not cells or cells[0].startswith("#"):
            continue
        url = cells[-1]
        name = cells[0] if len(cells) > 1 else unquote(urlsplit(url).path.rpartition("/")[2])
        yield name, url


def _check(ours: Path, place: str | None) -> HostedFile:
    try:
        content = ours.read_bytes()
    except OSError as error:
        raise BriefError(f"{ours} is gone, though the ledger lists it: build again.") from error
    missing = HostedFile(
        ours.name, "missing", len(content), 0, None, "not on the list, or not there"
    )
    if place is None:
        return missing
    try:
        served = _fetched(place)
    except (OSError, ValueError) as error:
        reason = error.reason if isinstance(error, URLError) else error
        return HostedFile(ours.name, "missing", len(content), 0, None, f"{place}: {reason}")
    if hashlib.sha256(served).digest() == hashlib.sha256(content).digest():
        return HostedFile(ours.name, "ours", len(content), len(content), 1.0, "")
    try:
        return _compared(ours.name, content, served)
    except SourceError as error:
        return HostedFile(ours.name, "missing", len(content), len(served), None, str(error))


def _fetched(place: str) -> bytes:
    if urlsplit(place).scheme in ("http", "https"):
        request = Request(place, headers={"Accept": ACCEPT})
        with urlopen(request, timeout=TIMEOUT) as answer:
            return bytes(answer.read(LARGEST))
    if "://" in place:
        raise ValueError("only http and https addresses, and paths, can be looked at")
    return Path(place).read_bytes()


def _compared(name: str, content: bytes, served: bytes) -> HostedFile:
    with explained_content(name):
        mine, theirs = decode(content), decode(served)
    before, after = len(content), len(served)
    past = past_of(served, name).text
    if mine.pixels.shape[:2] != theirs.pixels.shape[:2]:
        told = f"{theirs.size} px instead of {mine.size}; {past}"
        return HostedFile(name, "resized", before, after, None, told)
    if mine.pixels.shape == theirs.pixels.shape and (mine.pixels == theirs.pixels).all():
        return HostedFile(name, "repacked", before, after, 1.0, "same pixels, other packing")
    score = Original(mine, Viewing()).score(theirs).figure
    return HostedFile(name, "compressed again", before, after, score, past)
