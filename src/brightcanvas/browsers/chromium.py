"""Chromium, started with its driver and asked through the DevTools protocol."""

from __future__ import annotations

import importlib.util
import shutil
import tempfile
from base64 import b64decode
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

from brightcanvas.browsers.processes import APART, kill_all
from brightcanvas.browsers.reach import Reach
from brightcanvas.browsers.window import MOST_SECONDS, QUIET, SILENT, WORLD
from brightcanvas.css.screens import Viewer
from brightcanvas.values.errors import MachineError

NAMES = ("chromium", "chromium-browser", "google-chrome", "chrome")
SWITCHES = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--hide-scrollbars",
    "--dns-prefetch-disable", "--disable-features=WebTransport", "--block-new-web-contents",
    "--blink-settings=primaryHoverType=2,availableHoverTypes=2,primaryPointerType=4,"
    "availablePointerTypes=4",
)  # fmt: skip

NO_CALLS = {"webrtc.ip_handling_policy": "disable_non_proxied_udp"}
"""Preferences: calls between browsers send no packets past the rules for hosts."""

PATIENCE = MOST_SECONDS + 30.0
"""Seconds until a driver that doesn't answer is given up."""

PARTING = 10.0
"""Seconds for it to end, before it is made to."""

LOADED = (
    "document.readyState === 'complete' ||"
    " new Promise((done) => addEventListener('load', () => done(true)))"
)

ADVICE = (
    "for --browser, install Chromium with its driver (chromedriver) and"
    ' pip install "brightcanvas[browser]"'
)


def found() -> tuple[str, str]:
    """Where Chromium and its driver are.

    Raises:
        MachineError: there is none, or nothing to drive it with.
    """
    binary = next((path for name in NAMES if (path := shutil.which(name))), None)
    driver = shutil.which("chromedriver")
    if binary is None or driver is None:
        raise MachineError(f"no {'Chromium' if binary is None else 'chromedriver'} here: {ADVICE}")
    if importlib.util.find_spec("selenium") is None:
        raise MachineError(f"Chromium can't be driven: {ADVICE}")
    return binary, driver


@contextmanager
def driven(reach: Reach) -> Iterator[Any]:
    """A driver with its browser, as long as they are needed; its profile is thrown away.

    Args:
        reach: of the pages in it.

    Raises:
        MachineError: there is none, or it can't be started.
    """
    binary, driver_path = found()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        switches = [*SWITCHES, *reach.switches, f"--user-data-dir={profile}"]
        with answering():
            driver = started(binary, driver_path, switches, PATIENCE)
        ends = end
        try:
            yield driver
        except (KeyboardInterrupt, MachineError):  # it may be busy for ever
            ends = killed
            raise
        finally:
            ends(driver)


def started(binary: str, driver_path: str, switches: Sequence[str], patience: float) -> Any:  # noqa: ANN401
    """A browser and its driver, which is given up when it doesn't answer for so many seconds."""
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service

    options = webdriver.ChromeOptions()
    options.binary_location = binary
    for switch in switches:
        options.add_argument(switch)
    options.add_experimental_option("prefs", NO_CALLS)
    options.timeouts = {"pageLoad": round(MOST_SECONDS * 1000)}
    service = Service(driver_path, popen_kw=APART)
    try:
        driver: Any = webdriver.Chrome(options=options, service=service)
    except BaseException:
        if service.process:
            kill_all(service.process)
        raise
    driver.command_executor.client_config.timeout = patience
    return driver


def end(driver: Any) -> None:  # noqa: ANN401
    """End a browser and its driver, also where they don't answer any more."""
    from urllib3.exceptions import HTTPError

    driver.command_executor.client_config.timeout = PARTING
    try:
        driver.quit()
    except (OSError, HTTPError):
        killed(driver)


def killed(driver: Any) -> None:  # noqa: ANN401
    """End a browser and its driver at once."""
    kill_all(driver.service.process)


