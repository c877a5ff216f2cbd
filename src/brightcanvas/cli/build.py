"""``bright-canvas build``."""

from __future__ import annotations

import argparse
import json

from brightcanvas.basics.errors import ExitStatus
from brightcanvas.brief.loading import load_brief
from brightcanvas.cli.progress import watched
from brightcanvas.cli.report import print_outcome
from brightcanvas.cli.streams import Streams
from brightcanvas.workshop.building import Outcome, build


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Build the brief and tell what came of it."""
    brief = load_brief(arguments.brief)
    with watched(streams.err) as watcher:
        outcome = build(brief, arguments.largest_source, watcher)
    return tell(outcome, streams)


def tell(outcome: Outcome, streams: Streams) -> ExitStatus:
    """Print an outcome for people, and for machines where asked."""
    if streams.as_json:
        streams.document(json.loads(outcome.ledger))
    print_outcome(outcome, streams.console())
    return ExitStatus.ALL_WELL if outcome.holds else ExitStatus.PROMISE_BROKEN
