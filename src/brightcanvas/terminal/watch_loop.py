"""``bright-canvas build --watch``."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from brightcanvas.pipeline.watching import Watched, sources_of, state_of
from brightcanvas.values.errors import BrightCanvasError, ExitStatus

if TYPE_CHECKING:
    from pathlib import Path

    from brightcanvas.terminal.streams import Streams

PAUSE = 0.15
"""Seconds between two looks at the files."""

SETTLED = 0.1
"""Seconds that files must stay as they are: programs save in several steps."""


Step = Callable[[], ExitStatus]


def watch(brief: Path, streams: Streams, draft: Step, build: Step) -> ExitStatus:
    """Build, then again after every change of the brief or its sources, until Ctrl-C.

    A draft comes first each time, so that there is something to look at.
    """
    while True:
        before = state_of(_files(brief))
        if _built(draft, streams) is ExitStatus.ALL_WELL:
            _built(build, streams)
        streams.note("Watching the brief and its sources. Ctrl-C ends it.")
        changed = _next_change(brief, before)
        streams.note(f"Changed: {', '.join(sorted(path.name for path in changed))}")


def _files(brief: Path) -> tuple[Path, ...]:
    return (brief, *sources_of(brief))


def _built(build: Step, streams: Streams) -> ExitStatus:
    """A mistake in the brief does not end the watch: it is about to be mended."""
    streams.begin()
    try:
        return build()
    except BrightCanvasError as error:
        streams.fail(str(error), error.status)
        return error.status
    except OSError as error:  # a file that is being saved, a name that can't be
        streams.fail(f"{error.filename}: {error.strerror}", ExitStatus.MACHINE_FAILED)
        return ExitStatus.MACHINE_FAILED


def _next_change(brief: Path, before: Watched) -> set[Path]:
    while True:
        time.sleep(PAUSE)
        now = state_of(_files(brief))
        if now != before:
            break
    while True:
        time.sleep(SETTLED)
        later = state_of(_files(brief))
        if later == now:
            return {path for path in {*before, *now} if before.get(path) != now.get(path)}
        now = later
