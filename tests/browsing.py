"""A real Chromium and a small server that notes what was asked of it."""

from __future__ import annotations

import io
import shutil
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from urllib3.exceptions import ReadTimeoutError

from brightcanvas.browsers.chromium import SWITCHES, emulation
from brightcanvas.values.environments import TOUCHED, Environment

from .chromedriver import end, started

CHROMIUM = (
    shutil.which("chromium") or shutil.which("chromium-browser") or shutil.which("google-chrome")
)
DRIVER = shutil.which("chromedriver")


class Handler(SimpleHTTPRequestHandler):
    """Serves a folder and notes every path."""

    extensions_map = {  # noqa: RUF012 - the base class has it so
        **SimpleHTTPRequestHandler.extensions_map, ".avif": "image/avif", ".webp": "image/webp",
    }  # fmt: skip

    def log_message(self, *_: object) -> None:
        pass

    def do_GET(self) -> None:
        self.server.requested.append(self.path)  # type: ignore[attr-defined]
        super().do_GET()


class Site:
    """A folder being served on loopback."""

    def __init__(self, folder: Path) -> None:
        self._server = ThreadingHTTPServer(
            ("127.0.0.1", 0), partial(Handler, directory=str(folder))
        )
        self.requested: list[str] = []
        self._server.requested = self.requested  # type: ignore[attr-defined]
        threading.Thread(target=self._server.serve_forever, daemon=True).start()
        self.address = f"http://127.0.0.1:{self._server.server_port}"

    def pictures(self) -> list[str]:
        """The pictures asked for since the last call, by file name."""
        asked = [Path(path).name for path in self.requested]
        self.requested.clear()
        return [name for name in asked if name.endswith((".avif", ".webp", ".jpg", ".png", ".svg"))]

    def clips(self) -> list[str]:
        """The clips asked for so far, by file name, each once."""
        names = {Path(path).name for path in self.requested}
        return sorted(name for name in names if name.endswith((".webm", ".mp4")))

    def close(self) -> None:
        self._server.shutdown()
        self._server.server_close()


TIMEOUT = 60.0
"""Seconds until a driver that has fallen silent is started anew."""


class Browser:
    """Chromium, driven through its public protocol."""

    def __init__(self, *further: str) -> None:
        """``further``: switches beside the usual ones."""
        self._profile = tempfile.mkdtemp()
        self._switches = [*SWITCHES, *further, f"--user-data-dir={self._profile}"]
        self._wishes: dict[str, dict[str, Any]] = {}
        self._touched = False
        self._start()

    def _start(self) -> None:
        self._driver = started(str(CHROMIUM), str(DRIVER), self._switches, TIMEOUT)
        for command, said in self._wishes.items():
            self._driver.execute_cdp_cmd(command, said)

    def _wish(self, command: str, **said: Any) -> None:
        """Ask for what holds from now on, also when the browser has to be started anew."""
        self._wishes[command] = said
        self._driver.execute_cdp_cmd(command, said)

    @property
    def driver(self) -> Any:
        """What drives it, for pointers and keys."""
        return self._driver

    def open(
        self, url: str, width: int, height: int, density: float = 1, *, touched: bool = False
    ) -> None:
        """Load a page afresh in a viewport; through the protocol, so below any least width.

        ``touched``: it is a phone's or a tablet's, whose browser heeds the viewport tag.
        """
        environment = Environment(width, height, density, TOUCHED if touched else {})
        (_, metrics), *further = emulation(environment)
        for command, said in further if touched or self._touched else ():
            self._driver.execute_cdp_cmd(command, said)
        self._touched = touched
        try:
            self._load(url, metrics)
        except ReadTimeoutError:
            end(self._driver)
            self._start()
            self._load(url, metrics)

    def _load(self, url: str, metrics: dict[str, Any]) -> None:
        self._driver.get("about:blank")
        self._driver.execute_cdp_cmd("Network.clearBrowserCache", {})
        self.console()
        self._driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        self._driver.get(url)
        self._wait_until_loaded()

    def _wait_until_loaded(self) -> None:
        """The driver says so too early now and then, before a style sheet is there."""
        until = time.monotonic() + 20
        asked = "return document.readyState"
        while self._driver.execute_script(asked) != "complete" and time.monotonic() < until:
            time.sleep(0.02)

    def prefers(self, **features: str) -> None:
        """What people have asked for, such as ``reduced_motion="reduce"``; nothing: the usual."""
        named = [
            {"name": f"prefers-{name.replace('_', '-')}", "value": value}
            for name, value in features.items()
        ]
        self._wish("Emulation.setEmulatedMedia", features=named)

    def before_pages(self, script: str) -> str:
        """Have every page run a script first; the answer undoes it, see ``undo``."""
        command = "Page.addScriptToEvaluateOnNewDocument"
        return str(self._driver.execute_cdp_cmd(command, {"source": script})["identifier"])

    def undo(self, identifier: str) -> None:
        """Take back what ``before_pages`` asked for."""
        command = "Page.removeScriptToEvaluateOnNewDocument"
        self._driver.execute_cdp_cmd(command, {"identifier": identifier})

    def scripts(self, *, run: bool) -> None:
        """Whether pages may run scripts from the next load on."""
        self._wish("Emulation.setScriptExecutionDisabled", value=not run)

    def press(self, *keys: str) -> None:
        """Keys on the keyboard, one after the other."""
        ActionChains(self._driver).send_keys(*keys).perform()

    def console(self) -> list[str]:
        """What the page's console says."""
        log = self._driver.get_log("browser")
        return [entry["message"] for entry in log]

    def evaluate(self, expression: str) -> object:
        """The value of a JavaScript expression in the page."""
        value: object = self._driver.execute_script(f"return {expression}")
        return value

    def screenshot(self) -> NDArray[np.uint8]:
        """The viewport's pixels, (height, width, 3)."""
        with Image.open(io.BytesIO(self._driver.get_screenshot_as_png())) as image:
            return np.asarray(image.convert("RGB"))

    def settled(self) -> NDArray[np.uint8]:
        """A screenshot after a moment for decoding and painting, which loading doesn't wait for."""
        time.sleep(0.15)
        return self.screenshot()

    def page_top(self, height: int) -> NDArray[np.uint8]:
        """The page's upper ``height`` CSS px, scrolled through in the viewport as it is.

        A larger viewport would be another window, with other files.
        """
        parts = [self.settled()]
        density = parts[0].shape[1] / float(str(self.evaluate("innerWidth")))
        seen = parts[0].shape[0]
        while seen < round(height * density):
            before = seen
            self.evaluate(f"scrollTo(0, {seen / density})")
            top = round(float(str(self.evaluate("scrollY"))) * density)
            part = self.settled()
            parts.append(part[seen - top :])
            seen = top + part.shape[0]
            assert seen > before, "the page is not that high"
        return np.concatenate(parts)[: round(height * density)]

    def close(self) -> None:
        end(self._driver)
        shutil.rmtree(self._profile, ignore_errors=True)


@contextmanager
def serving(folder: Path) -> Iterator[Site]:
    site = Site(folder)
    yield site
    site.close()
