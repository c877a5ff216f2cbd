"""A window of a real browser, whichever it is."""

from __future__ import annotations

from typing import Any, Protocol

from brightcanvas.css.screens import Viewer


class Window(Protocol):
    """One window, with one page in it."""

    name: str
    """Of the browser."""

    def resize(self, viewer: Viewer) -> None:
        """Give it a viewport (whole CSS px) and a density; whether it is touched too."""

    def open(self, url: str) -> None:
        """Load a page afresh, nothing kept from before, and wait until it has loaded."""

    def evaluate(self, expression: str) -> Any:  # noqa: ANN401 - whatever JSON can hold
        """The value of a JavaScript expression in the page; promises are waited for."""

    def screenshot(self, scale: float = 1.0) -> bytes:
        """The viewport as PNG; smaller by ``scale`` (0..1) where the browser can."""

    def console(self) -> list[str]:
        """What the page's console has said since this was asked last."""

    def close(self) -> None:
        """End the browser."""
