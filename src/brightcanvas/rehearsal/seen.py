"""What a real browser did with a page."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.css.screens import Viewer


@dataclass(frozen=True)
class SeenLoad:
    """One load."""

    asked: tuple[str, ...]
    """The paths that it asked for, in order, by the server's log."""
    largest: float | None
    """Seconds until the largest thing in view was painted; None: nothing counted."""
    largest_url: str
    """Its file; empty where it is text."""
    arrived: float
    """Seconds until the page was read and that file was there, as the browser tells."""
    shift: float
    """Layout shift score."""
    console: tuple[str, ...]
    """What the console said; Firefox doesn't tell."""
    window: Viewer | None = None
    """Where it may differ from what was wanted."""

    @property
    def own(self) -> float | None:
        """Seconds of the browser's own, from the last byte until the largest paint."""
        return self.largest - self.arrived if self.largest is not None else None
