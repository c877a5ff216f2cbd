"""``bright-canvas build``.

Where nothing has changed since the last build, its report is shown again; what is heavy is
imported only where there is something to do.
"""

from __future__ import annotations

import argparse
import json
import time
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.basics.errors import ExitStatus
from brightcanvas.cli.streams import Streams
from brightcanvas.workshop.stamp import remembered

if TYPE_CHECKING:
    from brightcanvas.workshop.building import Outcome


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Build the brief, or tell again what came of it; stay and watch where asked."""
    if arguments.watch:
        from brightcanvas.cli.watching import watch

        return watch(
            arguments.brief,
            streams,
            lambda: build_and_tell(arguments.brief, arguments.largest_source, streams),
        )
    settings = {"limit": arguments.largest_source}
    kept = remembered(arguments.brief, settings)
    text = kept.texts.get(streams.kind) if kept else None
    if kept and text is not None:
        streams.replay(text)
        return ExitStatus(kept.status)
    return build_and_tell(arguments.brief, arguments.largest_source, streams)


def build_and_tell(brief_path: Path, limit: float, streams: Streams) -> ExitStatus:
    """Build a brief, tell what came of it, and remember what was told."""
    from brightcanvas.brief.loading import load_brief
    from brightcanvas.cli.progress import watched
    from brightcanvas.workshop.building import build

    began = time.time_ns()
    brief = load_brief(brief_path)
    with watched(streams.err) as watcher:
        outcome = build(brief, limit, watcher)
    return tell(outcome, streams, limit, began)


def tell(outcome: Outcome, streams: Streams, limit: float, began: int) -> ExitStatus:
    """Print an outcome for people, and for machines where asked."""
    from brightcanvas.cli.report import print_outcome
    from brightcanvas.workshop.building import remember

    if streams.as_json:
        streams.document(json.loads(outcome.ledger))
    with streams.recorded() as recorded:
        print_outcome(outcome, recorded.console)
    status = ExitStatus.ALL_WELL if outcome.holds else ExitStatus.PROMISE_BROKEN
    if not streams.as_json:
        remember(outcome, int(status), {streams.kind: recorded.text}, limit, began)
    return status
