"""What a watch looks at: the brief, and the sources that it names."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path

from brightcanvas.brief.loading import load_brief
from brightcanvas.values.errors import BrightCanvasError

Watched = Mapping[Path, tuple[int, int] | None]
"""Size and time of change (nanoseconds) of each file; None where it is not there."""


def sources_of(brief: Path) -> tuple[Path, ...]:
    """The sources that a brief names; none while it is wrong."""
    try:
        loaded = load_brief(brief)
    except BrightCanvasError:
        return ()
    offers = (one for each in loaded.backdrops for slot in each.slots for one in slot.offers)
    return tuple(dict.fromkeys(offer.source for offer in offers))


def state_of(paths: Iterable[Path]) -> Watched:
    """How the files are now."""
    return {path: _state(path) for path in paths}


def _state(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_size, found.st_mtime_ns
