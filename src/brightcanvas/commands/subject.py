"""``bright-canvas subject``."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING

from brightcanvas.library.for_pictures import suggest_subject
from brightcanvas.terminal.report import suggestion_line
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Suggest a subject for each picture."""
    limit = arguments.largest_source
    found = {str(path): suggest_subject(path, largest_source=limit) for path in arguments.pictures}
    if streams.as_json:
        streams.document({path: asdict(suggestion) for path, suggestion in found.items()})
    console = streams.console()
    for path, suggestion in found.items():
        console.print(path)
        console.print(f"  {suggestion_line(suggestion)}", soft_wrap=True)
    return ExitStatus.ALL_WELL
