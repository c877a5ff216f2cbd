"""``bright-canvas compress``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from rich.table import Table

from brightcanvas.library.for_pictures import compress
from brightcanvas.terminal.arguments import (
    check_into,
)
from brightcanvas.values.errors import BriefError, BrightCanvasError, ExitStatus
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.single_file.lighter_file import Compressed
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Compress every file and tell what was saved; one that can't be used stops no other."""
    _check(arguments)
    made: list[Compressed] = []
    refused: list[BrightCanvasError] = []
    for path in arguments.files:
        try:
            made += _compressed(path, arguments)
        except BrightCanvasError as error:
            refused.append(error)
    if streams.as_json:
        errors = [line for one in refused for line in str(one).splitlines()]
        streams.document({"files": [_facts(one) for one in made], "errors": errors})
    if made:
        console = streams.console()
        console.print(_table(made))
        console.print(_total(made))
    for failed in refused:
        streams.note(f"bright-canvas: {failed}")
    if refused:
        return max(one.status for one in refused)
    missed = arguments.budget is not None and any(one.score is None for one in made)
    return ExitStatus.PROMISE_BROKEN if missed else ExitStatus.ALL_WELL


def _check(arguments: argparse.Namespace) -> None:
    into: Path | None = arguments.into
    if into and arguments.replace:
        raise BriefError("Either --into a folder or --replace, not both.")
    check_into(into)


def _compressed(path: Path, arguments: argparse.Namespace) -> list[Compressed]:
    return compress(
        path,
        quality=arguments.quality,
        budget=arguments.budget,
        formats=arguments.formats,
        density=arguments.density,
        into=arguments.into,
        replace_source=arguments.replace,
        largest_source=arguments.largest_source,
    )


def _table(made: Sequence[Compressed]) -> Table:
    table = Table(box=None, pad_edge=False)
    for heading in ("File", "Before", "After", "Saved", "Score", "Worst", "Written", ""):
        right = heading in ("Before", "After", "Saved", "Score", "Worst")
        table.add_column(
            heading, header_style="dim", justify="right" if right else "left", no_wrap=right
        )
    for one in made:
        output = one.output.name if one.output else "-"
        cells = [bytes_text(one.before), bytes_text(one.after), _saved(one.before, one.after)]
        cells += [f"{part:.3f}" if part is not None else "-" for part in (one.score, one.worst)]
        table.add_row(one.source.name, *cells, output, one.told)
    return table


def _saved(before: int, after: int) -> str:
    return f"{1 - after / before:.0%}" if before else "-"


def _total(made: Sequence[Compressed]) -> str:
    """The sum over the sources, each with the lightest file that came of it."""
    before = {one.source: one.before for one in made}
    after: dict[Path, int] = {}
    for one in made:
        after[one.source] = min(one.after, after.get(one.source, one.before))
    total, left = sum(before.values()), sum(after.values())
    files = "1 file" if len(before) == 1 else f"{len(before)} files"
    sizes = f"{bytes_text(total)} before, {bytes_text(left)} after"
    return f"{files}: {sizes}, {_saved(total, left)} saved."


def _facts(one: Compressed) -> dict[str, object]:
    return {
        "source": str(one.source),
        "output": str(one.output) if one.output else None,
        "bytes_before": one.before,
        "bytes_after": one.after,
        "score": round(one.score, 4) if one.score is not None else None,
        "worst": round(one.worst, 4) if one.worst is not None else None,
        "told": one.told,
    }
