"""``bright-canvas schema``."""

from __future__ import annotations

import argparse

from brightcanvas.brief.loading import brief_schema
from brightcanvas.cli.streams import Streams
from brightcanvas.values.errors import ExitStatus


def run(_arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Print the JSON Schema of the brief."""
    streams.document(brief_schema())
    return ExitStatus.ALL_WELL
