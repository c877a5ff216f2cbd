"""Firefox, asked through the W3C's WebDriver BiDi protocol, which it speaks by itself."""

from __future__ import annotations

import importlib.util
import json
import os
import re
import shutil
import subprocess
import tempfile
import time
from base64 import b64decode
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from brightcanvas.browsers.processes import APART, kill_all
from brightcanvas.browsers.reach import Reach
from brightcanvas.browsers.window import MOST_SECONDS, QUIET, SILENT, WORLD
from brightcanvas.css.screens import Viewer
from brightcanvas.values.errors import MachineError

NAMES = ("firefox", "firefox-esr")
PATIENCE = MOST_SECONDS
"""Seconds until a browser that doesn't answer is given up."""

PREFERENCES = """
user_pref("browser.shell.checkDefaultBrowser", false);
user_pref("browser.startup.homepage", "about:blank");
user_pref("datareporting.policy.dataSubmissionEnabled", false);
user_pref("app.update.enabled", false);
user_pref("network.captive-portal-service.enabled", false);
user_pref("network.connectivity-service.enabled", false);
user_pref("ui.useOverlayScrollbars", 1);
user_pref("media.peerconnection.enabled", false);
user_pref("network.dns.disablePrefetch", true);
user_pref("network.webtransport.enabled", false);
"""

PARTING = 1.0
"""Seconds for it to end, before it is made to."""

UNTOUCHED, TOUCHED = 6, 1
"""What a pointer can do, as Firefox counts it: 1 coarse, 2 fine, 4 hovers."""

ADVICE = 'for --browser firefox, install Firefox and pip install "brightcanvas[browser]"'


def binary() -> str:
    """Where Firefox is.

    Raises:
        MachineError: there is none, or nothing to ask it with.
    """
    path = next((path for name in NAMES if (path := shutil.which(name))), None)
    if path is None:
        raise MachineError(f"no Firefox here: {ADVICE}")
    if importlib.util.find_spec("websocket") is None:
        raise MachineError(f"Firefox can't be asked: {ADVICE}")
    return path


class RefusedError(MachineError):
    """Firefox answered, and didn't do it."""


