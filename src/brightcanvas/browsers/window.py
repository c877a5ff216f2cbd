"""A window of a real browser, whichever it is."""

from __future__ import annotations

from typing import Any, Protocol

from brightcanvas.css.screens import Viewer

QUIET = """(() => {
  const answers = { alert: undefined, confirm: false, prompt: null, print: undefined, open: null };
  for (const [name, answer] of Object.entries(answers)) window[name] = () => answer;
})()"""
"""Before a page's own scripts: none of them waits for an answer, and none opens windows."""

MOST_SECONDS = 50.0
"""For a page to load."""

SILENT = (
    f"didn't answer within {MOST_SECONDS:.0f} s: a script of the page keeps it busy, or this"
    " machine is; try it on a copy of the page without that script"
)
"""What is told of a browser then."""

WORLD = "brightcanvas"
"""Our scripts run beside the page's, with objects of their own: what a page overrides, we don't
see."""


class Window(Protocol):
    """One window, with one page in it."""

    name: str
    """Of the browser."""

    port: int
    """Of this machine, on which pages are served to it: it reaches no other."""

    def resize(self, viewer: Viewer) -> None:
        """Give it a viewport (whole CSS px) and a density; whether it is touched too."""

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
