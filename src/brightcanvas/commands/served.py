"""``bright-canvas served``."""

from __future__ import annotations

from collections import Counter
from dataclasses import asdict
from typing import TYPE_CHECKING

from rich.table import Table

from brightcanvas.library.for_briefs import load_brief, served
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.single_file.host_check import HostedFile
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Compare what a host serves with what was built."""
    found = served(load_brief(arguments.brief), arguments.where)
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
        after = bytes_text(one.after) if one.after else "-"
        table.add_row(one.file, one.state, bytes_text(one.before), after, score, one.told)
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
        f"{len(found)} pictures: {told}. Compressing again made {bytes_text(before)} into"
        f" {bytes_text(after)} and cost up to {1 - (worst.score or 0):.3f} of the score"
        f" ({worst.file}). Switch it off for these files, or serve them from another place."
    )
