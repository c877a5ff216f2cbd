"""``bright-canvas sheet``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.adjusting.proof import PROOF, write_proof
from brightcanvas.terminal.arguments import add_brief, add_limit
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas sheet
  bright-canvas sheet site/brief.toml --into looks
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    add_brief(command)
    command.add_argument(
        "--into", type=Path, metavar="FOLDER", help="where to write (default: proof, by the brief)"
    )
    add_limit(command)


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Write the proof, and say where it is."""
    folder = arguments.into or arguments.brief.parent / "proof"
    written = write_proof(arguments.brief, folder, arguments.largest_source)
    page = (folder / PROOF).resolve()
    if streams.as_json:
        streams.document({"page": str(page), "broken": written.broken, "bytes": written.bytes})
    console = streams.console()
    console.print(
        f"One page of {written.bytes / 1e6:.1f} MB that needs nothing else: {page}", soft_wrap=True
    )
    if written.broken:
        console.print(f"{written.broken} promises are broken on it; marked red.")
    return ExitStatus.PROMISE_BROKEN if written.broken else ExitStatus.ALL_WELL
