"""Commands for those who have a brief."""

from __future__ import annotations

import argparse
from pathlib import Path

from brightcanvas.cli.declarations.command import Command
from brightcanvas.terminal.arguments import add_brief, add_limit, workers

_BUILD = """\
  bright-canvas build
  bright-canvas build site/brief.toml --json > facts.json
"""


def _build(command: argparse.ArgumentParser) -> None:
    add_brief(command)
    command.add_argument(
        "--watch", action="store_true",
        help="stay, and build again whenever the brief or a source is saved; a draft comes first",
    )  # fmt: skip
    command.add_argument(
        "--draft", action="store_true",
        help="quick files for looking, in a folder of their own beside the final ones",
    )  # fmt: skip
    command.add_argument("--all", action="store_true", help="tell of every file and promise")
    command.add_argument(
        "--workers", type=workers, metavar="WHO",
        help="who does the slow work: threads (default), processes, a number of them, or the"
        " address of a cluster's scheduler such as tcp://host:8786",
    )  # fmt: skip
    add_limit(command)


_PLAN = """\
  bright-canvas plan
  bright-canvas plan site/brief.toml
"""


def _plan(command: argparse.ArgumentParser) -> None:
    add_brief(command)
    add_limit(command)


_ADJUST = """\
  bright-canvas adjust
  bright-canvas adjust site/brief.toml --no-open
"""


def _adjust(command: argparse.ArgumentParser) -> None:
    add_brief(command)
    command.add_argument(
        "--no-open", action="store_true", help="tell the page's address, and open no browser"
    )
    command.add_argument(
        "--port", type=int, default=0, metavar="NUMBER", help="0 takes any that is free (default)"
    )
    add_limit(command)


_SHEET = """\
  bright-canvas sheet
  bright-canvas sheet site/brief.toml --into looks
"""


def _sheet(command: argparse.ArgumentParser) -> None:
    add_brief(command)
    command.add_argument(
        "--into", type=Path, metavar="FOLDER", help="where to write (default: proof, by the brief)"
    )
    add_limit(command)


_KEYS = """\
  bright-canvas keys
  bright-canvas keys scrim height
"""


def _keys(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "words", nargs="*", metavar="WORD", help="only keys and tables with these names"
    )
    command.add_argument("--markdown", action="store_true", help="all of them as a page of tables")


_SCHEMA = """\
  bright-canvas schema > brief.schema.json
"""


def _schema(command: argparse.ArgumentParser) -> None:
    """No arguments: the schema is always printed whole."""


COMMANDS = (
    Command("build", "make the pictures and the rules that a brief asks for", _BUILD, _build),
    Command(
        "plan", "show what would be made, touching no pixels and writing nothing", _PLAN, _plan
    ),
    Command(
        "adjust",
        "point at what matters on a local page, and see every screen follow",
        _ADJUST,
        _adjust,
    ),
    Command(
        "sheet",
        "write the proof: one page that shows every screen and promise, for clients",
        _SHEET,
        _sheet,
    ),
    Command(
        "keys",
        "tell what can be written in a brief: every key, its meaning, its default",
        _KEYS,
        _keys,
    ),
    Command(
        "schema",
        "print the brief's JSON Schema, for editors that check while one types",
        _SCHEMA,
        _schema,
    ),
)
