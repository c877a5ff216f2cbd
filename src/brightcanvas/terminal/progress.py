"""A progress line on a terminal, silence elsewhere."""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING, TextIO

from rich.console import Console
from rich.progress import BarColumn, Progress, TaskID, TextColumn, TimeRemainingColumn

from brightcanvas.terminal.streams import harmless
from brightcanvas.values.work import FramesDone, Told, Watcher, listening, nobody

if TYPE_CHECKING:
    from collections.abc import Iterator


@contextmanager
def watched(stream: TextIO) -> Iterator[Watcher]:
    """A watcher that draws on ``stream`` while the work goes on."""
    if not stream.isatty():
        yield Watcher()
        return
    columns = (
        TextColumn("Making"),
        BarColumn(),
        TextColumn("{task.fields[count]}"),
        TimeRemainingColumn(),
        TextColumn("{task.description}", markup=False),
    )
    with Progress(*columns, console=Console(file=stream), transient=True) as progress:
        line = _Line(progress)
        with listening(line.frame):
            yield Watcher(starts=line.starts, done=line.done)


@contextmanager
def counted(stream: TextIO, what: str) -> Iterator[Told]:
    """Who is told how many steps are done, of a number that nobody knows before."""
    if not stream.isatty():
        yield nobody
        return
    columns = (TextColumn(what), TextColumn("{task.completed:.0f}"))
    with Progress(*columns, console=Console(file=stream), transient=True) as progress:
        line = progress.add_task("", total=None)
        yield lambda done: progress.update(line, completed=done)


class _Line:
    """The files that are made, and of a clip that is under way the frames.

    An encode of a clip takes as long as many pictures: while one is under way its frames fill the
    bar, and the time that is told is that of the encode.
    """

    def __init__(self, progress: Progress) -> None:
        self._progress = progress
        self._files = progress.add_task("", count="")
        self._clips: dict[str, TaskID] = {}
        self._made, self._total = 0, 0

    def starts(self, total: int) -> None:
        """Files are to come."""
        self._total = total
        self._told()

    def done(self, name: str) -> None:
        """One is there."""
        self._made += 1
        self._told(harmless(name))

    def frame(self, step: FramesDone) -> None:
        """A frame of a clip is there; its last one takes the line away."""
        if step.name not in self._clips:
            told = harmless(step.name)
            self._clips[step.name] = self._progress.add_task(told, total=step.total, count="")
        count = f"{step.done}/{step.total} frames,"
        self._progress.update(self._clips[step.name], completed=step.done, count=count)
        if step.done == step.total:
            self._progress.remove_task(self._clips.pop(step.name))

    def _told(self, name: str = "") -> None:
        count = f"{self._made}/{self._total} files,"
        self._progress.update(
            self._files, total=self._total, completed=self._made, count=count, description=name
        )
