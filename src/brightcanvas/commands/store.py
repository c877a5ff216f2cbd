"""``bright-canvas store``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.pipeline.home import own_folder
from brightcanvas.pipeline.result_store import Store
from brightcanvas.pipeline.stamp import stamp_path
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Tell the store's size, or clear it.

    Raises:
        BriefError: there is no brief beside which it could lie.
    """
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
    told = f"{len(entries)} results, {bytes_text(total)}, in {store.folder}"
    if arguments.clear:
        told = f"Cleared: {told}. The next build makes everything again."
    streams.console().print(told, soft_wrap=True)
    return ExitStatus.ALL_WELL
