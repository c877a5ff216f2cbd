"""Page loads in real browsers, and a rehearsal beside them."""

from __future__ import annotations

import statistics
import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager, nullcontext
from dataclasses import dataclass
from urllib.parse import urlsplit

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.browsers.webkit import webkit_window
from brightcanvas.browsers.window import Window
from brightcanvas.page.folder import Folder
from brightcanvas.rehearsal.rehearsing import Rehearsed
from brightcanvas.serving.network_profiles import NetworkProfile
from brightcanvas.serving.page_server import ServedFolder, served
from brightcanvas.values.environments import Environment, environment_of

TOLD = """(async () => {
  const known = PerformanceObserver.supportedEntryTypes, seen = {};
  for (const type of ["largest-contentful-paint", "layout-shift"]) {
    seen[type] = [];
    if (!known.includes(type)) continue;
    const observer = new PerformanceObserver((list) => seen[type].push(...list.getEntries()));
    observer.observe({ type, buffered: true });
  }
  await new Promise((done) => setTimeout(done, 50));
  const last = seen["largest-contentful-paint"].at(-1);
  const page = performance.getEntriesByType("navigation")[0];
  const own = last ? performance.getEntriesByName(last.url) : [];
  return {
    at: last ? last.renderTime || last.startTime : null, url: last ? last.url : "",
    shift: seen["layout-shift"].reduce((sum, one) => sum + one.value, 0),
    arrived: Math.max(page.domInteractive, ...own.map((one) => one.responseEnd)),
    window: [innerWidth, innerHeight, devicePixelRatio],
  };
})()"""
"""Milliseconds to the largest paint (Largest Contentful Paint), what moved (Layout Instability)."""


@dataclass(frozen=True)
class SeenLoad:
    """One load."""

    asked: tuple[str, ...]
    """The paths that it asked for, in order, by the server's log."""
    largest: float | None
    """Seconds until the largest thing in view was painted; None: the browser doesn't tell."""
    largest_url: str
    """Its file; empty where it is text."""
    arrived: float
    """Seconds until the page was read and that file was there, as the browser tells."""
    shift: float
    """Layout shift score; 0 where the browser counts none."""
    console: tuple[str, ...]
    """What the console said; WebKit doesn't tell."""
    window: Environment
    """As the page sees it."""

    @property
    def own(self) -> float | None:
        """Seconds of the browser's own, from the last byte until the largest paint."""
        return self.largest - self.arrived if self.largest is not None else None


@dataclass(frozen=True)
class Browser:
    """A browser that loads pages, each with nothing kept from before."""

    name: str
    port: int
    """On which pages are served to it: it reaches no other; 0: any."""
    window_for: Callable[[Environment, int], AbstractContextManager[Window]]
    """A window for somebody on a screen, which reaches one port."""

    def visit(
        self, served: ServedFolder, page: str, environment: Environment, pause: float
    ) -> SeenLoad:
        """Load a page afresh in a window.

        Args:
            served: the folder.
            page: its path there.
            environment: of the window; Chromium's and WebKit's know whole px only, WebKit's whole
                densities.
            pause: seconds to wait after the load for what comes late.

        Raises:
            MachineError: the browser crashed, or doesn't answer any more.
        """
        with self.window_for(environment, urlsplit(served.address).port or 0) as window:
            window.leave()
            window.resize(environment)
            window.console()
            served.taken()
            window.open(f"{served.address}/{page}")
            time.sleep(pause)
            told = window.evaluate(TOLD)
            console = tuple(window.console())
        at, arrived = told["at"], told["arrived"] / 1000
        return SeenLoad(
            tuple(one.path for one in served.taken()), None if at is None else at / 1000,
            told["url"], arrived, told["shift"], console, Environment(*told["window"]),
        )  # fmt: skip


@contextmanager
def chromium() -> Iterator[Browser]:
    """Chromium, started once.

    Raises:
        MachineError: there is none, or nothing to drive it with.
    """
    with chromium_window() as window:
        yield Browser(window.name, window.port, lambda *_: nullcontext(window))


@contextmanager
def firefox() -> Iterator[Browser]:
    """Firefox, started for every load: what it has seen once it doesn't fetch again.

    Raises:
        MachineError: there is none, or nothing to ask it with.
    """

    def window_for(environment: Environment, port: int) -> AbstractContextManager[Window]:
        touched = environment.word("pointer") == "coarse"
        return firefox_window(port=port, touched=touched, density=environment.density)

    yield Browser("Firefox", 0, window_for)


@contextmanager
def webkit() -> Iterator[Browser]:
    """WebKit, started once for each density.

    Raises:
        MachineError: there is none.
    """
    with webkit_window() as window:
        yield Browser(window.name, window.port, lambda *_: nullcontext(window))


BY_ENGINE = {"Chromium": chromium, "Firefox": firefox, "WebKit": webkit}
"""By their engines' names."""


PAUSE = 0.5
"""Seconds after a load for what comes late."""

ENDINGS = (".avif", ".webp", ".jpg", ".jpeg", ".png", ".gif", ".svg")


@dataclass(frozen=True)
class Confirmed:
    """One screen over one line in one browser."""

    browser: str
    rehearsed: Rehearsed
    line: NetworkProfile
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
    """Load the page in a browser ``runs`` times, 1 or more, over every line of a rehearsal.

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
    line: NetworkProfile | None,
    headers: tuple[tuple[str, str], ...],
) -> SeenLoad:
    """One load from a server of its own: no connection is left over from another."""
    page = urlsplit(folder.address).path.lstrip("/")
    with served(folder, line, headers, browser.port) as host:
        return browser.visit(host, page, environment_of(one.device), PAUSE)


def _middle(values: Sequence[float | None]) -> float | None:
    times = [one for one in values if one is not None]
    return statistics.median(times) if times else None


def _compared(
    browser: str,
    one: Rehearsed,
    line: NetworkProfile,
    seen: Sequence[SeenLoad],
    predicted: float | None,
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
