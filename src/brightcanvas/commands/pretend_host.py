"""``bright-canvas pretend-host``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.demo.host import host
from brightcanvas.values.errors import BriefError, ExitStatus, MachineError

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Serve a folder like a host that compresses pictures again, until Ctrl-C.

    Raises:
        BriefError: there is no such folder.
        MachineError: the port is taken, or not to be had.
    """
    if not arguments.folder.is_dir():
        raise BriefError(f"{arguments.folder} is no folder: name the one with the published files.")
    try:
        server = host(arguments.folder, arguments.port, arguments.host_quality)
    except OSError as error:
        raise MachineError(f"Port {arguments.port} can't be used: {error.strerror}.") from error
    address = f"http://127.0.0.1:{server.server_port}/"
    if streams.as_json:
        streams.document({"address": address})
        streams.out.flush()
    streams.note(f"Serving {arguments.folder} at {address}, JPEG and WebP compressed again.")
    with server:
        server.serve_forever()
    return ExitStatus.ALL_WELL
