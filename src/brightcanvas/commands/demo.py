"""``bright-canvas demo``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.commands.build import build_and_tell
from brightcanvas.demo.setup import set_up
from brightcanvas.values.limits import LARGEST_SOURCE

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams
    from brightcanvas.values.errors import ExitStatus

EXAMPLES = """\
  bright-canvas demo
  bright-canvas demo try/mill
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument(
        "folder", nargs="?", type=Path, default=Path("marrowfen-mill"), metavar="FOLDER",
        help="where to put it (default: marrowfen-mill)",
    )  # fmt: skip


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Set up the example, then build it like any other brief."""
    return build_and_tell(set_up(arguments.folder), LARGEST_SOURCE, streams)
