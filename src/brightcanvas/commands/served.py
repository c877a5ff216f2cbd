"""``bright-canvas served``."""

from __future__ import annotations

from collections import Counter
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from rich.table import Table

from brightcanvas.brief.loading import load_brief
from brightcanvas.singles.served import HostedFile, check_served, places_from, published
from brightcanvas.terminal.arguments import add_brief
from brightcanvas.terminal.words import weight
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas served --from downloads
  bright-canvas served site/brief.toml --from addresses.csv

A list has a line for each file: its URL, or our file's name, a comma and the URL.
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    add_brief(command)
    command.add_argument(
        "--from", dest="where", type=Path, required=True, metavar="FOLDER_OR_LIST",
        help="a folder with what the host serves, or a list of URLs",
    )  # fmt: skip


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Compare what a host serves with what was built."""
    output = load_brief(arguments.brief).output
    places = places_from(arguments.where, published(output))
    found = check_served(output, places)
    if streams.as_json:
        streams.document({"files": [asdict(one) for one in found]})
    console = streams.console()
    changed = [one for one in found if not one.is_ours]
    if changed:
        console.print(_table(changed))
    console.print(_summary(found))
    return ExitStatus.PROMISE_BROKEN if changed else ExitStatus.ALL_WELL


def _table(changed: Sequence[HostedFile]) -> Table:
    table = Table(box=None, pad_edge=False)
    for heading in ("File", "Is", "Ours", "Served", "Score against ours", ""):
        right = heading in ("Ours", "Served", "Score against ours")
        table.add_column(
            heading, header_style="dim", justify="right" if right else "left", no_wrap=bool(heading)
        )
    for one in changed:
        score = f"{one.score:.3f}" if one.score is not None else "-"
        cells = (weight(one.before), weight(one.after) if one.after else "-", score, one.told)
        table.add_row(one.file, one.state, *cells)
    return table


def _summary(found: Sequence[HostedFile]) -> str:
    counts = Counter(one.state for one in found)
    told = ", ".join(f"{counts[state]} {state}" for state in sorted(counts))
    again = [one for one in found if one.state == "compressed again" and one.score is not None]
    if not again:
        return f"{len(found)} pictures: {told}."
    worst = min(again, key=lambda one: one.score or 0)
    before, after = sum(one.before for one in again), sum(one.after for one in again)
    return (
        f"{len(found)} pictures: {told}. Compressing again made {weight(before)} into"
        f" {weight(after)} and cost up to {1 - (worst.score or 0):.3f} of the score"
        f" ({worst.file}). Switch it off for these files, or serve them from another place."
    )
