"""Where to begin, by what lies in a folder: what the program tells who calls it without a word."""

from __future__ import annotations

import shlex
from collections.abc import Iterator
from itertools import islice
from pathlib import Path

from brightcanvas.values.files import likely_page

PICTURES = (".jpg", ".jpeg", ".png", ".webp", ".avif", ".tif", ".tiff", ".heic", ".svg", ".gif")
CLIPS = (".mp4", ".mov", ".webm", ".mkv", ".m4v")

MOST_FILES = 2000
"""Names that are looked at."""

Step = tuple[str, str]
"""A command, and what it does."""


def first_steps(folder: Path) -> list[Step]:
    """What can be done with the files of a folder, the nearest to a page that loads less first."""
    files = sorted(path.name for path in islice(folder.iterdir(), MOST_FILES) if path.is_file())
    steps = [*_of_brief(folder), *_of_page(files), *_of_pictures(files), *_of_clips(files)]
    return steps or [("demo", "the full example, in ./marrowfen-mill")]


def _of_brief(folder: Path) -> Iterator[Step]:
    if not (folder / "brief.toml").is_file():
        return
    yield "plan", "what brief.toml asks for"
    yield "adjust", "see every screen, and drag"
    yield "build", "make and publish it"
    if (folder / "published/try-it.html").is_file():
        yield "rehearse published/try-it.html", "what each screen loads, when"


def _of_page(files: list[str]) -> Iterator[Step]:
    named = likely_page(files)
    if named:
        page = shlex.quote(named)
        yield f"inspect {page}", "what the page does wrong"
        yield f"begin {page}", "the same page, only lighter"


def _of_pictures(files: list[str]) -> Iterator[Step]:
    picture = _first(files, PICTURES)
    if picture:
        yield f"compress {picture}", "a light file that looks alike"
        yield f"subject {picture}", "where its subject may be"


def _of_clips(files: list[str]) -> Iterator[Step]:
    clip = _first(files, CLIPS)
    if clip:
        yield f"transcode {clip}", "a light file of it"
        yield f"poster {clip}", "its best still"


def _first(files: list[str], endings: tuple[str, ...]) -> str | None:
    found = (name for name in files if name.lower().endswith(endings))
    return next(map(shlex.quote, found), None)
