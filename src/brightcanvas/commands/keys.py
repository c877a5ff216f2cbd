"""``bright-canvas keys``."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING

from rich.table import Table
from rich.text import Text

from brightcanvas.brief.reference import Key, all_keys, as_markdown
from brightcanvas.values.errors import BriefError, ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Print what can be written in a brief.

    Raises:
        BriefError: no key has such a name.
    """
    if arguments.markdown:
        streams.out.write(as_markdown())
        return ExitStatus.ALL_WELL
    wanted = set(arguments.words)
    found = [key for key in all_keys() if not wanted or wanted & {key.name, key.table.strip("[]")}]
    if not found:
        raise BriefError(f"No key is called {' or '.join(arguments.words)}: bright-canvas keys")
    if streams.as_json:
        streams.document({"keys": [asdict(key) for key in found]})
    streams.console().print(_table(found))
    return ExitStatus.ALL_WELL


def _table(keys: list[Key]) -> Table:
    table = Table(box=None, pad_edge=False)
    for heading in ("Table", "Key", "Default", "Meaning"):
        table.add_column(heading, header_style="dim", no_wrap=heading in ("Table", "Key"))
    before = ""
    for key in keys:
        words = f" ({', '.join(key.choices)})" if key.choices else ""
        shown = key.table if key.table != before else ""
        table.add_row(Text(shown), key.name, Text(key.default), Text(f"{key.meaning}{words}"))
        before = key.table
    return table
