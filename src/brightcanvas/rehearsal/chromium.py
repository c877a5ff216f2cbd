"""The Chromium on this machine, driven through its driver."""

from __future__ import annotations

import importlib.util
import shutil
import tempfile
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from typing import Any

from brightcanvas.css.screens import Viewer
from brightcanvas.rehearsal.seen import SeenLoad
from brightcanvas.rehearsal.throttled_server import ServedFolder
from brightcanvas.values.errors import MachineError

NAMES = ("chromium", "chromium-browser", "google-chrome", "chrome")
SWITCHES = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--hide-scrollbars",
)  # fmt: skip

WATCH = """
window.brightCanvasPaints = [];
new PerformanceObserver((list) => {
  for (const one of list.getEntries())
    window.brightCanvasPaints.push({ url: one.url, at: one.renderTime || one.startTime });
}).observe({ type: "largest-contentful-paint", buffered: true });
window.brightCanvasShift = 0;
new PerformanceObserver((list) => {
  for (const one of list.getEntries()) window.brightCanvasShift += one.value;
}).observe({ type: "layout-shift", buffered: true });
"""
"""Notes the largest paints (Largest Contentful Paint) and what moved (Layout Instability)."""

ARRIVED = """
const last = window.brightCanvasPaints.at(-1), page = performance.getEntriesByType("navigation")[0];
const own = last ? performance.getEntriesByName(last.url) : [];
return Math.max(page.domInteractive, ...own.map((one) => one.responseEnd));
"""

PATIENCE = 330.0
"""Seconds until a driver that doesn't answer is given up; a page may take it 300 to load."""

PARTING = 10.0
"""Seconds for it to end."""

ADVICE = (
    "for --browser, install Chromium with its driver (chromedriver) and"
    ' pip install "brightcanvas[browser]"'
)


class Chromium:
    """One browser, for many loads."""

    name = "Chromium"

    def __init__(self, driver: Any) -> None:  # noqa: ANN401
        self._driver = driver
        with _answering():
            self._tell("Page.addScriptToEvaluateOnNewDocument", source=WATCH)

    def _tell(self, command: str, **said: Any) -> Any:  # noqa: ANN401
        return self._driver.execute_cdp_cmd(command, said)

    def visit(self, served: ServedFolder, page: str, viewer: Viewer, patience: float) -> SeenLoad:
        """Load a page afresh in a window.

        Args:
            served: the folder.
            page: its path there.
            viewer: its width and height are rounded: emulation knows whole px only.
            patience: seconds to wait after the load for what comes late.

        Raises:
            MachineError: the browser crashed, or doesn't answer any more.
        """
        with _answering():
            return self._visited(served, page, viewer, patience)

    def _visited(
        self, served: ServedFolder, page: str, viewer: Viewer, patience: float
    ) -> SeenLoad:
        self._driver.get("about:blank")
        self._tell("Network.clearBrowserCache")  # with no page open that could still read from it
        self._driver.get_log("browser")
        self._tell(
            "Emulation.setDeviceMetricsOverride",
            width=round(viewer.width), height=round(viewer.height),
            deviceScaleFactor=viewer.density, mobile=False,
        )  # fmt: skip
        self._driver.get(f"{served.address}/{page}")
        time.sleep(patience)
        paints = self._driver.execute_script("return window.brightCanvasPaints")
        shift = self._driver.execute_script("return window.brightCanvasShift")
        console = tuple(str(one["message"]) for one in self._driver.get_log("browser"))
        last = paints[-1] if paints else None
        largest = last["at"] / 1000 if last else None
        arrived = self._driver.execute_script(ARRIVED) / 1000
        asked = tuple(one.path for one in served.taken())
        url = last["url"] if last else ""
        return SeenLoad(asked, largest, url, arrived, float(shift or 0), console)


@contextmanager
def chromium() -> Iterator[Chromium]:
    """The browser, as long as it is needed.

    Raises:
        MachineError: there is none, or nothing to drive it with.
    """
    binary = next((path for name in NAMES if (path := shutil.which(name))), None)
    driver_path = shutil.which("chromedriver")
    if binary is None or driver_path is None:
        raise MachineError(f"no {'Chromium' if binary is None else 'chromedriver'} here: {ADVICE}")
    if importlib.util.find_spec("selenium") is None:
        raise MachineError(f"Chromium can't be driven: {ADVICE}")
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        with _answering():
            driver = started(
                binary, driver_path, [*SWITCHES, f"--user-data-dir={profile}"], PATIENCE
            )
        try:
            yield Chromium(driver)
        finally:
            end(driver)


def started(binary: str, driver_path: str, switches: Sequence[str], patience: float) -> Any:  # noqa: ANN401
    """A browser and its driver, which is given up when it doesn't answer for so many seconds."""
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service

    options = webdriver.ChromeOptions()
    options.binary_location = binary
    for switch in switches:
        options.add_argument(switch)
    driver: Any = webdriver.Chrome(options=options, service=Service(driver_path))
    driver.command_executor.client_config.timeout = patience
    return driver


def end(driver: Any) -> None:  # noqa: ANN401
    """End a browser and its driver, also where they don't answer any more."""
    driver.command_executor.client_config.timeout = PARTING
    with suppress(OSError):
        driver.quit()


@contextmanager
def _answering() -> Iterator[None]:
    """Tell of a browser that can't be started, crashed, or fell silent."""
    from selenium.common.exceptions import WebDriverException
    from urllib3.exceptions import HTTPError

    try:
        yield
    except (WebDriverException, HTTPError) as error:
        said = str(getattr(error, "msg", None) or error).strip().splitlines()[0]
        raise MachineError(f"Chromium or its driver failed ({said}); try it again") from error
