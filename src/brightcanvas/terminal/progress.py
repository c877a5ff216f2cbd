"""A progress line on a terminal, silence elsewhere."""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING, TextIO

from rich.console import Console
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

from brightcanvas.pipeline.building import Watcher
from brightcanvas.terminal.streams import harmless

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
        MofNCompleteColumn(),
        TextColumn("files,"),
        TimeRemainingColumn(),
        TextColumn("{task.description}", markup=False),
    )
    with Progress(*columns, console=Console(file=stream), transient=True) as progress:
        task = progress.add_task("")
        yield Watcher(
            starts=lambda count: progress.update(task, total=count),
            done=lambda name: progress.update(task, advance=1, description=harmless(name)),
        )
