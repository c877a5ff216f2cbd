"""Chromium, asked through the DevTools protocol, which it speaks by itself."""

from __future__ import annotations

import json
import re
import subprocess
import tempfile
import time
from base64 import b64decode
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from brightcanvas.browsers import programs
from brightcanvas.browsers.protocol_line import Message, ProtocolLine, SilentError
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
from brightcanvas.values.environments import MEDIUM, Environment
from brightcanvas.values.errors import MachineError

SWITCHES = (
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--hide-scrollbars", "--disable-back-forward-cache",
    "--dns-prefetch-disable", "--disable-features=WebTransport", "--block-new-web-contents",
    "--blink-settings=primaryHoverType=2,availableHoverTypes=2,primaryPointerType=4,"
    "availablePointerTypes=4",
)  # fmt: skip

ALONE = (
    "--disable-default-apps", "--disable-client-side-phishing-detection", "--disable-breakpad",
    "--disable-hang-monitor", "--disable-prompt-on-repost", "--password-store=basic",
    "--use-mock-keychain", "--remote-debugging-port=0",
)  # fmt: skip
"""Switches of a browser that nobody looks at."""

NO_CALLS = {"webrtc": {"ip_handling_policy": "disable_non_proxied_udp"}}
"""Preferences: calls between browsers send no packets past the rules for hosts."""

TIMEOUT = MOST_SECONDS
"""Seconds until a browser that doesn't answer is given up."""

STARTING = (10.0, 15.0, 25.0)
"""Seconds for a browser to start, and for others where the first hangs."""

PARTING = 10.0
"""Seconds for it to end, before it is made to."""

LOADED = f"""new Promise((done) => (function look() {{
  if ({IS_LOADED}) done(true); else setTimeout(look, 20);
}})())"""

LOST = re.compile(
    r"execution context|context with specified id|context was destroyed|navigated or closed"
)
ABORTED = "net::ERR_ABORTED"
"""What is told of a page that sends its readers on at once, or of a download."""

RELOADS = "the page loads itself again and again; try it on a copy without the script that does so"


class LostError(MachineError):
    """The page was loaded again while our script ran on it."""


@contextmanager
def running(reach: Reach) -> Iterator[DevTools]:
    """A browser with one page, as long as it is needed; its profile is thrown away.

    Args:
        reach: of the pages in it.

    Raises:
        MachineError: there is none, or it can't be started.
    """
    tools = _started(programs.CHROMIUM.path(), [*SWITCHES, *ALONE, *reach.switches])
    try:
        yield tools
    except (KeyboardInterrupt, MachineError):  # it may be busy for ever
        tools.kill()
        raise
    finally:
        tools.end()


def _started(path: str, switches: Sequence[str]) -> DevTools:
    """A browser that has started: on a crowded machine one may hang for good."""
    silence: SilentError | None = None
    for seconds in STARTING:
        try:
            return DevTools(path, switches, seconds)
        except TimeoutError:
            silence = None
        except SilentError as error:
            silence = error
    raise silence or MachineError(
        f"Chromium didn't start, tried {len(STARTING)} times within {sum(STARTING):.0f} s: this"
        " machine is too busy; try it again"
    )


