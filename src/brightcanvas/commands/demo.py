"""``bright-canvas demo``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.commands.build import build_and_tell
from brightcanvas.demo.setup import set_up
from brightcanvas.values.files import LARGEST_SOURCE

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams
    from brightcanvas.values.errors import ExitStatus


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Set up the example, then build it like any other brief."""
    return build_and_tell(set_up(arguments.folder), LARGEST_SOURCE, streams)
