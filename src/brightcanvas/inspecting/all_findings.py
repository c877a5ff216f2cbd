"""Everything that is wrong on a page, or on the pages of a site, the worst first."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache

import brightcanvas.inspecting.faults
from brightcanvas.browsers.window import Window
from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts, PageSnapshot
from brightcanvas.inspecting.faults.by_scripts import LEAST, further
from brightcanvas.inspecting.finding import Finding
from brightcanvas.measuring.elements import laid
from brightcanvas.measuring.letters import lines_in, read_lines, without_letters
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.page.reading import path_of, read_page
from brightcanvas.serving.network_profiles import NetworkProfile
from brightcanvas.serving.opened_page import hosted, window_of
from brightcanvas.values.environments import environment_of
from brightcanvas.values.errors import BriefError
from brightcanvas.values.screens import Screen
from brightcanvas.values.words import bytes_text

Find = Callable[[PageFacts], Iterator[Finding]]


@dataclass(frozen=True)
class Inspected:
    """What was found on one or more pages."""

    findings: tuple[Finding, ...]
    """The worst first; what several pages share, once."""
    undecided: tuple[str, ...]
    """What no account was taken of."""
    pages: tuple[str, ...]
    left_out: tuple[str, ...] = ()
    """Why pages that can't be read were left out."""


def inspect_folders(
    folders: Sequence[Folder], screens: Sequence[Screen], lines: Sequence[NetworkProfile],
    browser: str | None = None,
) -> Inspected:  # fmt: skip
    """Everything that some pages do wrong; those that can't be read are left out, and told.

    Args:
        folders: of the pages.
        screens: to look at.
        lines: over which costs are told.
        browser: to ask too, ``chromium`` or ``firefox``; None: none.

    Raises:
        BriefError: no page can be read.
        MachineError: the browser fails.
    """
    found, unread = [], []
    for folder in folders:
        try:
            facts = PageFacts(read_page(folder), screens, lines)
        except BriefError as error:
            unread.append(str(error))
            continue
        if browser:
            facts.looks = {one.screen: one for one in look_at(facts, browser)}
        found.append(inspect_page(facts))
    if not found:
        raise BriefError("\n".join(unread))
    whole = together(found) if len(found) > 1 else found[0]
    return replace(whole, left_out=tuple(unread))


def inspect_page(facts: PageFacts) -> Inspected:
    """Everything that one page does wrong."""
    found = [finding for find in all_faults() for finding in find(facts)]
    unread = dict.fromkeys(facts.page.reading.unread)
    undecided = [line.replace(f"{HOST}/", "") for line in unread]
    if facts.looks:
        undecided += _unforetold(facts)
    elif facts.page.has_scripts:
        undecided.append("what its scripts fetch, show and change: --browser sees it")
    return Inspected(_sorted(found), tuple(undecided), (facts.name,))


def _unforetold(facts: PageFacts) -> Iterator[str]:
    """What a browser fetched that markup and style sheets don't tell, where it isn't much."""
    urls = further(facts)
    weight = sum(facts.bytes_of(url) for url in urls)
    if urls and weight < LEAST:
        names = ", ".join(facts.file_name(url) for url in urls[:3])
        yield f"{len(urls)} further files that scripts fetched, {bytes_text(weight)}: {names}"


def together(inspected: Sequence[Inspected]) -> Inspected:
    """Several pages as one; a finding of a sheet that they share is told once.

    A rule that hits nothing on one page is a fault only where it hits nothing on any of them.
    """
    by_place: dict[tuple[object, ...], list[tuple[str, Finding]]] = {}
    for one in inspected:
        for finding in one.findings:
            key = (finding.fault, finding.about or finding.place)
            by_place.setdefault(key, []).append((one.pages[0], finding))
    pages = tuple(page for one in inspected for page in one.pages)
    merged = [
        _merged(found)
        for found in by_place.values()
        if not (found[0][1].of_all_pages and len(found) < len(pages))
    ]
    undecided = dict.fromkeys(line for one in inspected for line in one.undecided)
    return Inspected(_sorted(merged), tuple(undecided), pages)


def _merged(found: Sequence[tuple[str, Finding]]) -> Finding:
    worst = max((finding for _, finding in found), key=lambda one: one.bytes)
    return replace(worst, pages=tuple(page for page, _ in found))


def _sorted(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(findings, key=lambda one: one.rank))


@cache
def all_faults() -> tuple[Find, ...]:
    """Each module of the room has one ``find``."""
    room = brightcanvas.inspecting.faults
    names = sorted(module.name for module in pkgutil.iter_modules(room.__path__))
    modules = [importlib.import_module(f"{room.__name__}.{name}") for name in names]
    return tuple(module.find for module in modules)


def look_at(facts: PageFacts, browser: str) -> tuple[PageSnapshot, ...]:
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


def _nodes(facts: PageFacts) -> list[Node]:
    """Those whose boxes decide something: all that show a picture on some screen."""
    found = {id(shown.node): shown.node for one in facts.seen for shown in one.load.shown}
    return list(found.values())


def _look(window: Window, facts: PageFacts, screen: Screen, nodes: Sequence[Node]) -> PageSnapshot:
    folder, environment = facts.page.folder, environment_of(screen)
    paths = [path_of(facts.page, node) for node in nodes]
    with hosted(folder, window) as host:
        window.leave()
        window.resize(environment)
        host.show(window)
        found = laid(window, paths, screen.viewport)
        pixels = without_letters(window)
        urls = frozenset(f"{HOST}{path}" for path in host.asked())
    boxes = {id(node): one for node, one in zip(nodes, found, strict=True) if one}
    pictured = {id(one.etree_element) for one in facts.pictured}
    lines = {
        key: tuple(read_lines(pixels, lines_in(one, 0.0, screen.viewport), screen.viewport))
        for key, one in boxes.items()
        if key in pictured
    }
    return PageSnapshot(screen, window.name, boxes, urls, lines)
