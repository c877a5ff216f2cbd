"""``bright-canvas pretend-host``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.demo.host import host
from brightcanvas.values.errors import BriefError, ExitStatus, MachineError

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas pretend-host published --port 8080
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("folder", type=Path, metavar="FOLDER")
    command.add_argument(
        "--port", type=int, default=0, metavar="NUMBER", help="0 takes any that is free (default)"
    )
    command.add_argument(
        "--host-quality", type=int, choices=range(1, 101), default=60, metavar="NUMBER",
        help="of its compression, 1 to 100 (default: 60)",
    )  # fmt: skip


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Serve a folder like a host that compresses pictures again, until Ctrl-C."""
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
