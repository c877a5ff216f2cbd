"""A window of a real browser, whichever it is: what its pages reach, and how its processes end.

A page reaches the one server of ours that serves it, and who is named. All else is sent to that
server as to a proxy, which hands nothing on. So neither another host nor another port of this
machine hears of a page that is looked at.
"""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any, Protocol
from urllib.parse import urlsplit

from brightcanvas.values.environments import Environment

QUIET = """(() => {
  const answers = { alert: undefined, confirm: false, prompt: null, print: undefined, open: null };
  for (const [name, answer] of Object.entries(answers)) window[name] = () => answer;
})()"""
"""Before a page's own scripts: none of them waits for an answer, and none opens windows."""

MOST_LOADS = 3
"""Times that a page may load itself while it is opened, with a query say."""

MOST_SECONDS = 40.0
"""For a page to load."""

SILENT = (
    f"didn't answer within {MOST_SECONDS:.0f} s: a script of the page keeps it busy, or this"
    " machine is; try it on a copy of the page without that script"
)
"""What is told of a browser then."""

IS_LOADED = """(() => {
  const loads = performance.getEntriesByType("navigation");
  const was_read = loads.some((one) => one.domInteractive);
  return document.readyState === "complete" || (document.readyState === "loading" && was_read);
})()"""
"""Whether a page is there. One that a script has written anew is never complete again: it is being
read, and has been read to its end before."""

WORLD = "brightcanvas"
"""Our scripts run beside the page's, with objects of their own: what a page overrides, we don't
see."""


class Window(Protocol):
    """One window, with one page in it."""

    name: str
    """Of the browser."""

    port: int
    """Of this machine, on which pages are served to it: it reaches no other."""

    def resize(self, environment: Environment, drawn: float = 1.0) -> None:
        """Give it a viewport (whole CSS px) and a density; whether it is touched too.

        ``drawn``: 0..1, where the browser can, it is drawn so much smaller, and lies as it would.
        """

    def leave(self) -> None:
        """Close the page that is open: another size would only have it drawn once more."""

    def open(self, url: str) -> None:
        """Load a page afresh, nothing kept from before, and wait until it has loaded.

        Raises:
            MachineError: it doesn't within ``MOST_SECONDS``, or the browser fails.
        """

    def evaluate(self, expression: str) -> Any:  # noqa: ANN401 - whatever JSON can hold
        """The value of a JavaScript expression on the page; promises are waited for."""

    def screenshot(self, scale: float = 1.0) -> bytes:
        """The viewport as PNG; smaller by ``scale`` (0..1) where the browser can."""

    def console(self) -> list[str]:
        """What the page's console has said since this was asked last."""

    def close(self) -> None:
        """End the browser."""


LOOPBACK = "127.0.0.1"


def free_port() -> int:
    """A port of this machine that nobody listens on."""
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as tried:
        tried.bind((LOOPBACK, 0))
        return int(tried.getsockname()[1])


@dataclass(frozen=True)
class Reach:
    """A port on which pages are served to a browser, and the servers that people named."""

    port: int = field(default_factory=free_port)
    named: tuple[str, ...] = ()
    """Such as ``http://localhost:8000``."""

    @property
    def hosts(self) -> tuple[str, ...]:
        """With their ports."""
        return (f"{LOOPBACK}:{self.port}", *(urlsplit(one).netloc for one in self.named))

    @property
    def switches(self) -> Iterator[str]:
        """For Chromium."""
        names = dict.fromkeys([LOOPBACK, *(urlsplit(one).hostname or "" for one in self.named)])
        yield f"--proxy-server={LOOPBACK}:{self.port}"
        yield f"--proxy-bypass-list=<-loopback>;{';'.join(self.hosts)}"
        yield "--host-resolver-rules=MAP * ~NOTFOUND, " + ", ".join(
            f"EXCLUDE {name}" for name in names
        )

    @property
    def preferences(self) -> str:
        """For Firefox."""
        shut: Sequence[tuple[str, str]] = [
            ("type", "1"),
            ("http", f'"{LOOPBACK}"'), ("http_port", str(self.port)),
            ("ssl", f'"{LOOPBACK}"'), ("ssl_port", str(self.port)),
            ("no_proxies_on", f'"{", ".join(self.hosts)}"'),
            ("allow_hijacking_localhost", "true"),
        ]  # fmt: skip
        return "".join(f'user_pref("network.proxy.{name}", {value});\n' for name, value in shut)


APART: dict[str, Any] = {"process_group": 0}
"""For ``Popen``: a group of its own, so that it can be ended whole; Windows has trees for that."""


def kill_all(process: subprocess.Popen[Any]) -> None:
    """End a process that was started ``APART``, and all that it has started, at once."""
    with suppress(OSError):
        if sys.platform == "win32":
            tree = ["taskkill", "/F", "/T", "/PID", str(process.pid)]
            subprocess.run(tree, capture_output=True, check=False)
        else:
            os.killpg(process.pid, signal.SIGKILL)
    process.wait()
