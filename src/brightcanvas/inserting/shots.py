"""Both pages as a real browser shows them."""

from __future__ import annotations

from urllib.parse import urlsplit

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.window import Window
from brightcanvas.css.screens import Viewer, viewer_of
from brightcanvas.page.folder import Folder
from brightcanvas.page.site import FetchedFolder
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.rehearsal.throttled_server import served

SHOWN = (DEVICES[1], DEVICES[3], DEVICES[4])
"""A phone, a tablet, a laptop."""


def side_by_side(before: Folder, after: Folder) -> dict[str, tuple[bytes, bytes]]:
    """The first view of both on some screens, as PNG, by the screen's name.

    Raises:
        MachineError: there is no browser, or it fails.
    """
    with chromium_window() as window:
        pairs = [(one, _shot(window, before, viewer_of(one)), _shot(window, after, viewer_of(one)))
                 for one in SHOWN]  # fmt: skip
    return {one.name: (first, second) for one, first, second in pairs}


def _shot(window: Window, folder: Folder, viewer: Viewer) -> bytes:
    path = urlsplit(folder.address).path
    window.resize(Viewer(viewer.width, viewer.height, 1.0, viewer.said))
    if isinstance(folder, FetchedFolder):
        window.open(folder.host + path)
        return window.screenshot()
    with served(folder) as host:
        window.open(host.address + path)
        return window.screenshot()
