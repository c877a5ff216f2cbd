"""What a host serves of our files: still ours, or compressed again, and what that cost."""

from __future__ import annotations

import csv
import hashlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from brightcanvas.formats.loaded import Loaded
from brightcanvas.formats.pictures.picture_reading import picture_of
from brightcanvas.formats.pictures.prior_compressions import past_of
from brightcanvas.formats.survey import survey_of
from brightcanvas.ledger.record import LEDGER
from brightcanvas.page.http_client import LARGEST, NotFetchedError, fetch
from brightcanvas.quality.metric import Original, Viewing
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.file_formats import WRITTEN
from brightcanvas.values.files import read_notes, read_regular
from brightcanvas.values.raster import Raster

LARGEST_SERVED = 40.0
"""Megapixels of a served picture that is compared."""

LARGEST_LIST = 10_000_000
"""Bytes."""

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
    ledger: Any = read_notes(output / LEDGER)
    try:
        names = [str(entry["file"]) for entry in ledger["files"]]
    except (KeyError, TypeError) as error:
        raise BriefError(f"There is no ledger in {output}: build first.") from error
    if any(set(name) & set("/\\\0") for name in names):
        raise BriefError(f"The ledger in {output} is damaged: build again.")
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
        lines = read_regular(where, LARGEST_LIST).decode("utf-8-sig").splitlines()
        return dict(_listed(lines))
    except (OSError, ValueError, csv.Error) as error:
        raise BriefError(f"{where} is no folder and no list of URLs: {error}") from error


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
        content = read_regular(ours)
    except OSError as error:
        raise BriefError(f"{ours} is gone, though the ledger lists it: build again.") from error
    missing = HostedFile(
        ours.name, "missing", len(content), 0, None, "not on the list, or not there"
    )
    if place is None:
        return missing
    try:
        served = _at(place)
    except (OSError, NotFetchedError) as error:
        return replace(missing, told=f"{place}: {error}")
    if hashlib.sha256(served).digest() == hashlib.sha256(content).digest():
        return HostedFile(ours.name, "ours", len(content), len(content), 1.0, "")
    try:
        return _compared(ours.name, content, served)
    except SourceError as error:
        return replace(missing, after=len(served), told=str(error))


def _at(place: str) -> bytes:
    return fetch(place) if "://" in place else read_regular(Path(place), LARGEST)


def _compared(name: str, content: bytes, served: bytes) -> HostedFile:
    mine, theirs = _decoded(name, content), _decoded(name, served)
    before, after = len(content), len(served)
    past = past_of(served, name).text
    if mine.pixels.shape[:2] != theirs.pixels.shape[:2]:
        told = f"{theirs.size} px instead of {mine.size}; {past}"
        return HostedFile(name, "resized", before, after, None, told)
    if mine.pixels.shape == theirs.pixels.shape and (mine.pixels == theirs.pixels).all():
        return HostedFile(name, "repacked", before, after, 1.0, "same pixels, other packing")
    score = Original(mine, Viewing()).score(theirs).figure
    return HostedFile(name, "compressed again", before, after, score, past)


def _decoded(name: str, content: bytes) -> Raster:
    """A picture, if it is one and not larger than any of ours."""
    file = Loaded(Path(name), content)
    survey_of(file, LARGEST_SERVED)
    return picture_of(file)
