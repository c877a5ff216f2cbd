"""``bright-canvas adjust``."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from html import escape
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING

from brightcanvas.values.errors import ExitStatus, MachineError

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


@contextmanager
def opened(address: str, *, wanted: bool) -> Iterator[None]:
    """The page in the browser of this machine.

    Its address has the key, and what a program is started with is seen by all who use the machine:
    so the browser gets a file that only its owner may read, which leads there.
    """
    if not wanted:
        yield
        return
    import webbrowser

    with tempfile.TemporaryDirectory(prefix="bright-canvas-", ignore_cleanup_errors=True) as folder:
        way = Path(folder) / "adjust.html"
        way.write_text(WAY.format(escape(address)), "utf-8")
        way.chmod(0o600)
        webbrowser.open(way.as_uri())
        yield


WAY = (
    '<!doctype html><meta charset="utf-8"><meta name="referrer" content="no-referrer">'
    '<meta http-equiv="refresh" content="0; url={0}"><a href="{0}">Adjust</a>\n'
)


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Serve the page, until Ctrl-C.

    Raises:
        MachineError: the port is taken, or not to be had.
    """
    from brightcanvas.adjusting.server import AdjustServer
    from brightcanvas.adjusting.session import Session, started

    session, stop = Session(arguments.brief, arguments.largest_source), Event()
    try:
        server = AdjustServer(session, arguments.port)
    except (OSError, OverflowError) as error:
        session.close()
        why = getattr(error, "strerror", None) or "it is none from 0 to 65535"
        raise MachineError(f"Port {arguments.port} can't be used: {why}.") from error
    address = server.address
    if streams.as_json:
        streams.document({"address": address})
        streams.out.flush()
    streams.note(f"Adjust {session.path.name} on this page: {address}")
    streams.note("It is for this machine alone. Ctrl-C ends it.")
    started(session, stop)
    try:
        with server, opened(address, wanted=not arguments.no_open):
            server.serve_forever()
    except KeyboardInterrupt:  # the way in which it ends
        streams.note(f"Ended. {session.path.name} is as it was saved last.")
    finally:
        stop.set()
        session.close()
    return ExitStatus.ALL_WELL
