"""The Firefox on this machine, as a plain process: a line in the page tells what it saw."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

from brightcanvas.browsers.firefox import NAMES, PREFERENCES, pointer_preferences
from brightcanvas.browsers.reach import Reach
from brightcanvas.css.screens import Viewer
from brightcanvas.rehearsal.seen import SeenLoad
from brightcanvas.rehearsal.throttled_server import ServedFolder
from brightcanvas.values.errors import MachineError

TELL = "/bright-canvas-told"
PATIENCE = 40.0
"""Seconds until a load is given up."""

LEAST_WIDTH = 450
"""CSS px; Firefox's windows are no narrower."""

PROBE = f"""
<script>{{
  let at = null, url = "";
  new PerformanceObserver((list) => {{
    for (const one of list.getEntries()) {{ at = one.renderTime || one.startTime; url = one.url; }}
  }}).observe({{ type: "largest-contentful-paint", buffered: true }});
  addEventListener("load", () => setTimeout(() => {{
    const density = devicePixelRatio;
    const page = performance.getEntriesByType("navigation")[0];
    const own = url ? performance.getEntriesByName(url) : [];
    const arrived = Math.max(page.domInteractive, ...own.map((one) => one.responseEnd));
    const told = {{ at, url, arrived, width: innerWidth, height: innerHeight, density }};
    fetch("{TELL}?told=" + encodeURIComponent(JSON.stringify(told)));
  }}, 400));
}}</script>
"""


class Firefox:
    """Started anew for every load, with a profile of its own."""

    name = "Firefox"
    port = 0
    """Each load reaches the server that it is from, whichever that is."""

    def __init__(self, binary: str) -> None:
        self._binary = binary

    def visit(self, served: ServedFolder, page: str, viewer: Viewer, patience: float) -> SeenLoad:
        """Load a page in a window; see ``Chromium.visit``."""
        served.extra = PROBE.encode()
        served.taken()
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
            scale = f'user_pref("layout.css.devPixelsPerPx", "{viewer.density}");\n'
            scale += pointer_preferences(touched=viewer.word("pointer") == "coarse")
            reach = Reach(urlsplit(served.address).port or 0)
            told = PREFERENCES + reach.preferences + scale
            Path(profile, "user.js").write_text(told, encoding="utf-8")
            command = [
                self._binary, "--headless", "--no-remote", "--profile", profile,
                f"{served.address}/{page}",
            ]  # fmt: skip
            size = {
                "MOZ_HEADLESS_WIDTH": str(round(viewer.width * viewer.density)),
                "MOZ_HEADLESS_HEIGHT": str(round(viewer.height * viewer.density)),
            }
            quiet = subprocess.DEVNULL
            with subprocess.Popen(
                command, stdout=quiet, stderr=quiet, env=os.environ | size
            ) as running:
                asked = _wait_for_word(served)
                time.sleep(patience)
                running.terminate()
        return _seen([*asked, *(one.path for one in served.taken())])


def _wait_for_word(served: ServedFolder) -> list[str]:
    asked: list[str] = []
    until = time.monotonic() + PATIENCE
    while time.monotonic() < until and not any(path.startswith(TELL) for path in asked):
        time.sleep(0.1)
        asked += [one.path for one in served.taken()]
    return asked


def _seen(asked: Sequence[str]) -> SeenLoad:
    told = next((path for path in asked if path.startswith(TELL)), None)
    files = tuple(path for path in asked if not path.startswith(TELL))
    if told is None:
        return SeenLoad(files, None, "", 0.0, 0.0, ())
    said = json.loads(parse_qs(urlsplit(told).query)["told"][0])
    at = said["at"] / 1000 if said["at"] else None
    window = Viewer(said["width"], said["height"], said["density"])
    return SeenLoad(files, at, said["url"], said["arrived"] / 1000, 0.0, (), window)


def firefox() -> Firefox:
    """The browser.

    Raises:
        MachineError: there is none.
    """
    binary = next((path for name in NAMES if (path := shutil.which(name))), None)
    if binary is None:
        raise MachineError("no Firefox here")
    return Firefox(binary)
