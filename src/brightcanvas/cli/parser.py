"""Reading the command line. The code of the command that is called is imported, and no other."""

from __future__ import annotations

import argparse
import importlib
from collections.abc import Sequence
from typing import NoReturn

from brightcanvas.commands import COMMANDS
from brightcanvas.values.errors import BriefError
from brightcanvas.values.version import VERSION

ABOUT = """\
Backgrounds for web pages: cut, sized and compressed for each breakpoint,
with the rules that load them, and proof that the subject stays in view.
"""

START = """\
Start here:
  bright-canvas demo                 the full example, in ./marrowfen-mill
  bright-canvas plan                 what brief.toml asks for, in an instant
  bright-canvas build                make and publish it

Exit status: 0 all well; 1 built, but a promise is broken; 2 the command line or
the brief is wrong, nothing written; 3 a source can't be used; 4 the machine failed.
"""


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        """Tell what is wrong like every other mistake."""
        usage = " ".join(self.format_usage().split()[1:])
        raise BriefError(f"{message}\nusage: {usage}")


def read_arguments(argv: Sequence[str]) -> argparse.Namespace:
    """The arguments of one call, without the program's name, and its command's ``run``.

    Raises:
        BriefError: one is wrong.
    """
    called = next((one for one in argv if not one.startswith("-")), "")
    return _parser(called).parse_args(argv)


def _parser(called: str) -> argparse.ArgumentParser:
    parser = _Parser(
        prog="bright-canvas",
        description=ABOUT,
        epilog=START,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=f"bright-canvas {VERSION}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", required=True)
    for name, about in COMMANDS.items():
        command = commands.add_parser(
            name,
            help=about,
            description=about[0].upper() + about[1:] + ".",
            formatter_class=argparse.RawDescriptionHelpFormatter,
        )
        if name == called:
            _complete(command, name)
    return parser


def _complete(command: argparse.ArgumentParser, name: str) -> None:
    """Give a command its arguments and examples."""
    module = importlib.import_module(f"brightcanvas.commands.{name.replace('-', '_')}")
    command.epilog = f"Examples:\n{module.EXAMPLES}"
    command.add_argument("--json", action="store_true", help="print the facts for machines")
    command.add_argument("--traceback", action="store_true", help=argparse.SUPPRESS)
    module.add_arguments(command)
    command.set_defaults(run=module.run)
