"""Both pages looked at in a real browser, settled, on every kind of screen, and compared by px.

What we computed of a page is worth what our model of it is worth; so the page itself is asked: is
it as light and dark as before, are its boxes where they were, can its copy be read as before, does
each screen fetch one file for each backdrop, and does the console say nothing new?
"""

from __future__ import annotations

import re
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from brightcanvas.browsers.window import Window
from brightcanvas.css.screens import viewer_of
from brightcanvas.measuring.letters import ReadLine, read_lines, without_letters
from brightcanvas.measuring.measure import Laid, laid, settle
from brightcanvas.measuring.site import hosted
from brightcanvas.page.folder import Folder
from brightcanvas.page.reading import Page
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.screens import Screen

SHOWN = (DEVICES[1], DEVICES[2], DEVICES[3], DEVICES[4])
"""A phone both ways, a tablet, a laptop."""

PICTURES = (".jpg", ".jpeg", ".png", ".gif", ".webp", ".avif", ".svg")

ACROSS = 96
"""Px to which what is seen is shrunk before it is compared: what is left is tone and framing."""

MOST_VIEWS = 8
"""Backdrops of a page that are looked at."""

PATIENCE = 0.25
"""Seconds for decoding and painting, and for what comes late, after scrolling to a backdrop."""


@dataclass(frozen=True)
class View:
    """The window, scrolled to one backdrop."""

    png: bytes
    box: Rect
    """Of the element in the page, CSS px."""
    lines: tuple[ReadLine, ...]


@dataclass(frozen=True)
class Seen:
    """One page on one screen."""

    views: Mapping[str, View]
    """By the selector of the backdrop's element."""
    height: float
    """Of the page, CSS px."""
    console: tuple[str, ...]
    asked: tuple[str, ...]
    """The paths of all files that it fetched, as often as it did."""


@dataclass(frozen=True)
class Pair:
    """A page before and after, on one screen."""

    screen: Screen
    before: Seen
    after: Seen

    @property
    def shared(self) -> tuple[str, ...]:
        """The selectors of the backdrops that both show."""
        return tuple(one for one in self.before.views if one in self.after.views)


def look_at(window: Window, page: Page, selectors: Sequence[str]) -> dict[Screen, Seen]:
    """A page on every kind of screen.

    Args:
        window: of a browser.
        page: as it was, or with our rules.
        selectors: of the backdrops' elements.

    Raises:
        MachineError: the browser fails.
    """
    return {one: _seen(window, page.folder, one, selectors) for one in SHOWN}


def pairs_of(before: Mapping[Screen, Seen], after: Mapping[Screen, Seen]) -> tuple[Pair, ...]:
    """Both pages on each screen."""
    return tuple(Pair(one, before[one], after[one]) for one in before)


def _seen(window: Window, folder: Folder, screen: Screen, selectors: Sequence[str]) -> Seen:
    with hosted(folder, window) as host:
        window.resize(viewer_of(screen))
        window.console()
        host.show(window)
        settle(window)
        time.sleep(PATIENCE)
        fetched = tuple(host.asked())
        height = float(window.evaluate("document.documentElement.scrollHeight"))
        size = _size(window)
        found = laid(window, selectors, size)
        views = {
            selector: _view(window, one, size)
            for selector, one in list(zip(selectors, found, strict=True))[:MOST_VIEWS]
            if one and one.is_shown and one.box.width >= 1 and one.box.height >= 1
        }
        console = tuple(_without_address(one) for one in window.console())
        fetched += tuple(host.asked())
        return Seen(views, height, console, fetched)


def _size(window: Window) -> Size:
    width, height = window.evaluate("[innerWidth, innerHeight]")
    return Size(width, height)


def _without_address(said: str) -> str:
    return re.sub(r"http://127\.0\.0\.1:\d+", "", said)


def _view(window: Window, one: Laid, size: Size) -> View:
    """A backdrop in view, then without letters, so that the px behind them are seen."""
    wanted = max(0.0, one.box.top - 0.1 * size.height)
    window.evaluate(f"scrollTo({{top: {wanted}, behavior: 'instant'}}), 1")
    top = float(window.evaluate("scrollY"))
    time.sleep(PATIENCE)
    settle(window)
    scale = 1 / float(window.evaluate("devicePixelRatio"))
    png, pixels = window.screenshot(scale), without_letters(window, scale)
    return View(png, one.box, tuple(read_lines(pixels, one, top, size)))