class DevTools:
    """A browser's process, and the line to its one page."""

    def __init__(self, path: str, switches: Sequence[str], seconds: float) -> None:
        """Start it.

        Args:
            path: of the program.
            switches: for it.
            seconds: for it to start.

        Raises:
            TimeoutError: it hasn't said by then where it listens.
            SilentError: it listens, and doesn't answer.
            MachineError: it ended at once.
        """
        self._profile = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self._said: list[str] = []
        self._until = 0.0
        """When commands under way have to be done; 0: each has its own time."""
        self._page: Message = {}
        self._line: ProtocolLine | None = None
        folder = Path(self._profile.name)
        (folder / "Default").mkdir()
        (folder / "Default/Preferences").write_text(json.dumps(NO_CALLS), "utf-8")
        quiet = subprocess.DEVNULL
        self._process = subprocess.Popen(
            [path, *switches, f"--user-data-dir={folder}", "about:blank"],
            stdin=quiet, stdout=quiet, stderr=quiet, **APART,
        )  # fmt: skip
        try:
            address = self._address(folder / "DevToolsActivePort", time.monotonic() + seconds)
            self._line = ProtocolLine("Chromium", address, seconds, self._heard)
            with self.within(seconds):
                self._attach(self._first_page())
        except BaseException:
            self.kill()
            self._profile.cleanup()
            raise

    def _address(self, told: Path, until: float) -> str:
        """Where it listens, which it writes into its profile: a port, and a path."""
        while time.monotonic() < until:
            if (status := self._process.poll()) is not None:
                raise MachineError(f"Chromium ended when it was started, with status {status}")
            with suppress(OSError, ValueError):
                port, path = told.read_text("utf-8").split()
                return f"ws://127.0.0.1:{int(port)}{path}"
            time.sleep(0.02)
        raise TimeoutError

    def _first_page(self) -> str:
        """The target that it opens by itself, which may not be there at once."""
        while True:
            targets = self.tell("Target.getTargets")["targetInfos"]
            if pages := [one["targetId"] for one in targets if one["type"] == "page"]:
                return str(pages[0])
            time.sleep(0.02)

    def _attach(self, page: str) -> None:
        """To a page, whose console is told from then on."""
        session = self.tell("Target.attachToTarget", targetId=page, flatten=True)["sessionId"]
        self._page = {"sessionId": session}
        for domain in ("Page", "Runtime", "Log"):
            self.tell(f"{domain}.enable")

    def tell(self, command: str, **said: Any) -> Any:  # noqa: ANN401
        """A command, and its answer.

        Raises:
            LostError: the page that it was for is gone.
            MachineError: the browser doesn't answer, or can't do it.
        """
        asked = {"method": command, "params": said, **self._page}
        left = self._until - time.monotonic() if self._until else TIMEOUT
        answer = self._open_line.ask(asked, min(left, TIMEOUT))
        if error := answer.get("error"):
            raise _failure(str(error.get("message", error)))
        return answer["result"]

    @contextmanager
    def within(self, seconds: float) -> Iterator[None]:
        """All commands together have so many seconds."""
        self._until = time.monotonic() + seconds
        try:
            yield
        finally:
            self._until = 0.0

    def _heard(self, told: Message) -> None:
        """Note what the console says; a dialog is put away.

        Raises:
            MachineError: the page is gone, and will never answer.
        """
        method, said = told["method"], told["params"]
        if method == "Inspector.targetCrashed":
            raise MachineError("the page crashed Chromium; try it on a copy without its scripts")
        if method == "Page.javascriptDialogOpening":
            answer = {"accept": said["type"] == "beforeunload"}
            self._open_line.send(
                {"method": "Page.handleJavaScriptDialog", "params": answer, **self._page}
            )
        elif (line := console_line(method, said)) is not None:
            self._said.append(line)

    @property
    def _open_line(self) -> ProtocolLine:
        if self._line is None:
            raise MachineError("Chromium isn't connected")
        return self._line

    def said(self) -> list[str]:
        """What the console has said since this was asked last."""
        self.tell("Runtime.evaluate", expression="1")  # what was said before is told before this
        said, self._said = self._said, []
        return said

    def end(self) -> None:
        """End it, also where it doesn't answer any more."""
        if self._process.poll() is None:
            with suppress(MachineError):
                self._open_line.ask({"method": "Browser.close"}, PARTING)
            with suppress(subprocess.TimeoutExpired):
                self._process.wait(PARTING)
        self.kill()
        self._profile.cleanup()

    def kill(self) -> None:
        """End it and all that it has started, at once."""
        kill_all(self._process)
        if self._line:
            self._line.close()


def _failure(said: str) -> MachineError:
    """What has happened, as people are told."""
    if LOST.search(said):
        return LostError(f"Chromium: {RELOADS}")
    return MachineError(f"Chromium failed ({said}); try it again")


