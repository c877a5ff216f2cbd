"""The Chromium on this machine, driven through its driver."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from brightcanvas.browsers.chromium import LOADED, answering, driven, emulation
from brightcanvas.browsers.reach import Reach
from brightcanvas.css.screens import Viewer
from brightcanvas.rehearsal.seen import SeenLoad
from brightcanvas.rehearsal.throttled_server import ServedFolder

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


class Chromium:
    """One browser, for many loads."""

    name = "Chromium"

    def __init__(self, driver: Any, port: int) -> None:  # noqa: ANN401
        self._driver = driver
        self.port = port
        with answering():
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
        with answering():
            return self._visited(served, page, viewer, patience)

    def _visited(
        self, served: ServedFolder, page: str, viewer: Viewer, patience: float
    ) -> SeenLoad:
        self._driver.get("about:blank")
        served.taken()
        self._tell("Network.clearBrowserCache")  # with no page open that could still read from it
        self._driver.get_log("browser")
        for command, said in emulation(viewer):
            self._tell(command, **said)
        self._driver.get(f"{served.address}/{page}")
        self._tell("Runtime.evaluate", expression=LOADED, awaitPromise=True)
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
    reach = Reach()
    with driven(reach) as driver:
        yield Chromium(driver, reach.port)
