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
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from brightcanvas.browsers.window import Window
from brightcanvas.measuring.elements import ElementLayout, laid, settle
from brightcanvas.measuring.letters import ReadLine, lines_in, read_lines, without_letters
from brightcanvas.page.folder import Folder
from brightcanvas.page.reading import Page
from brightcanvas.serving.opened_page import hosted
from brightcanvas.values.environments import environment_of
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.screens import DEVICES_LOOKED_AT, Screen

PICTURES = (".jpg", ".jpeg", ".png", ".gif", ".webp", ".avif", ".svg")

ACROSS = 96
"""Px to which what is seen is shrunk before it is compared: what is left is tone and framing."""

MOST_VIEWS = 8
"""Backdrops of a page that are looked at."""

MOST_SCROLLS = 3
"""Tries to come to where a backdrop stands, while what is above it changes its height."""

PAUSE = 0.25
"""Seconds for decoding and painting, and for what comes late, after scrolling to a backdrop."""


@dataclass(frozen=True)
class View:
    """The window, scrolled to one backdrop."""

    box: Rect
    """Of the element in the page, CSS px."""
    png: bytes
    lines: tuple[ReadLine, ...]


@dataclass(frozen=True)
class SeenPage:
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
    before: SeenPage
    after: SeenPage

    @property
    def shared(self) -> tuple[str, ...]:
        """The selectors of the backdrops that both show."""
        return tuple(one for one in self.before.views if one in self.after.views)


def look_at(window: Window, page: Page, selectors: Sequence[str]) -> dict[Screen, SeenPage]:
    """A page on every kind of screen.

    Args:
        window: of a browser.
        page: as it was, or with our rules.
        selectors: of the backdrops' elements.

    Raises:
        MachineError: the browser fails.
    """
    return {one: _seen(window, page.folder, one, selectors) for one in DEVICES_LOOKED_AT}


def pairs_of(
    before: Mapping[Screen, SeenPage], after: Mapping[Screen, SeenPage]
) -> tuple[Pair, ...]:
    """Both pages on each screen."""
    return tuple(Pair(one, before[one], after[one]) for one in before)


def _seen(window: Window, folder: Folder, screen: Screen, selectors: Sequence[str]) -> SeenPage:
    with hosted(folder, window) as host:
        window.leave()
        window.resize(environment_of(screen))
        window.console()
        host.show(window)
        settle(window)
        time.sleep(PAUSE)
        fetched = tuple(host.asked())
        height = float(window.evaluate("document.documentElement.scrollHeight"))
        size = _size(window)
        found = laid(window, selectors, size)
        shown = {
            selector: one
            for selector, one in list(zip(selectors, found, strict=True))[:MOST_VIEWS]
            if one and one.is_shown and one.box.width >= 1 and one.box.height >= 1
        }
        tour = _Tour(window, shown, size)
        in_turn = sorted(shown, key=lambda selector: shown[selector].box.top)
        views = {one: View(shown[one].box, *tour.view(one)) for one in in_turn}
        console = tuple(_without_address(one) for one in window.console())
        fetched += tuple(host.asked())
        return SeenPage({one: views[one] for one in shown}, height, console, fetched)


def _size(window: Window) -> Size:
    width, height = window.evaluate("[innerWidth, innerHeight]")
    return Size(width, height)


def _without_address(said: str) -> str:
    return re.sub(r"http://127\.0\.0\.1:\d+", "", said)


_SCROLL = "scrollTo({{top: {}, behavior: 'instant'}}), [scrollY, devicePixelRatio]"


class _Tour:
    """The backdrops of a page that is open, each gone to in turn."""

    def __init__(self, window: Window, shown: Mapping[str, ElementLayout], size: Size) -> None:
        """``shown``: where they stood when the page was opened; ``size`` in CSS px."""
        self._window, self._size = window, size
        self._now = shown
        self._place = _Place(window, -1.0, 1.0, size)

    def view(self, selector: str) -> tuple[bytes, tuple[ReadLine, ...]]:
        """What is seen there, and how the copy can be read.

        Those that are seen at the same place of the page share a picture.
        """
        place = self._gone_to(selector)
        return place.png, place.read(self._now[selector])

    def _gone_to(self, selector: str, tries: int = MOST_SCROLLS) -> _Place:
        """Slides above it may change their height meanwhile, so it is looked up where it stands."""
        if not tries:
            return self._place
        wanted = max(0.0, self._now[selector].box.top - 0.1 * self._size.height)
        top, density = self._window.evaluate(_SCROLL.format(wanted))
        if self._place.top == top:
            return self._place
        time.sleep(PAUSE)
        found = zip(self._now, laid(self._window, list(self._now), self._size), strict=True)
        self._now = {name: one or self._now[name] for name, one in found}
        self._place = _Place(self._window, top, 1 / density, self._size)
        return self._gone_to(selector, tries - 1)


class _Place:
    """What a window shows, scrolled to one place of the page."""

    def __init__(self, window: Window, top: float, scale: float, size: Size) -> None:
        """``top`` and ``size`` in CSS px; ``scale`` from px of the screen to them."""
        self.top = top
        self._window, self._scale, self._size = window, scale, size

    @cached_property
    def png(self) -> bytes:
        """What is seen."""
        return self._window.screenshot(self._scale)

    @cached_property
    def _ground(self) -> NDArray[np.uint8]:
        return without_letters(self._window, self._scale)

    def read(self, one: ElementLayout) -> tuple[ReadLine, ...]:
        """The copy of a backdrop, on what lies behind all letters."""
        lines = lines_in(one, self.top, self._size)
        return tuple(read_lines(self._ground, lines, self._size)) if lines else ()
