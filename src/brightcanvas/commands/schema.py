"""``bright-canvas schema``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.brief.loading import brief_schema
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(_arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Print the JSON Schema of the brief."""
    streams.document(brief_schema())
    return ExitStatus.ALL_WELL
