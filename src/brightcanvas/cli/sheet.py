"""``bright-canvas sheet``."""

from __future__ import annotations

import argparse

from brightcanvas.brief.loading import load_brief
from brightcanvas.cli.streams import Streams
from brightcanvas.pipeline.building import plan_as_built
from brightcanvas.pipeline.sheets import draw_sheets
from brightcanvas.values.errors import ExitStatus


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
