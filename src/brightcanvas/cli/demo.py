"""``bright-canvas demo``."""

from __future__ import annotations

import argparse

from brightcanvas.cli.build import build_and_tell
from brightcanvas.cli.streams import Streams
from brightcanvas.demo.setup import set_up
from brightcanvas.formats.survey import DEFAULT_LIMIT
from brightcanvas.values.errors import ExitStatus


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Set up the example, then build it like any other brief."""
    return build_and_tell(set_up(arguments.folder), DEFAULT_LIMIT, streams)
