"""What a real browser shows of a page on each screen: boxes, requests, and copy on pictures."""

from __future__ import annotations

from collections.abc import Sequence

from brightcanvas.browsers.window import Window
from brightcanvas.css.screens import viewer_of
from brightcanvas.inspecting.facts import Facts
from brightcanvas.inspecting.seen import Look
from brightcanvas.measuring.letters import read_lines, without_letters
from brightcanvas.measuring.measure import laid
from brightcanvas.measuring.site import hosted, window_of
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.page.markup import Node
from brightcanvas.page.reading import path_of
from brightcanvas.values.screens import Screen


def look_at(facts: Facts, browser: str) -> tuple[Look, ...]:
    """The page on every screen of the facts.

    Args:
        facts: of the page.
        browser: ``chromium`` or ``firefox``.

    Raises:
        MachineError: there is no such browser, or it fails.
    """
    nodes = _nodes(facts)
    with window_of(browser, [facts.page.folder]) as window:
        _warm_up(window, facts.page.folder)
        return tuple(_look(window, facts, one, nodes) for one in facts.screens)


def _warm_up(window: Window, folder: Folder) -> None:
    """A load that isn't counted: while a browser's first one is set up, it may fetch more."""
    with hosted(folder, window) as host:
        host.show(window)


def _nodes(facts: Facts) -> list[Node]:
    """Those whose boxes decide something: all that show a picture on some screen."""
    found = {id(shown.node): shown.node for one in facts.seen for shown in one.load.shown}
    return list(found.values())


def _look(window: Window, facts: Facts, screen: Screen, nodes: Sequence[Node]) -> Look:
    folder, viewer = facts.page.folder, viewer_of(screen)
    paths = [path_of(facts.page, node) for node in nodes]
    with hosted(folder, window) as host:
        window.resize(viewer)
        host.show(window)
        found = laid(window, paths, screen.viewport)
        pixels = without_letters(window)
        urls = frozenset(f"{HOST}{path}" for path in host.asked())
    boxes = {id(node): one for node, one in zip(nodes, found, strict=True) if one}
    pictured = {id(one.etree_element) for one in facts.pictured}
    lines = {
        key: tuple(read_lines(pixels, one, 0.0, screen.viewport))
        for key, one in boxes.items()
        if key in pictured
    }
    return Look(screen, window.name, boxes, urls, lines)
