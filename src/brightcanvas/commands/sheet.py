"""``bright-canvas sheet``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.brief.loading import load_brief
from brightcanvas.pipeline.building import plan_as_built
from brightcanvas.pipeline.sheets import draw_sheets
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
        "--into", type=Path, metavar="FOLDER", help="where to draw (default: proof, by the brief)"
    )
    add_limit(command)


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Draw the framing sheets and say where they are."""
    brief = load_brief(arguments.brief)
    plan = plan_as_built(brief, arguments.largest_source)
    folder = arguments.into or brief.path.parent / "proof"
    sheets = draw_sheets(plan, folder)
    if streams.as_json:
        streams.document(
            {"page": str(sheets.page), "pictures": [str(path) for path in sheets.pictures]}
        )
    console = streams.console()
    for path in sheets.pictures:
        console.print(str(path), soft_wrap=True)
    console.print(f"Open this page to see them all: {sheets.page.resolve()}", soft_wrap=True)
    held = all(verdict.holds for verdict in sheets.verdicts)
    return ExitStatus.ALL_WELL if held else ExitStatus.PROMISE_BROKEN
