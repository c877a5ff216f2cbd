"""``bright-canvas schema``."""

from __future__ import annotations

import argparse

from brightcanvas.brief.loading import brief_schema
from brightcanvas.terminal.streams import Streams
from brightcanvas.values.errors import ExitStatus

EXAMPLES = """\
  bright-canvas schema > brief.schema.json
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """It takes none."""


def run(_arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Print the JSON Schema of the brief."""
    streams.document(brief_schema())
    return ExitStatus.ALL_WELL
