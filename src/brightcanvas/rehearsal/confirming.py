"""A rehearsal beside what real browsers do."""

from __future__ import annotations

import statistics
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Protocol as Interface
from urllib.parse import urlsplit

from brightcanvas.css.screens import Viewer, viewer_of
from brightcanvas.page.folder import Folder
from brightcanvas.rehearsal.lines import Line
from brightcanvas.rehearsal.rehearsing import Rehearsed
from brightcanvas.rehearsal.seen import SeenLoad
from brightcanvas.rehearsal.throttled_server import ServedFolder, served

PATIENCE = 0.5
"""Seconds after a load for what comes late."""

ENDINGS = (".avif", ".webp", ".jpg", ".jpeg", ".png", ".gif", ".svg")


class Browser(Interface):
    """Any browser that can be had to load a page."""

    name: str
    port: int
    """On which pages are served to it: it reaches no other; 0: any."""

    def visit(self, served: ServedFolder, page: str, viewer: Viewer, patience: float) -> SeenLoad:
        """Load a page afresh in a window."""
        ...


@dataclass(frozen=True)
class Confirmed:
    """One screen over one line in one browser."""

    browser: str
    rehearsed: Rehearsed
    line: Line
    predicted: float | None
    """Seconds until the picture is painted: the line's share and the browser's own."""
    measured: float | None
    """The middle run's largest paint."""
    lowest: float
    highest: float
    asked: tuple[str, ...]
    """The paths that the last run asked for, in order."""
    missing: tuple[str, ...]
    """Pictures that were foretold and not asked for."""
    further: tuple[str, ...]
    """Pictures that were asked for, and not foretold, or more than once."""
    warnings: tuple[str, ...]
    shift: float

    @property
    def is_as_foretold(self) -> bool:
        """Whether it fetched just the pictures of the rehearsal, each once."""
        return not self.missing and not self.further


def confirm(
    folder: Folder,
    found: Sequence[Rehearsed],
    browser: Browser,
    runs: int,
    headers: tuple[tuple[str, str], ...] = (),
) -> Iterator[Confirmed]:
    """Load the page in a browser, as often as said, over every line of a rehearsal.

    The browser's own time, from the last byte to the paint, is that of the same page without any
    line between; the first load warms it up.
    """
    for one in found:
        own = [_once(folder, one, browser, None, headers) for _ in range(max(3, runs) + 1)][1:]
        own_time = _middle([run.own for run in own])
        for over in one.over:
            seen = [_once(folder, one, browser, over.line, headers) for _ in range(runs)]
            hero = over.hinted.at_hand(one.hero) if one.hero else None
            predicted = hero + own_time if hero is not None and own_time is not None else None
            yield _compared(browser.name, one, over.line, seen, predicted)


def _once(
    folder: Folder,
    one: Rehearsed,
    browser: Browser,
    line: Line | None,
    headers: tuple[tuple[str, str], ...],
) -> SeenLoad:
    """One load from a server of its own: no connection is left over from another."""
    page = urlsplit(folder.address).path.lstrip("/")
    with served(folder, line, headers, browser.port) as host:
        return browser.visit(host, page, viewer_of(one.device), PATIENCE)


def _middle(values: Sequence[float | None]) -> float | None:
    times = [one for one in values if one is not None]
    return statistics.median(times) if times else None


def _compared(
    browser: str, one: Rehearsed, line: Line, seen: Sequence[SeenLoad], predicted: float | None
) -> Confirmed:
    times = [run.largest for run in seen if run.largest is not None]
    foretold = {urlsplit(fetch.url).path for fetch in one.load.pictures if not fetch.is_late}
    asked = Counter(path for path in seen[-1].asked if path.lower().endswith(ENDINGS))
    late = {urlsplit(fetch.url).path for fetch in one.load.pictures if fetch.is_late}
    further = [path for path, times_ in asked.items() if path not in foretold | late or times_ > 1]
    return Confirmed(
        browser, one, line, predicted,
        _middle([run.largest for run in seen]),
        min(times, default=0.0), max(times, default=0.0), seen[-1].asked,
        tuple(sorted(foretold - set(asked))), tuple(sorted(further)),
        tuple(dict.fromkeys(word for run in seen for word in run.console)),
        max(run.shift for run in seen),
    )  # fmt: skip
