"""The WebKit of this machine's GTK, in windows on a screen that nobody sees."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import tempfile
import threading
from collections.abc import Iterator, Mapping
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any

from brightcanvas.browsers.window import APART, MOST_SECONDS, QUIET, SILENT, WORLD, kill_all
from brightcanvas.values.environments import Environment
from brightcanvas.values.errors import MachineError

PYTHON = "/usr/bin/python3"
"""The system's own: GTK's modules belong to it."""

NEEDED = "gir1.2-webkit2-4.1, python3-gi, python3-gi-cairo and xvfb"
"""Debian's packages."""

_PROGRAM = Path(__file__).with_name("webkit_process.py")

LONGEST_LOAD = 35
"""Seconds after which a load is told as it is."""

TRIES = 2
"""Windows that are tried: on a crowded machine one may never open."""

LEAST_SCREEN = (2600, 1500)
"""Px of the screen: most windows fit, so that it is seldom made anew."""


def is_here() -> bool:
    """Whether WebKit can be had: its library for GTK, and a screen that nobody sees."""
    if shutil.which("Xvfb") is None or not Path(PYTHON).exists():
        return False
    tried = 'import gi; gi.require_version("WebKit2", "4.1"); gi.require_version("Gtk", "3.0")'
    ran = subprocess.run([PYTHON, "-c", tried], capture_output=True, check=False)
    return ran.returncode == 0


class WebKitWindow:
    """One window; see ``Window``. Each page is loaded with nothing kept from before."""

    name = "WebKit"
    port = 0
    """It reaches the server of the page that it opens, whichever that is."""

    def __init__(self, *, is_mute: bool = False) -> None:
        """``is_mute``: clips may not start by themselves."""
        self._is_mute = is_mute
        self._environment = Environment(1280, 800)
        self._process: _Process | None = None

    def resize(self, environment: Environment, drawn: float = 1.0) -> None:  # noqa: ARG002
        """From the next load on; whole CSS px, and a whole density."""
        self._environment = environment

    def leave(self) -> None:
        """Nothing: each page has a window of its own."""

    def open(self, url: str) -> None:
        """See ``Window``.

        Raises:
            MachineError: a window can't be opened.
        """
        for left in reversed(range(TRIES)):
            try:
                self._open(url)
                return
            except MachineError:
                self.close()
                if not left:
                    raise

    def _open(self, url: str) -> None:
        wanted = self._environment
        width, height = round(wanted.width), round(wanted.height)
        is_calm = wanted.word("prefers-reduced-motion") == "reduce"
        self._process_for(width, height, max(1, round(wanted.density))).ask(
            do="open", url=url, width=width, height=height, calm=is_calm, mute=self._is_mute
        )

    def _process_for(self, width: int, height: int, scale: int) -> _Process:
        """What has a screen of that scale with room for a window."""
        now = self._process
        if now and now.is_alive and now.scale == scale and now.holds(width * scale, height * scale):
            return now
        self.close()
        self._process = _Process(width * scale, height * scale, scale)
        return self._process

    def evaluate(self, expression: str) -> Any:  # noqa: ANN401
        """See ``Window``."""
        return self._opened.ask(do="evaluate", script=expression)

    def screenshot(self, scale: float = 1.0) -> bytes:  # noqa: ARG002 - it knows one size
        """See ``Window``."""
        path = self._opened.home / "seen.png"
        self._opened.ask(do="screenshot", path=str(path))
        return path.read_bytes()

    @property
    def _opened(self) -> _Process:
        if self._process is None:
            raise MachineError("WebKit has no page open")
        return self._process

    def console(self) -> list[str]:
        """Nothing: it doesn't tell."""
        return []

    def close(self) -> None:
        """End the browser and its screen."""
        if self._process:
            self._process.end()
            self._process = None