@contextmanager
def answering() -> Iterator[None]:
    """Tell of a browser that can't be started, crashed, or fell silent."""
    from selenium.common.exceptions import TimeoutException, WebDriverException
    from urllib3.exceptions import HTTPError, ReadTimeoutError

    try:
        yield
    except (TimeoutException, ReadTimeoutError) as error:
        raise MachineError(f"Chromium {SILENT}") from error
    except (WebDriverException, HTTPError) as error:
        said = str(getattr(error, "msg", None) or error).strip().splitlines()[0]
        raise MachineError(f"Chromium or its driver failed ({said}); try it again") from error


def emulation(viewer: Viewer) -> Iterator[tuple[str, dict[str, Any]]]:
    """The DevTools commands that make a window this one: a phone has a mobile viewport.

    A browser that isn't told to be a phone heeds no viewport tag, and judges hints otherwise.
    """
    is_touched = viewer.word("pointer") == "coarse"
    yield "Emulation.setDeviceMetricsOverride", {
        "width": round(viewer.width), "height": round(viewer.height),
        "deviceScaleFactor": viewer.density, "mobile": is_touched,
    }  # fmt: skip
    yield "Emulation.setTouchEmulationEnabled", {"enabled": is_touched, "maxTouchPoints": 5}
    said = {"hover": "none", "pointer": "coarse"} if is_touched else {}
    media = {f"{which}{name}": word for name, word in said.items() for which in ("", "any-")}
    yield (
        "Emulation.setEmulatedMedia",
        {"features": [{"name": name, "value": word} for name, word in media.items()]},
    )


class ChromiumWindow:
    """One window; see ``Window``."""

    name = "Chromium"

    def __init__(self, driver: Any, port: int) -> None:  # noqa: ANN401
        self._driver = driver
        self.port = port
        self._world = 0
        """In which our scripts run on the page that is open; 0: in none yet."""
        self.tell("Page.addScriptToEvaluateOnNewDocument", source=QUIET)

    def tell(self, command: str, **said: Any) -> Any:  # noqa: ANN401
        """A command of the DevTools protocol, and its answer."""
        with answering():
            return self._driver.execute_cdp_cmd(command, said)

    def resize(self, viewer: Viewer) -> None:
        """Emulated: whole px only, down to the narrowest."""
        for command, said in emulation(viewer):
            self.tell(command, **said)

    def open(self, url: str) -> None:
        """With an empty cache, and no page open that could still read from it."""
        with answering():
            self._driver.get("about:blank")
            self.tell("Network.clearBrowserCache")
            self._driver.get(url)
        frame = self.tell("Page.getFrameTree")["frameTree"]["frame"]["id"]
        world = self.tell("Page.createIsolatedWorld", frameId=frame, worldName=WORLD)
        self._world = world["executionContextId"]
        self.evaluate(LOADED)  # the driver says so too early now and then

    def evaluate(self, expression: str) -> Any:  # noqa: ANN401
        """See ``Window``."""
        told = self.tell(
            "Runtime.evaluate", expression=expression, contextId=self._world, returnByValue=True,
            awaitPromise=True,
        )  # fmt: skip
        if "exceptionDetails" in told:
            raise MachineError(f"the page was in the way: {told['exceptionDetails']}")
        return told["result"].get("value")

    def screenshot(self, scale: float = 1.0) -> bytes:
        """See ``Window``; drawn smaller it takes a third of the time."""
        said: dict[str, Any] = {"format": "png", "optimizeForSpeed": True}
        if scale != 1.0:
            asked = "[scrollX, scrollY, innerWidth, innerHeight]"
            sides = zip(("x", "y", "width", "height"), self.evaluate(asked), strict=True)
            said["clip"] = {**dict(sides), "scale": scale}
        return b64decode(self.tell("Page.captureScreenshot", **said)["data"])

    def console(self) -> list[str]:
        """See ``Window``."""
        with answering():
            return [str(one["message"]) for one in self._driver.get_log("browser")]

    def close(self) -> None:
        """Nothing more than its driver's end is needed."""


@contextmanager
def chromium_window(*named: str) -> Iterator[ChromiumWindow]:
    """A window that asks nobody but its port of this machine; see ``driven``.

    Args:
        named: hosts that it reaches as well, such as ``http://localhost:8000``.
    """
    reach = Reach(named=named)
    with driven(reach) as driver:
        yield ChromiumWindow(driver, reach.port)
