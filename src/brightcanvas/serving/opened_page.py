"""A page of a folder, open in a browser of this machine."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator, Sequence
from contextlib import AbstractContextManager, ExitStack, contextmanager, nullcontext
from dataclasses import dataclass
from urllib.parse import quote, urlsplit

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.browsers.window import Window
from brightcanvas.page.folder import Folder
from brightcanvas.page.site import FetchedFolder
from brightcanvas.serving.page_server import ServedFolder, path_of, served
from brightcanvas.values.errors import BriefError, MachineError

BROWSERS = ("chromium", "firefox")


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


SENT_AWAY = 0.5
"""Seconds until a page is gone that has sent its readers to an encrypted host, which isn't had."""


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
        path = path_of(self.folder.address)
        with self.served.admitting(path) if self.served else nullcontext():
            window.open(f"{self.address}{quote(path)}")
        self._check(window, path)

    def _check(self, window: Window, path: str) -> None:
        """Who is sent elsewhere never sees the page: it isn't judged."""
        if self.served and self.served.is_asked_for_others:
            time.sleep(SENT_AWAY)
        now = str(window.evaluate("document.URL"))
        turned_away = self.served.turned_away if self.served else ()
        away = [one for one in turned_away if not one.startswith("/") or path_of(one) != path]
        if urlsplit(now)[:2] != urlsplit(self.address)[:2]:
            away.append("another host")
        elif path_of(now) != path:
            away.append(path_of(now))
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


@contextmanager
def first_window(browser: str | None, folders: Sequence[Folder]) -> Iterator[Window | None]:
    """A window of the browser that is named, or of the first one that is here; else none.

    Args:
        browser: ``chromium``, ``firefox`` or ``none``; None: whichever is here.
        folders: of the pages that it is for.

    Raises:
        MachineError: the one that is named isn't here, or fails.
    """
    with ExitStack() as stack:
        yield _entered(stack, BROWSERS if browser is None else (browser,), folders)


def _entered(stack: ExitStack, names: Sequence[str], folders: Sequence[Folder]) -> Window | None:
    for name in names:
        if name == "none":
            return None
        try:
            return stack.enter_context(window_of(name, folders))
        except MachineError:
            if len(names) == 1:
                raise
    return None