class _Process:
    """WebKit's program on a screen of its own."""

    def __init__(self, width: int, height: int, scale: int) -> None:
        """``width`` and ``height``: px that the screen has at least."""
        self.scale = scale
        self._size = (max(width, LEAST_SCREEN[0]), max(height, LEAST_SCREEN[1]))
        with ExitStack() as stack:
            home = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
            self.home = Path(stack.enter_context(home))
            display = stack.enter_context(_screen(*self._size))
            env = {
                **os.environ, **_surroundings(str(self.home)), "DISPLAY": display,
                "GDK_SCALE": str(scale),
            }  # fmt: skip
            self._log = stack.enter_context((self.home / "told.txt").open("w+b"))
            self._running = subprocess.Popen(
                [PYTHON, str(_PROGRAM), QUIET, WORLD, str(LONGEST_LOAD)], env=env,
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=self._log, **APART,
            )  # fmt: skip
            self._stack = stack.pop_all()

    @property
    def is_alive(self) -> bool:
        """Whether it can be asked."""
        return self._running.poll() is None

    def holds(self, width: int, height: int) -> bool:
        """Whether a window of so many px has room."""
        return width <= self._size[0] and height <= self._size[1]

    def ask(self, **asked: Any) -> Any:  # noqa: ANN401
        """Have something done; its value.

        Raises:
            MachineError: it fails, or never answers.
        """
        line = self._answer_to(json.dumps(asked).encode())
        if not line:
            raise MachineError(f"WebKit ended ({self._last_word()}); try it again")
        answer = json.loads(line)
        if "error" in answer:
            raise MachineError(f"the page was in the way: {answer['error']}")
        return answer["value"]

    def _answer_to(self, line: bytes) -> bytes:
        is_late = threading.Event()
        watch = threading.Timer(MOST_SECONDS, self._give_up, (is_late,))
        watch.start()
        try:
            return self._said_to(line)
        finally:
            watch.cancel()
            if is_late.is_set():
                raise MachineError(f"WebKit {SILENT}")

    def _said_to(self, line: bytes) -> bytes:
        """Its answer; nothing where it has ended."""
        assert self._running.stdin
        assert self._running.stdout
        try:
            self._running.stdin.write(line + b"\n")
            self._running.stdin.flush()
            answer: bytes = self._running.stdout.readline()
        except OSError:
            return b""
        return answer

    def _give_up(self, is_late: threading.Event) -> None:
        is_late.set()
        kill_all(self._running)

    def _last_word(self) -> str:
        told = (self.home / "told.txt").read_text("utf-8", "replace").strip()
        return told.splitlines()[-1] if told else "it said nothing"

    def end(self) -> None:
        """End it and its screen."""
        for end in (self._running.stdin, self._running.stdout):
            if end:
                end.close()
        kill_all(self._running)
        self._stack.close()


@contextmanager
def webkit_window(*, is_mute: bool = False) -> Iterator[WebKitWindow]:
    """A window, as long as it is needed; it reaches the server of its page alone.

    Args:
        is_mute: clips may not start by themselves.

    Raises:
        MachineError: there is no WebKit.
    """
    if not is_here():
        raise MachineError(f"no WebKit here: it needs Debian's {NEEDED}")
    window = WebKitWindow(is_mute=is_mute)
    try:
        yield window
    finally:
        window.close()


def _surroundings(home: str) -> Mapping[str, str]:
    return {
        "HOME": home, "XDG_RUNTIME_DIR": home, "XDG_CACHE_HOME": home, "XDG_DATA_HOME": home,
        "XDG_CONFIG_HOME": home, "WEBKIT_DISABLE_DMABUF_RENDERER": "1",
        "LIBGL_ALWAYS_SOFTWARE": "1", "NO_AT_BRIDGE": "1", "GDK_BACKEND": "x11",
    }  # fmt: skip


@contextmanager
def _screen(width: int, height: int) -> Iterator[str]:
    """A screen of so many px; its name for the environment."""
    told, tells = os.pipe()
    command = ["Xvfb", "-displayfd", str(tells), "-screen", "0", f"{width}x{height}x24"]
    command += ["-nolisten", "tcp"]
    quiet = subprocess.DEVNULL
    with subprocess.Popen(command, pass_fds=[tells], stdout=quiet, stderr=quiet) as running:
        try:
            os.close(tells)
            with os.fdopen(told) as said:
                number = said.readline().strip()  # it has to stay open until the line is whole
            if not number:
                raise MachineError("Xvfb could not be started")
            yield f":{number}"
        finally:
            running.terminate()
