"""``bright-canvas build``.

Where nothing has changed since the last build, its report is shown again; what is heavy is
imported only where there is something to do.
"""

from __future__ import annotations

import json
import time
from typing import TYPE_CHECKING

from brightcanvas.pipeline.stamp import remembered
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse
    from pathlib import Path

    from brightcanvas.pipeline.building import Outcome
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Build the brief, or tell again what came of it; stay and watch where asked."""
    if arguments.watch:
        from brightcanvas.terminal.watch_loop import watch

        return watch(
            arguments.brief,
            streams,
            lambda: draft_and_tell(arguments.brief, arguments.largest_source, streams),
            lambda: _build(arguments, streams),
        )
    if arguments.draft:
        return draft_and_tell(arguments.brief, arguments.largest_source, streams)
    kept = remembered(arguments.brief, {"limit": arguments.largest_source})
    text = kept.texts.get(_kind(streams, is_all=arguments.all)) if kept else None
    if kept and text is not None:
        streams.replay(text)
        return kept.status
    return _build(arguments, streams)


def _build(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    return build_and_tell(
        arguments.brief,
        arguments.largest_source,
        streams,
        is_all=arguments.all,
        workers=arguments.workers,
    )


def _kind(streams: Streams, *, is_all: bool) -> str:
    """What decides the text that is told."""
    return f"{streams.kind}{', all' if is_all else ''}"


def build_and_tell(
    brief_path: Path,
    limit: float,
    streams: Streams,
    *,
    is_all: bool = False,
    workers: str | None = None,
) -> ExitStatus:
    """Build a brief, tell what came of it, and remember it; ``limit`` in megapixels of a source."""
    from brightcanvas.library.for_briefs import build, load_brief
    from brightcanvas.pipeline.building import remember
    from brightcanvas.terminal.progress import watched

    began = time.time_ns()
    brief = load_brief(brief_path)
    with watched(streams.err) as watcher:
        outcome = build(
            brief,
            workers=workers,
            largest_source=limit,
            starts=watcher.starts,
            done=watcher.done,
        )
    text = tell(outcome, streams, is_all=is_all)
    status = status_of(outcome)
    if not (streams.as_json or outcome.left):
        remember(outcome, status, {_kind(streams, is_all=is_all): text}, limit, began)
    return status


def draft_and_tell(brief_path: Path, limit: float, streams: Streams) -> ExitStatus:
    """Make a draft, and tell where it is; ``limit`` in megapixels of a source."""
    from brightcanvas.library.for_briefs import draft, load_brief

    began = time.monotonic()
    made = draft(load_brief(brief_path), largest_source=limit)
    if streams.as_json:
        streams.document(json.loads(made.ledger))
    took = time.monotonic() - began
    console = streams.console()
    console.print(f"A draft, in {took:.1f} s: quick files for looking, not for publishing.")
    console.print(f"Open this page: {made.page.resolve()}", soft_wrap=True)
    return ExitStatus.ALL_WELL


def status_of(outcome: Outcome) -> ExitStatus:
    """The exit status of a build."""
    return ExitStatus.ALL_WELL if outcome.holds else ExitStatus.PROMISE_BROKEN


def tell(outcome: Outcome, streams: Streams, *, is_all: bool = False) -> str:
    """Print an outcome for people, and for machines where asked; returns what people read."""
    from brightcanvas.terminal.report import print_all, print_outcome

    if streams.as_json:
        streams.document(json.loads(outcome.ledger))
    with streams.recorded() as recorded:
        (print_all if is_all else print_outcome)(outcome, recorded.console)
    return recorded.text
