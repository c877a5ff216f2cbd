"""Everything that is wrong on a page, or on the pages of a site, the worst first."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache

import brightcanvas.inspecting.faults
from brightcanvas.inspecting.facts import Facts
from brightcanvas.inspecting.faults.by_scripts import LEAST, further
from brightcanvas.inspecting.finding import Finding
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.page.reading import read_page
from brightcanvas.rehearsal.lines import Line
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.values.errors import BriefError
from brightcanvas.values.geometry import Size
from brightcanvas.values.screens import Screen

Find = Callable[[Facts], Iterator[Finding]]


@dataclass(frozen=True)
class Inspected:
    """What was found on one or more pages."""

    findings: tuple[Finding, ...]
    """The worst first; what several pages share, once."""
    undecided: tuple[str, ...]
    """What no account was taken of."""
    pages: tuple[str, ...]


SCREENS = (
    Screen("narrow phone", Size(320, 568), 2, touched=True), *DEVICES[:4],
    Screen("tablet on its side", Size(1180, 820), 2, touched=True), *DEVICES[4:],
)  # fmt: skip
"""The usual ones, from the narrowest, and both ways round."""


def inspect_folders(
    folders: Sequence[Folder], screens: Sequence[Screen], lines: Sequence[Line],
    browser: str | None = None,
) -> tuple[Inspected, list[str]]:  # fmt: skip
    """Everything that some pages do wrong, and why those were left out that can't be read.

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
            facts = Facts(read_page(folder), screens, lines)
        except BriefError as error:
            unread.append(str(error))
            continue
        if browser:
            from brightcanvas.inspecting.looking import look_at

            facts.looks = {one.screen: one for one in look_at(facts, browser)}
        found.append(inspect_page(facts))
    if not found:
        raise BriefError("\n".join(unread))
    return (together(found) if len(found) > 1 else found[0]), unread


def inspect_page(facts: Facts) -> Inspected:
    """Everything that one page does wrong."""
    found = [finding for find in all_faults() for finding in find(facts)]
    unread = dict.fromkeys(facts.page.reading.unread)
    undecided = [line.replace(f"{HOST}/", "") for line in unread]
    if facts.looks:
        undecided += _unforetold(facts)
    elif facts.page.has_scripts:
        undecided.append("what its scripts fetch, show and change: --browser sees it")
    return Inspected(_sorted(found), tuple(undecided), (facts.name,))


def _unforetold(facts: Facts) -> Iterator[str]:
    """What a browser fetched that markup and style sheets don't tell, where it isn't much."""
    urls = further(facts)
    weight = sum(facts.bytes_of(url) for url in urls)
    if urls and weight < LEAST:
        names = ", ".join(facts.file_name(url) for url in urls[:3])
        yield f"{len(urls)} further files that scripts fetched, {weight / 1000:.0f} kB: {names}"


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
