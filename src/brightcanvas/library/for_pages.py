"""For those who have a page: a first brief, lighter copies, what is wrong, and loads."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from brightcanvas.brief.brief import Brief
    from brightcanvas.inspecting.all_findings import Inspected
    from brightcanvas.library.copied_pages import Integration
    from brightcanvas.library.first_brief import FirstBrief
    from brightcanvas.measuring.for_brief import MeasuredFiles
    from brightcanvas.page.aim import PageHits
    from brightcanvas.pipeline.building import Outcome
    from brightcanvas.rehearsal.rehearsing import Rehearsed

Pages = str | Path | Sequence[str | Path]
"""HTML files, folders of them, or addresses on this machine."""


def _named(pages: Pages) -> list[str]:
    return [str(pages)] if isinstance(pages, (str, Path)) else [str(one) for one in pages]


def _path(path: str | Path | None) -> Path | None:
    return None if path is None else Path(path)


def begin(
    pages: Pages,
    brief: str | Path = "brief.toml",
    *,
    root: str | Path | None = None,
    browser: str | None = None,
    picture: str | Path | None = None,
    element: str | None = None,
    told: Callable[[int], None] = lambda _: None,
) -> FirstBrief:
    """Draft and write a brief that gives back pages as they look; nothing there is changed.

    Args:
        pages: to draft it from.
        brief: where it goes, with ``boxes.json`` and ``subjects.png`` beside it.
        root: what ``/`` is on their host; None: found by what the pages name.
        browser: to measure in, ``chromium``, ``firefox`` or ``none``; None: whichever is here.
        picture: for a page that has none, with ``element``.
        element: the selector of the element that the picture is for.
        told: called with the number of windows that are measured.

    Raises:
        BrightCanvasError: nothing can be drafted, or a file is in the way; no brief is written.
        ValueError: a picture without an element, or an element without a picture.
    """
    from brightcanvas.library.first_brief import wanted_picture, write_first_brief

    if (picture is None) != (element is None):
        raise ValueError("picture and element go together")
    wanted = wanted_picture(Path(picture), element) if picture and element else None
    return write_first_brief(_named(pages), Path(brief), _path(root), browser, wanted, told)


def measure(
    page: str | Path,
    brief: str | Path = "brief.toml",
    *,
    root: str | Path | None = None,
    browser: str = "chromium",
) -> MeasuredFiles:
    """Measure the boxes of a brief's elements and their text on a page, and keep that beside it.

    Args:
        page: an HTML file, or an address on this machine.
        brief: that says for what it is measured, and where that is kept.
        root: what ``/`` is on its host; None: found by what the page names.
        browser: to measure in, ``chromium`` or ``firefox``.

    Raises:
        BrightCanvasError: the brief asks for nothing measured, or the page or browser fails.
    """
    from brightcanvas.measuring.for_brief import measure_for

    return measure_for(Path(brief), str(page), _path(root), browser)


def insert(
    pages: Pages,
    brief: Brief,
    outcome: Outcome,
    *,
    into: str | Path = "with-backdrops",
    root: str | Path | None = None,
    browser: str | None = None,
    told: Callable[[int], None] = lambda _: None,
) -> Integration:
    """Put the rules of a build into a copy of pages, and look at what that changes on every screen.

    Args:
        pages: as they are; nothing of them is changed.
        brief: as loaded.
        outcome: of its build.
        into: folder of the copy and of the pages that show both sides.
        root: what ``/`` is on their host; None: found by what the pages name.
        browser: that looks at both, ``chromium``, ``firefox`` or ``none``; None: whichever is here.
        told: called with the number of screens that were looked at.

    Raises:
        BrightCanvasError: the folder holds other files, no backdrop is on a page, or the browser
            fails.
    """
    from brightcanvas.library.copied_pages import insert_into_copies

    return insert_into_copies(_named(pages), brief, outcome, Path(into), _path(root), browser, told)


def hits(page: str | Path, brief: Brief, *, root: str | Path | None = None) -> PageHits:
    """What a brief's selectors hit on a page, and whose rules would win there.

    Args:
        page: an HTML file.
        brief: as loaded; where it is built, its rules are tried on the page.
        root: what ``/`` is on its host; None: the page's folder.

    Raises:
        BriefError: there is no such page.
    """
    from brightcanvas.page.aim import hits_on

    return hits_on(Path(page), brief, _path(root))


def inspect(
    page: str | Path, *, root: str | Path | None = None, browser: str | None = None
) -> Inspected:
    """What a page, or each page of a folder, does wrong as it is, on nine usual screens.

    Args:
        page: an HTML file, a folder, or an address on this machine.
        root: what ``/`` is on its host; None: found by what the page names.
        browser: to ask for boxes, requests and contrast, ``chromium`` or ``firefox``; None: none.

    Raises:
        BrightCanvasError: there is no such page, or the browser fails.
        ValueError: there is no such browser.
    """
    from brightcanvas.inspecting.all_findings import inspect_folders
    from brightcanvas.page.site import pages_at
    from brightcanvas.serving.network_profiles import LINES
    from brightcanvas.serving.opened_page import BROWSERS
    from brightcanvas.values.screens import ALL_DEVICES
    from brightcanvas.values.words import one_of

    asked = one_of(browser, BROWSERS) if browser is not None else None
    with pages_at(str(page), None if root is None else Path(root)) as folders:
        return inspect_folders(folders, ALL_DEVICES, LINES, asked)


def rehearse(
    page: str | Path,
    *,
    root: str | Path | None = None,
    http: str = "1.1",
    like: str = "chromium",
    headers: str = "",
) -> tuple[Rehearsed, ...]:
    """Play a page's load through on seven usual screens over three lines.

    Args:
        page: an HTML file.
        root: what ``/`` is on its host; None: the page's folder.
        http: ``1.1`` or ``2``.
        like: whose habits: ``chromium``, ``firefox`` or ``webkit``.
        headers: lines of ``Link`` headers that come with the page.

    Raises:
        BrightCanvasError: there is no such page.
        ValueError: there is no such protocol or browser.
    """
    from brightcanvas.page.folder import folder_of
    from brightcanvas.page.found_hints import header_hints
    from brightcanvas.page.reading import read_page
    from brightcanvas.rehearsal.engine_profiles import ENGINES
    from brightcanvas.rehearsal.rehearsing import rehearse as rehearse_page
    from brightcanvas.serving.network_profiles import LINES, PROTOCOLS
    from brightcanvas.values.screens import DEVICES
    from brightcanvas.values.words import one_of

    read = read_page(folder_of(Path(page), None if root is None else Path(root)))
    protocol, engine = PROTOCOLS[one_of(http, PROTOCOLS)], ENGINES[one_of(like, ENGINES)]
    return rehearse_page(read, DEVICES, LINES, protocol, engine, header_hints(headers))
