"""A page of a folder served on this machine, and measured in a browser."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.browsers.window import Window
from brightcanvas.measuring.measure import Laid, measured
from brightcanvas.measuring.windows import cuts_of
from brightcanvas.page.folder import Folder
from brightcanvas.page.reading import Page, read_page
from brightcanvas.page.site import FetchedFolder
from brightcanvas.rehearsal.throttled_server import served
from brightcanvas.values.measured import MeasuredWindow

BROWSERS = ("chromium", "firefox")


@dataclass(frozen=True)
class MeasuredPage:
    """What was measured of a page."""

    elements: Mapping[str, tuple[MeasuredWindow, ...]]
    """By selector; those that the page hasn't got are left out."""
    read: tuple[Path, ...]
    """The page and its style sheets."""


def window_of(browser: str) -> AbstractContextManager[Window]:
    """A window of one of ``BROWSERS``, as long as it is needed.

    Raises:
        MachineError: there is no such browser, or it fails.
    """
    return firefox_window() if browser == "firefox" else chromium_window()


Asked = Callable[[], list[str]]
"""The paths that were asked for since it was called last."""


@contextmanager
def hosted(folder: Folder) -> Iterator[tuple[str, Asked]]:
    """The address of a page's host on this machine, and what is asked of it, as far as we serve."""
    if isinstance(folder, FetchedFolder):
        yield folder.host, list
        return
    with served(folder) as host:
        yield host.address, lambda: [one.path for one in host.taken()]


@contextmanager
def opened(folder: Folder, browser: str) -> Iterator[Window]:
    """A page, open in a browser; see ``window_of``."""
    with window_of(browser) as window, hosted(folder) as (address, _):
        window.open(address + urlsplit(folder.address).path)
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
        for row in measured(window, selectors, cuts_of(page)):
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