class FirefoxWindow:
    """One window; see ``Window``."""

    name = "Firefox"

    def __init__(self, path: str, reach: Reach | None, preferences: str = "") -> None:
        self.port = reach.port if reach else 0
        self._world = {"sandbox": WORLD} if reach else {}  # a page of our own hides nothing
        preferences += reach.preferences if reach else ""
        self._profile = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        folder = Path(self._profile.name)
        (folder / "user.js").write_text(PREFERENCES + preferences, encoding="utf-8")
        command = [
            path, "--headless", "--no-remote", "--remote-debugging-port", "0",
            "--profile", self._profile.name,
        ]  # fmt: skip
        self._log = (folder / "told.txt").open("w+b")
        self._running = subprocess.Popen(
            command, stdout=subprocess.DEVNULL, stderr=self._log, env=os.environ, **APART
        )
        self._number, self._said = 0, list[str]()
        try:
            self._line = self._connected()
            self.ask("session.new", capabilities={})
            self.ask("session.subscribe", events=["log.entryAdded"])
            self._context = self.ask("browsingContext.getTree")["contexts"][0]["context"]
            self.ask("script.addPreloadScript", functionDeclaration=f"() => {QUIET}")
        except BaseException:
            self._end()
            raise

    def _connected(self) -> Any:  # noqa: ANN401
        from websocket import WebSocketException, create_connection

        try:
            return create_connection(
                f"{self._address()}/session", timeout=PATIENCE, suppress_origin=True
            )
        except (OSError, WebSocketException) as error:
            raise MachineError(f"Firefox doesn't answer ({error}); try it again") from error

    def _address(self) -> str:
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until and self._running.poll() is None:
            told = Path(self._log.name).read_text("utf-8", "replace")
            if found := re.search(r"ws://\S+", told):
                return found[0]
            time.sleep(0.1)
        raise MachineError("Firefox never said where it listens; try it again")

    def ask(self, method: str, **parameters: Any) -> Any:  # noqa: ANN401
        """A command of the protocol, and its answer."""
        from websocket import WebSocketException, WebSocketTimeoutException

        self._number += 1
        asked = {"id": self._number, "method": method, "params": parameters}
        try:
            self._line.send(json.dumps(asked))
            while True:
                answer = json.loads(self._line.recv())
                if answer.get("id") == self._number:
                    break
                if answer.get("method") == "log.entryAdded":
                    self._said.append(str(answer["params"].get("text") or ""))
        except (TimeoutError, WebSocketTimeoutException) as error:
            raise MachineError(f"Firefox {SILENT}") from error
        except (OSError, WebSocketException) as error:
            raise MachineError(f"Firefox fell silent ({error}); try it again") from error
        if answer["type"] != "success":
            raise RefusedError(f"Firefox refused {method}: {answer.get('message', answer)}")
        return answer["result"]

    def tell(self, method: str, **parameters: Any) -> Any:  # noqa: ANN401
        """A command about this window's page."""
        return self.ask(method, context=self._context, **parameters)

    def resize(self, viewer: Viewer) -> None:
        """Any width, and any density, in whole CSS px; a touched screen is one by preference."""
        size = {"width": round(viewer.width), "height": round(viewer.height)}
        self.tell("browsingContext.setViewport", viewport=size, devicePixelRatio=viewer.density)

    def open(self, url: str) -> None:
        """See ``Window``; the server forbids keeping anything."""
        try:
            self.tell("browsingContext.navigate", url=url, wait="complete")
        except RefusedError:  # a frame of another host, whose door is shut, counts as the page
            self._wait_until_complete(url)

    def _wait_until_complete(self, url: str) -> None:
        """Wait for a page that is there although its navigation was called failed.

        Raises:
            MachineError: another page, or none, is there.
        """
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            address, state = self.evaluate("[document.URL, document.readyState]")
            if address.split("#")[0] != url.split("#")[0]:
                break
            if state == "complete":
                return
            time.sleep(0.1)
        raise MachineError(f"Firefox could not open {url}")

    def evaluate(self, expression: str) -> Any:  # noqa: ANN401
        """See ``Window``."""
        told = self.ask(
            "script.evaluate",
            expression=f"(async () => JSON.stringify(await ({expression})))()",
            target={"context": self._context, **self._world},
            awaitPromise=True,
        )
        if told["type"] == "exception":
            said = told["exceptionDetails"]["text"]
            raise MachineError(f"the page was in the way: {said}")
        text = told["result"].get("value")
        return json.loads(text) if text else None

    def screenshot(self, scale: float = 1.0) -> bytes:  # noqa: ARG002 - it knows one size
        """See ``Window``."""
        return b64decode(self.tell("browsingContext.captureScreenshot")["data"])

    def console(self) -> list[str]:
        """See ``Window``."""
        self.evaluate("1")  # what was said before is told before the answer
        said, self._said = self._said, []
        return said

    def close(self) -> None:
        """End the browser, also where it doesn't answer."""
        self._line.close(timeout=PARTING)
        self._end()

    def _end(self) -> None:
        self._running.terminate()
        with suppress(subprocess.TimeoutExpired):
            self._running.wait(PARTING)
        kill_all(self._running)
        self._log.close()
        self._profile.cleanup()


def pointer_preferences(*, touched: bool) -> str:
    """What makes its pointer a finger, or a mouse."""
    does = TOUCHED if touched else UNTOUCHED
    return "".join(
        f'user_pref("ui.{which}PointerCapabilities", {does});\n' for which in ("primary", "all")
    )


@contextmanager
def firefox_window(*named: str, touched: bool = False) -> Iterator[FirefoxWindow]:
    """A window that asks nobody but its port of this machine.

    Args:
        named: hosts that it reaches as well, such as ``http://localhost:8000``.
        touched: whether its pointer is a finger.

    Raises:
        MachineError: there is no Firefox, or it can't be started.
    """
    window = FirefoxWindow(binary(), Reach(named=named), pointer_preferences(touched=touched))
    try:
        yield window
    finally:
        window.close()
