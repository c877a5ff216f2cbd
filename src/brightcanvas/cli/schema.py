"""``bright-canvas schema``."""

from __future__ import annotations

import argparse

from brightcanvas.basics.errors import ExitStatus
from brightcanvas.brief.loading import brief_schema
from brightcanvas.cli.streams import Streams


def run(_arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Print the JSON Schema of the brief."""
    streams.document(brief_schema())
    return ExitStatus.ALL_WELL
