"""What a real browser shows of a page on each screen: boxes, requests, and copy on pictures."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any
from urllib.parse import urlsplit

import numpy as np
from numpy.typing import NDArray

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.browsers.window import Window
from brightcanvas.colour.contrast import channels, contrast, luminance
from brightcanvas.css.screens import viewer_of
from brightcanvas.formats.pictures import decode
from brightcanvas.inspecting.facts import Facts
from brightcanvas.inspecting.seen import Look, ReadLine
from brightcanvas.measuring.measure import Laid, laid
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.page.markup import Node
from brightcanvas.page.reading import path_of
from brightcanvas.page.site import FetchedFolder
from brightcanvas.rehearsal.throttled_server import served
from brightcanvas.values.measured import CopyLine
from brightcanvas.values.screens import Screen

UNSEEN = (
    "document.head.insertAdjacentHTML('beforeend', '<style>*,*::before,*::after{color:transparent"
    "!important;-webkit-text-fill-color:transparent!important;text-shadow:none!important;"
    "caret-color:transparent!important}</style>'), 1"
)
"""Makes all letters invisible, so that only what lies behind them is left."""

LOWEST_SHARE = 2.0
"""Percent of the px behind a line that may be worse than what is told."""


def look_at(facts: Facts, browser: str) -> tuple[Look, ...]:
    """The page on every screen of the facts.

    Args:
        facts: of the page.
        browser: ``chromium`` or ``firefox``.

    Raises:
        MachineError: there is no such browser, or it fails.
    """
    nodes = _nodes(facts)
    window_of = firefox_window if browser == "firefox" else chromium_window
    with window_of() as window:
        _warm_up(window, facts.page.folder)
        return tuple(_look(window, facts, one, nodes) for one in facts.screens)


def _warm_up(window: Window, folder: Folder) -> None:
    """A load that isn't counted: while a browser's first one is set up, it may fetch more."""
    with _hosted(folder) as (address, _):
        window.open(address + urlsplit(folder.address).path)


def _nodes(facts: Facts) -> list[Node]:
    """Those whose boxes decide something: all that show a picture on some screen."""
    found = {id(shown.node): shown.node for one in facts.seen for shown in one.load.shown}
    return list(found.values())


def _look(window: Window, facts: Facts, screen: Screen, nodes: Sequence[Node]) -> Look:
    folder, viewer = facts.page.folder, viewer_of(screen)
    paths = [path_of(facts.page, node) for node in nodes]
    with _hosted(folder) as (address, asked):
        window.resize(viewer)
        window.open(address + urlsplit(folder.address).path)
        found = laid(window, paths, screen.viewport)
        window.resize(viewer)
        window.evaluate(UNSEEN)
        pixels = decode(window.screenshot()).pixels
        urls = frozenset(f"{HOST}{path}" for path in asked())
    boxes = {id(node): one for node, one in zip(nodes, found, strict=True) if one}
    pictured = {id(one.etree_element) for one in facts.pictured}
    lines = {
        key: tuple(_read(pixels, screen, one)) for key, one in boxes.items() if key in pictured
    }
    return Look(screen, window.name, boxes, urls, lines)


@contextmanager
def _hosted(folder: Folder) -> Iterator[tuple[str, Any]]:
    if isinstance(folder, FetchedFolder):
        yield folder.host, list
        return
    with served(folder) as host:
        yield host.address, lambda: [one.path for one in host.taken()]


def _read(pixels: NDArray[np.uint8], screen: Screen, one: Laid) -> Iterator[ReadLine]:
    """The lines that lie in the first view, with the lowest contrast behind each."""
    scale = pixels.shape[1] / screen.viewport.width
    for line in one.lines:
        ground = _behind(pixels, one, line, scale)
        if ground.size:
            light = luminance(np.asarray(ground[..., :3], np.float32) / 255)
            seen = contrast(luminance(channels(line.letters.colour)), light)
            yield ReadLine(line, float(np.percentile(seen, LOWEST_SHARE)))


def _behind(
    pixels: NDArray[np.uint8], one: Laid, line: CopyLine, scale: float
) -> NDArray[np.uint8]:
    box, around, size = line.box, one.box, one.box.size
    top, bottom = (around.top + edge * size.height for edge in (box.top, box.bottom))
    left, right = (around.left + edge * size.width for edge in (box.left, box.right))
    edges = [max(0, round(edge * scale)) for edge in (top, bottom, left, right)]
    return pixels[edges[0] : edges[1], edges[2] : edges[3]]
