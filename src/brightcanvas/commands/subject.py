"""``bright-canvas subject``."""

from __future__ import annotations

import argparse
from dataclasses import asdict
from pathlib import Path

from brightcanvas.analysis.saliency import suggest_subject
from brightcanvas.formats.clips import read_frame
from brightcanvas.formats.pictures import read_picture
from brightcanvas.formats.survey import survey
from brightcanvas.terminal.arguments import add_limit
from brightcanvas.terminal.report import suggestion_line
from brightcanvas.terminal.streams import Streams
from brightcanvas.values.errors import ExitStatus

EXAMPLES = """\
  bright-canvas subject mill.jpg
  bright-canvas subject sources/*.jpg --json
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("pictures", nargs="+", type=Path, metavar="PICTURE")
    add_limit(command)


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Suggest a subject for each picture."""
    found = {}
    for path in arguments.pictures:
        facts = survey(path, arguments.largest_source)
        picture = read_frame(path, 0.0) if facts.kind.is_clip else read_picture(path)
        found[str(path)] = suggest_subject(picture)
    if streams.as_json:
        streams.document({path: asdict(suggestion) for path, suggestion in found.items()})
    console = streams.console()
    for path, suggestion in found.items():
        console.print(path)
        console.print(f"  {suggestion_line(suggestion)}", soft_wrap=True)
    return ExitStatus.ALL_WELL
