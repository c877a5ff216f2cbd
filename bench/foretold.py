"""Files that the engine says are fetched, against those that real browsers ask for.

    python -m bench.foretold FOLDER... [--firefox] [--pages NUMBER]

Each folder stands for a host; its pages are taken evenly. Three windows, two densities.
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Iterator, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.browsers.window import Window
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.page.page_load import load
from brightcanvas.page.reading import Page, read_page
from brightcanvas.serving.opened_page import hosted
from brightcanvas.values.environments import Environment
from brightcanvas.values.errors import BriefError

WINDOWS = ((360, 740), (820, 1180), (1440, 900))
DENSITIES = (1.0, 2.0)
LATE = 0.5
"""Seconds after a load for what comes late."""

BY_ITSELF = "/favicon.ico"


@dataclass(frozen=True)
class Compared:
    """One page in one window."""

    page: str
    environment: Environment
    both: int
    missed: tuple[str, ...]
    """Asked for, and not foretold."""
    over: tuple[str, ...]
    """Foretold, and not asked for."""
    is_undecided: bool
    """Whether the tool itself says that more may be fetched: by scripts, or on another page."""


def pages_in(folder: Path, most: int) -> list[Path]:
    """The HTML files of a folder, at most so many, taken evenly."""
    found = sorted(path for path in folder.rglob("*.htm*") if "node_modules" not in path.parts)
    step = max(1, -(-len(found) // most))
    return found[::step]


def compared(window: Window, page: Page, environment: Environment) -> Compared:
    """Load a page in a window, and hold what is asked for against what was foretold."""
    told = load(page, environment)
    wanted = {urlsplit(one.url).path for one in told.fetches if _is_here(one.url)}
    late = {urlsplit(one.url).path for one in told.fetches if one.is_late}
    with hosted(page.folder, window) as host:
        window.resize(environment)
        host.show(window)
        time.sleep(LATE)
        asked = {one.partition("?")[0] for one in host.asked()} - {BY_ITSELF}
    sends_on = any("sends its readers on" in one for one in page.reading.unread)
    return Compared(
        str(page.folder.page), environment, len(wanted & asked),
        tuple(sorted(asked - wanted)), tuple(sorted(wanted - asked - late)),
        page.has_scripts or sends_on,
    )  # fmt: skip


def _is_here(url: str) -> bool:
    return url.startswith(HOST)


def run(window: Window, folders: Sequence[Path], most: int) -> Iterator[Compared]:
    """Every page in every window."""
    for folder in folders:
        for path in pages_in(folder, most):
            try:
                page = read_page(Folder(folder, path))
            except BriefError as error:
                print(f"left out: {error}")
                continue
            for width, height in WINDOWS:
                for density in DENSITIES:
                    yield compared(window, page, Environment(width, height, density))


def main() -> None:
    """Print the disagreements, and how many agree."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folders", nargs="+", type=Path)
    parser.add_argument("--firefox", action="store_true")
    parser.add_argument("--pages", type=int, default=6)
    arguments = parser.parse_args()
    opened: AbstractContextManager[Window] = (
        firefox_window() if arguments.firefox else chromium_window()
    )
    agreed = differed = told = 0
    with opened as window:
        for one in run(window, arguments.folders, arguments.pages):
            agreed += one.both
            wrong = len(one.missed) + len(one.over)
            differed += wrong
            told += len(one.missed) if one.is_undecided else 0
            if wrong:
                seen = one.environment
                size = f"{seen.width} x {seen.height}, {seen.density}x"
                print(f"{one.page}, {size}: missed {one.missed}, too much {one.over}")
    both = agreed + differed
    print(f"{agreed} of {both} files agree: {agreed / max(1, both):.2%}")
    print(f"{told} of the others the tool tells as not decided; without them"
          f" {agreed / max(1, both - told):.2%}")  # fmt: skip


if __name__ == "__main__":
    main()
