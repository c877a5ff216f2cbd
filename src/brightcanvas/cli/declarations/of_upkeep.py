"""Commands for what is published, and for what is kept."""

from __future__ import annotations

import argparse
from pathlib import Path

from brightcanvas.cli.declarations.command import Command
from brightcanvas.terminal.arguments import add_brief

_SERVED = """\
  bright-canvas served --from downloads
  bright-canvas served site/brief.toml --from addresses.csv

A list has a line for each file: its URL, or our file's name, a comma and the URL.
"""


def _served(command: argparse.ArgumentParser) -> None:
    add_brief(command)
    command.add_argument(
        "--from", dest="where", type=Path, required=True, metavar="FOLDER_OR_LIST",
        help="a folder with what the host serves, or a list of URLs",
    )  # fmt: skip


_PRETEND_HOST = """\
  bright-canvas pretend-host published --port 8080
"""


def _pretend_host(command: argparse.ArgumentParser) -> None:
    command.add_argument("folder", type=Path, metavar="FOLDER")
    command.add_argument(
        "--port", type=int, default=0, metavar="NUMBER", help="0 takes any that is free (default)"
    )
    command.add_argument(
        "--host-quality", type=int, choices=range(1, 101), default=60, metavar="NUMBER",
        help="of its compression, 1 to 100 (default: 60)",
    )  # fmt: skip


_STORE = """\
  bright-canvas store
  bright-canvas store site/brief.toml --clear
"""


def _store(command: argparse.ArgumentParser) -> None:
    add_brief(command)
    command.add_argument("--clear", action="store_true", help="remove everything that is kept")


_DEMO = """\
  bright-canvas demo
  bright-canvas demo try/mill
"""


def _demo(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "folder", nargs="?", type=Path, default=Path("marrowfen-mill"), metavar="FOLDER",
        help="where to put it (default: marrowfen-mill)",
    )  # fmt: skip


COMMANDS = (
    Command(
        "served",
        "tell which files a host serves as they were built, and which it compressed again",
        _SERVED,
        _served,
    ),
    Command(
        "pretend-host",
        "serve a folder on this machine like a host that compresses pictures again",
        _PRETEND_HOST,
        _pretend_host,
    ),
    Command("store", "tell how much is kept for the next run, or clear it", _STORE, _store),
    Command("demo", "set up the example of Marrowfen Mill and build it", _DEMO, _demo),
)
