"""A page of a folder served on this machine, and measured in a browser."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.browsers.window import Window
from brightcanvas.measuring.measure import Laid, measured
from brightcanvas.page.folder import Folder
from brightcanvas.page.reading import Page, read_page
from brightcanvas.page.site import FetchedFolder
from brightcanvas.rehearsal.throttled_server import ServedFolder, served
from brightcanvas.values.errors import BriefError
from brightcanvas.values.measured import MeasuredWindow

BROWSERS = ("chromium", "firefox")


@dataclass(frozen=True)
class MeasuredPage:
    """What was measured of a page."""

    elements: Mapping[str, tuple[MeasuredWindow, ...]]
    """By selector; those that the page hasn't got are left out."""
    read: tuple[Path, ...]
    """The page and its style sheets."""


def window_of(browser: str, folders: Iterable[Folder]) -> AbstractContextManager[Window]:
    """A window of one of ``BROWSERS``, as long as it is needed.

    Args:
        browser: which one.
        folders: of the pages that will be looked at.

    Raises:
        MachineError: there is no such browser, or it fails.
    """
    named = dict.fromkeys(one.host for one in folders if isinstance(one, FetchedFolder))
    return firefox_window(*named) if browser == "firefox" else chromium_window(*named)


@dataclass(frozen=True)
class Host:
    """The host of a page on this machine."""

    folder: Folder
    address: str
    """Such as ``http://127.0.0.1:8000``."""
    served: ServedFolder | None = None
    """None: somebody else's server."""

    def show(self, window: Window) -> None:
        """Open the page afresh, and nothing else: where it leads by itself is not gone to.

        Raises:
            BriefError: the page sends its readers elsewhere.
            MachineError: the browser fails.
        """
        if self.served:
            self.served.admit_one()
        path = urlsplit(self.folder.address).path
        window.open(f"{self.address}{path}")
        self._check(window, path)

    def _check(self, window: Window, path: str) -> None:
        """Who is sent elsewhere never sees the page: it isn't judged."""
        now = str(window.evaluate("document.URL"))
        away = [one for one in self.served.turned_away if one != path] if self.served else []
        if urlsplit(now)[:2] != urlsplit(self.address)[:2]:
            away.append("another host")
        elif urlsplit(now).path != path:
            away.append(urlsplit(now).path)
        if away:
            raise BriefError(
                f"{self.folder.page}: it sends its readers to {away[0]} by itself, so nobody looks"
                " at it: name that page, or take the line that does so out of a copy"
            )

    def asked(self) -> list[str]:
        """The paths that were asked for since this was called last, as far as we serve."""
        return [one.path for one in self.served.taken()] if self.served else []


@contextmanager
def hosted(folder: Folder, window: Window) -> Iterator[Host]:
    """A page's host, for a window."""
    if isinstance(folder, FetchedFolder):
        yield Host(folder, folder.host)
        return
    with served(folder, port=window.port) as host:
        yield Host(folder, host.address, host)


@contextmanager
def opened(folder: Folder, browser: str) -> Iterator[Window]:
    """A page, open in a browser; see ``window_of`` and ``Host.show``."""
    with window_of(browser, [folder]) as window, hosted(folder, window) as host:
        host.show(window)
        yield window


def measure_page(folder: Folder, selectors: Sequence[str], browser: str) -> MeasuredPage:
    """The copy above some elements, in all windows.

    Args:
        folder: of the page.
        selectors: of the elements.
        browser: which one to ask.
    """
    page = read_page(folder)
    found: dict[str, list[Laid]] = {}
    with opened(folder, browser) as window:
        for row in measured(window, selectors, page):
            for selector, one in zip(selectors, row, strict=True):
                if one is not None and one.box.width >= 1 and one.box.height >= 1:
                    found.setdefault(selector, []).append(one)
    elements = {selector: tuple(one.window for one in rows) for selector, rows in found.items()}
    return MeasuredPage(elements, files_of(page))


def files_of(page: Page) -> tuple[Path, ...]:
    """A page and its style sheets, as far as they lie on this disk: by them changes are seen."""
    if isinstance(page.folder, FetchedFolder):
        return ()
    urls = [one.url for one in page.sheets] + [one.url for one in page.reading.imports]
    paths = [page.folder.page, *(page.folder.file(url) for url in urls)]
    return tuple(dict.fromkeys(path for path in paths if path is not None))