def console_line(method: str, said: Message) -> str | None:
    """A warning or an error of the console with its place; None: nothing that worries anybody."""
    if method == "Log.entryAdded" and said["entry"]["level"] in ("warning", "error"):
        entry = said["entry"]
        return _placed(entry.get("url", ""), entry.get("lineNumber"), entry["text"])
    if method == "Runtime.exceptionThrown":
        details = said["exceptionDetails"]
        thrown = details.get("exception", {}).get("description", details["text"])
        return _placed(details.get("url", ""), details["lineNumber"], thrown.splitlines()[0])
    if method == "Runtime.consoleAPICalled" and said["type"] in ("warning", "error", "assert"):
        words = (str(one.get("value", one.get("description", ""))) for one in said["args"])
        frames = said.get("stackTrace", {}).get("callFrames") or [{}]
        return _placed(frames[0].get("url", ""), frames[0].get("lineNumber"), " ".join(words))
    return None


def _placed(url: str, line: int | None, text: str) -> str:
    return f"{url or 'page'} {'-' if line is None else line + 1} {text}"


def emulation(environment: Environment, drawn: float = 1.0) -> Iterator[tuple[str, dict[str, Any]]]:
    """The DevTools commands that make a window this one: a phone has a mobile viewport.

    A browser that isn't told to be a phone heeds no viewport tag, and judges hints otherwise.
    """
    is_touched = environment.word("pointer") == "coarse"
    yield "Emulation.setDeviceMetricsOverride", {
        "width": round(environment.width), "height": round(environment.height),
        "deviceScaleFactor": environment.density, "mobile": is_touched, "scale": drawn,
    }  # fmt: skip
    yield "Emulation.setTouchEmulationEnabled", {"enabled": is_touched, "maxTouchPoints": 5}
    paper = "" if environment.word(MEDIUM) == "screen" else environment.word(MEDIUM)
    features = [
        {"name": axis, "value": word} for axis, word in environment.said.items() if axis != MEDIUM
    ]
    yield "Emulation.setEmulatedMedia", {"media": paper, "features": features}


class ChromiumWindow:
    """One window; see ``Window``."""

    name = "Chromium"

    def __init__(self, tools: DevTools, port: int) -> None:
        self._tools = tools
        self.port = port
        self._world = 0
        """In which our scripts run on the page that is open; 0: in none yet."""
        self._emulated: dict[str, dict[str, Any]] = {}
        """What was last said by each command of ``emulation``: each takes a drawn frame."""
        self.tell("Page.addScriptToEvaluateOnNewDocument", source=QUIET)

    def tell(self, command: str, **said: Any) -> Any:  # noqa: ANN401
        """A command of the DevTools protocol, and its answer."""
        return self._tools.tell(command, **said)

    def resize(self, environment: Environment, drawn: float = 1.0) -> None:
        """Emulated: whole px only, down to the narrowest."""
        for command, said in emulation(environment, drawn):
            if self._emulated.get(command) != said:
                self.tell(command, **said)
                self._emulated[command] = said

    def leave(self) -> None:
        """See ``Window``."""
        self.tell("Page.navigate", url="about:blank")

    def open(self, url: str) -> None:
        """With an empty cache, and no page open that could still read from it.

        Raises:
            MachineError: it can't be opened within ``MOST_SECONDS``.
        """
        with self._tools.within(MOST_SECONDS):
            self.leave()
            self.tell("Network.clearBrowserCache")
            told = self.tell("Page.navigate", url=url).get("errorText")
            if told and told != ABORTED:
                raise MachineError(f"Chromium could not open {url} ({told})")
            self._enter()
            self.evaluate(LOADED)

    def _enter(self) -> None:
        frame = self.tell("Page.getFrameTree")["frameTree"]["frame"]["id"]
        world = self.tell("Page.createIsolatedWorld", frameId=frame, worldName=WORLD)
        self._world = world["executionContextId"]

    def evaluate(self, expression: str) -> Any:  # noqa: ANN401
        """See ``Window``."""
        for _ in range(MOST_LOADS):
            try:
                return self._evaluate(expression)
            except LostError:
                self._enter()
        return self._evaluate(expression)

    def _evaluate(self, expression: str) -> Any:  # noqa: ANN401
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
        return self._tools.said()

    def close(self) -> None:
        """Its process ends with ``running``."""


@contextmanager
def chromium_window(*named: str) -> Iterator[ChromiumWindow]:
    """A window that asks nobody but its port of this machine; see ``running``.

    Args:
        named: hosts that it reaches as well, such as ``http://localhost:8000``.
    """
    reach = Reach(named=named)
    with running(reach) as tools:
        yield ChromiumWindow(tools, reach.port)
