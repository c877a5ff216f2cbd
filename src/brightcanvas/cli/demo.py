"""``bright-canvas demo``."""

from __future__ import annotations

import argparse

from brightcanvas.basics.errors import ExitStatus
from brightcanvas.brief.loading import load_brief
from brightcanvas.cli.build import tell
from brightcanvas.cli.progress import watched
from brightcanvas.cli.streams import Streams
from brightcanvas.demo.setup import set_up
from brightcanvas.workshop.building import build


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Set up the example, then build it like any other brief."""
    brief = load_brief(set_up(arguments.folder))
    with watched(streams.err) as watcher:
        outcome = build(brief, watcher=watcher)
    return tell(outcome, streams)
