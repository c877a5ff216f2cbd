"""``bright-canvas store``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.pipeline.home import own_folder
from brightcanvas.pipeline.stamp import stamp_path
from brightcanvas.pipeline.store import Store
from brightcanvas.terminal.arguments import add_brief
from brightcanvas.terminal.words import weight
from brightcanvas.values.errors import BriefError, ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas store
  bright-canvas store site/brief.toml --clear
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    add_brief(command)
    command.add_argument("--clear", action="store_true", help="remove everything that is kept")


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Tell the store's size, or clear it."""
    if not arguments.brief.exists():
        raise BriefError(f"There is no brief at {arguments.brief}: the store lies beside it.")
    store = Store(own_folder(arguments.brief.parent))
    entries = store.entries()
    total = sum(path.stat().st_size for path in entries)
    if arguments.clear:
        stamp_path(arguments.brief).unlink(missing_ok=True)
        store.clear()
    if streams.as_json:
        facts = {"folder": str(store.folder), "results": len(entries), "bytes": total}
        streams.document({**facts, "cleared": arguments.clear})
    told = f"{len(entries)} results, {weight(total)}, in {store.folder}"
    if arguments.clear:
        told = f"Cleared: {told}. The next build makes everything again."
    streams.console().print(told, soft_wrap=True)
    return ExitStatus.ALL_WELL
