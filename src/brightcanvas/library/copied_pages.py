"""Pages with the rules of a build in copies of them, and the reports that show both sides."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.brief.brief import Brief
from brightcanvas.integration.copying import CopyFolder
from brightcanvas.integration.integrating import IntegratedPage, integrate, of_page, report_name
from brightcanvas.page.reading import read_page
from brightcanvas.page.site import pages_at
from brightcanvas.pipeline.building import Outcome
from brightcanvas.pipeline.home import own_folder
from brightcanvas.pipeline.ownership import BY_INTO, Output
from brightcanvas.pipeline.publishing import publish
from brightcanvas.reports.html_reports import before_after_page
from brightcanvas.serving.network_profiles import LINES
from brightcanvas.serving.opened_page import first_window
from brightcanvas.values.errors import BriefError
from brightcanvas.values.screens import DEVICES_LOOKED_AT


@dataclass(frozen=True)
class Integration:
    """Pages before and after."""

    pages: tuple[IntegratedPage, ...]
    left_out: tuple[str, ...]
    """Names of pages that no backdrop is on."""
    into: Path
    """The folder of the copies."""
    browser: str
    """That looked at them; empty: none did."""

    @property
    def is_lighter(self) -> bool:
        """Whether no screen fetches more than before."""
        return all(
            each.after.bytes <= each.before.bytes for one in self.pages for each in one.compared
        )

    @property
    def is_same(self) -> bool:
        """Whether nothing is seen to differ that nobody asked for."""
        return not any(one.differences for one in self.pages)


def copy_folder(into: Path, brief: Brief) -> CopyFolder:
    """The folder of a copy.

    Raises:
        BriefError: it holds files of others.
    """
    place = CopyFolder(into, own_folder(brief.path.parent))
    if not place.is_free:
        raise BriefError(f"{into} holds other files: {BY_INTO}. Nothing was written.")
    return place


def insert_into_copies(
    targets: Sequence[str],
    brief: Brief,
    outcome: Outcome,
    into: Path,
    root: Path | None,
    browser: str | None,
    told: Callable[[int], None],
) -> Integration:
    """Put the rules of a build into copies of pages, and look at what that changes.

    Args:
        targets: the pages.
        brief: as loaded.
        outcome: of its build.
        into: folder of the copies.
        root: what ``/`` is on their host; None: found by what they name.
        browser: that looks, ``chromium``, ``firefox`` or ``none``; None: whichever is here.
        told: called with the number of screens that were looked at.

    Raises:
        BrightCanvasError: the folder holds files of others, no backdrop is on a page, or the
            browser fails.
    """
    place = copy_folder(into, brief)
    with (
        pages_at(targets, root) as folders,
        first_window(browser, folders) as window,
        place,
    ):
        pages = [read_page(one) for one in folders]
        shown = [one for one in pages if of_page(outcome.record, one).backdrops]
        if not shown:
            raise BriefError("no backdrop of this brief has an element there: bright-canvas hits")
        done = list[IntegratedPage]()
        for page in shown:
            done.append(integrate(
                page, outcome.record, brief.output, outcome.published, place, window,
                report=report_name(page, is_single=len(shown) == 1),
            ))  # fmt: skip
            told(len(done) * len(DEVICES_LOOKED_AT))
        name = window.name if window else ""
    reports = {one.report: _report(one) for one in done}
    publish(Output(place.into, brief.path.parent, "copies", BY_INTO), reports)
    left_out = tuple(page.folder.page.name for page in pages if page not in shown)
    return Integration(tuple(done), left_out, place.into, name)


def _report(one: IntegratedPage) -> bytes:
    shots = {
        (pair.screen.name, element): (view.png, pair.after.views[element].png)
        for pair in one.pairs for element, view in pair.before.views.items()
        if element in pair.after.views
    }  # fmt: skip
    title = one.before.folder.page.name
    told = [f"{each.screen.name}: {each.element} {each.says}" for each in one.differences]
    return before_after_page(title, one.compared, LINES, shots, told)
