"""``bright-canvas sheet``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.adjusting.adjust_page import PROOF
from brightcanvas.library.for_briefs import sheet
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Write the proof, and say where it is."""
    folder = arguments.into or arguments.brief.parent / "proof"
    written = sheet(arguments.brief, folder, largest_source=arguments.largest_source)
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
