"""Firefox, asked through the W3C's WebDriver BiDi protocol, which it speaks by itself."""

from __future__ import annotations

import json
import os
import re
import subprocess
import tempfile
import time
from base64 import b64decode
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

from brightcanvas.browsers import programs
from brightcanvas.browsers.protocol_line import Message, ProtocolLine
from brightcanvas.browsers.window import (
    APART,
    IS_LOADED,
    MOST_LOADS,
    MOST_SECONDS,
    QUIET,
    WORLD,
    Reach,
    kill_all,
)
from brightcanvas.values.environments import Environment
from brightcanvas.values.errors import MachineError

TIMEOUT = MOST_SECONDS
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

BETWEEN = 0.1
"""Seconds between two documents of a page that loads itself again."""

PARTING = 1.0
"""Seconds for it to end, before it is made to."""

UNTOUCHED, TOUCHED = 6, 1
"""What a pointer can do, as Firefox counts it: 1 coarse, 2 fine, 4 hovers."""

IS_COMPLETE = f"{IS_LOADED} && (!!document.body || !document.head)"

ERROR = "about:neterror"
"""What is shown in place of a page that can't be had; its query names it as ``u``."""


class RefusedError(MachineError):
    """Firefox answered, and didn't do it."""


class FirefoxWindow:
    """One window; see ``Window``."""

    name = "Firefox"

    def __init__(
        self, path: str, reach: Reach | None, preferences: str = "", density: float = 1.0
    ) -> None:
        """``density``: its px are really so dense; another one is only what it says of itself."""
        self.port = reach.port if reach else 0
        self._density = density
        self._world = {"sandbox": WORLD} if reach else {}  # a page of our own hides nothing
        preferences += reach.preferences if reach else ""
        preferences += f'user_pref("layout.css.devPixelsPerPx", "{density}");\n'
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
        self._said = list[str]()
        try:
            self._line = ProtocolLine("Firefox", f"{self._address()}/session", TIMEOUT, self._heard)
            self.ask("session.new", capabilities={})
            self.ask("session.subscribe", events=["log.entryAdded"])
            self._context = self.ask("browsingContext.getTree")["contexts"][0]["context"]
            self.ask("script.addPreloadScript", functionDeclaration=f"() => {QUIET}")
        except BaseException:
            self._end()
            raise

    def _address(self) -> str:
        until = time.monotonic() + TIMEOUT
        while time.monotonic() < until and self._running.poll() is None:
            told = Path(self._log.name).read_text("utf-8", "replace")
            if found := re.search(r"ws://\S+", told):
                return found[0]
            time.sleep(0.1)
        raise MachineError("Firefox never said where it listens; try it again")

    def ask(self, method: str, **parameters: Any) -> Any:  # noqa: ANN401
        """A command of the protocol, and its answer.

        Raises:
            RefusedError: it isn't done.
            MachineError: the browser is silent, or gone.
        """
        answer = self._line.ask({"method": method, "params": parameters}, TIMEOUT)
        if answer["type"] != "success":
            raise RefusedError(f"Firefox refused {method}: {answer.get('message', answer)}")
        return answer["result"]

    def _heard(self, told: Message) -> None:
        if told["method"] == "log.entryAdded":
            self._said.append(str(told["params"].get("text") or ""))

    def tell(self, method: str, **parameters: Any) -> Any:  # noqa: ANN401
        """A command about this window's page."""
        return self.ask(method, context=self._context, **parameters)

    def resize(self, environment: Environment, drawn: float = 1.0) -> None:  # noqa: ARG002
        """Any width, and any density, in whole CSS px; a touched screen is one by preference."""
        size = {"width": round(environment.width), "height": round(environment.height)}
        density = environment.density
        said = {} if density == self._density else {"devicePixelRatio": density}
        self.tell("browsingContext.setViewport", viewport=size, **said)

    def leave(self) -> None:
        """See ``Window``."""
        self.tell("browsingContext.navigate", url="about:blank", wait="complete")

    def open(self, url: str) -> None:
        """See ``Window``; the server forbids keeping anything.

        Raises:
            MachineError: it can't be opened within ``TIMEOUT``.
        """
        with suppress(RefusedError):  # a frame that another host keeps back counts too
            self.tell("browsingContext.navigate", url=url, wait="complete")
        until = time.monotonic() + TIMEOUT
        while not self._is_complete(url):
            if time.monotonic() > until:
                raise MachineError(f"Firefox could not open {url}")
            time.sleep(0.1)

    def _is_complete(self, url: str) -> bool:
        """Whether the page is there, whatever was said of its navigation.

        A page that loads itself with another query leaves an empty document for a moment; one
        that sends its readers to where nobody gets is there, as the refusal of that place.

        Raises:
            MachineError: its host was refused.
        """
        try:
            address, state = self._evaluate(f"[document.URL, {IS_COMPLETE}]")
        except RefusedError:  # between two documents
            return False
        refused = parse_qs(urlsplit(address).query).get("u") if address.startswith(ERROR) else None
        if refused and urlsplit(refused[0]).netloc == urlsplit(url).netloc:
            raise MachineError(f"Firefox could not open {url}")
        return bool(state or refused)

    def evaluate(self, expression: str) -> Any:  # noqa: ANN401
        """See ``Window``.

        Raises:
            MachineError: the expression throws.
        """
        for _ in range(MOST_LOADS):
            try:
                return self._evaluate(expression)
            except RefusedError:  # the page was loaded again while it ran
                time.sleep(BETWEEN)
        return self._evaluate(expression)

    def _evaluate(self, expression: str) -> Any:  # noqa: ANN401
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
        self._line.close(PARTING)
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
def firefox_window(
    *named: str, port: int = 0, touched: bool = False, density: float = 1.0
) -> Iterator[FirefoxWindow]:
    """A window that asks nobody but its port of this machine.

    Args:
        named: hosts that it reaches as well, such as ``http://localhost:8000``.
        port: of this machine; 0: a free one.
        touched: whether its pointer is a finger.
        density: device px per CSS px.

    Raises:
        MachineError: there is no Firefox, or it can't be started.
    """
    reach = Reach(port, named) if port else Reach(named=named)
    preferences = pointer_preferences(touched=touched)
    window = FirefoxWindow(programs.FIREFOX.path(), reach, preferences, density)
    try:
        yield window
    finally:
        window.close()
