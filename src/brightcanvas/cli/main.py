"""From arguments to an exit status; the only place where errors become messages."""

from __future__ import annotations

import argparse
import errno
import importlib
import os
import sys
import traceback
from collections.abc import Callable, Sequence
from contextlib import suppress
from difflib import get_close_matches
from io import TextIOWrapper
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn, TextIO, cast

from brightcanvas.cli.declarations import COMMANDS
from brightcanvas.cli.declarations.command import Command
from brightcanvas.values.errors import BriefError
from brightcanvas.values.version import VERSION

if TYPE_CHECKING:
    from brightcanvas.terminal.streams import Streams
    from brightcanvas.values.errors import ExitStatus

# Work runs in as many threads as there are cores; more of them inside each product of
# matrices would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from brightcanvas.terminal.streams import Streams
from brightcanvas.values import work
from brightcanvas.values.errors import BrightCanvasError, ExitStatus


def main(
    argv: Sequence[str] | None = None, out: TextIO | None = None, err: TextIO | None = None
) -> int:
    """Run one command and return its exit status; ``argv`` is without the program's name."""
    given = sys.argv[1:] if argv is None else list(argv)
    streams = Streams(out or _standard("stdout"), err or _standard("stderr"), "--json" in given)
    try:
        return _told(given, streams)
    except BrokenPipeError:  # whoever read our output has gone; nothing is left to be told
        _abandon(streams.out)
        return ExitStatus.MACHINE_FAILED
    except OSError as error:  # the output is full or closed
        _abandon(streams.out)
        with suppress(OSError, ValueError):
            streams.err.write(f"bright-canvas: The output can't be written: {error.strerror}.\n")
        return ExitStatus.MACHINE_FAILED


def _told(given: Sequence[str], streams: Streams) -> ExitStatus:
    """Run it, and tell what became of it."""
    try:
        status = _run(given, streams)
    except BrightCanvasError as error:
        status = error.status
        _fail(streams, str(error), status)
    except KeyboardInterrupt:
        status = ExitStatus.INTERRUPTED
        _fail(streams, "Stopped. What was made is kept; the next run goes on from there.", status)
    except BrokenPipeError:
        raise
    except MemoryError:
        status = ExitStatus.MACHINE_FAILED
        _fail(streams, "This machine's memory is full: try a smaller source.", status)
    except OSError as error:
        status = ExitStatus.BRIEF_WRONG if error.errno in _NAMES else ExitStatus.MACHINE_FAILED
        _fail(streams, f"{error.filename or 'The output'}: {error.strerror or error}.", status)
    except Exception as error:  # the last place where a fault of ours can be told
        if "--traceback" in given:
            raise
        in_circle = isinstance(error, RuntimeError) and str(error).startswith(IN_CIRCLE)
        status = ExitStatus.BRIEF_WRONG if in_circle else ExitStatus.OUR_FAULT
        _fail(streams, _circle(error) if in_circle else _excuse(error), status)
    streams.out.flush()
    return status


_NAMES = (errno.ENAMETOOLONG, errno.ELOOP)
"""What the system says of names that somebody gave."""


IN_CIRCLE = "Symlink loop from "
"""What Python before 3.13 says of links that lead to each other."""


def _circle(error: Exception) -> str:
    place = str(error).removeprefix(IN_CIRCLE).strip("'\"")
    return f"{place}: these links lead round in a circle; name the file itself."


def _run(given: Sequence[str], streams: Streams) -> ExitStatus:
    if not given:
        _tell_first_steps(streams)
        return ExitStatus.BRIEF_WRONG  # nothing was asked for: a script that says so is wrong
    arguments = read_arguments(given)
    return ExitStatus(run_of(arguments)(arguments, streams))


def _tell_first_steps(streams: Streams) -> None:
    from brightcanvas.cli.first_steps import first_steps

    steps = [*first_steps(Path.cwd()), ("--help", "all commands")]
    wide = max(len(command) for command, _ in steps)
    lines = [f"  bright-canvas {command:{wide}}  {does}\n" for command, does in steps]
    streams.out.write(f"{ABOUT}\nHere you may begin with:\n{''.join(lines)}")


def _fail(streams: Streams, text: str, status: ExitStatus) -> None:
    """Tell why; where errors can't be told, the status still is."""
    try:
        streams.fail(text, status)
        streams.err.flush()
    except OSError:
        _abandon(streams.err)


def _standard(name: str) -> TextIO:
    """Standard output or error, which write a character that they lack as its number.

    Where it was closed before we began, nothing is told.
    """
    stream: TextIO | None = getattr(sys, name)
    if stream is None:
        return open(os.devnull, "w", encoding="utf-8")  # noqa: PTH123 - open to the end
    if isinstance(stream, TextIOWrapper):
        stream.reconfigure(errors="backslashreplace")
    return stream


def _abandon(stream: TextIO) -> None:
    """Let nothing be written any more, not even at exit, where Python would complain."""
    with suppress(OSError, ValueError, AttributeError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())


def _excuse(error: Exception) -> str:
    """What to send us."""
    *_, last = traceback.extract_tb(error.__traceback__)
    place = f"{Path(last.filename).name}, line {last.lineno}"
    what = " ".join(f"{type(error).__name__}: {error}".split())[:200]
    return (
        f"This is a fault of ours, not yours: {what} ({place}, version {VERSION})."
        " Please send us this line and your brief; --traceback shows more."
    )


def entry() -> None:
    """The installed program."""
    status = main()
    if status == ExitStatus.INTERRUPTED:
        # Threads would be waited for, and a codec that is under way ends after many seconds.
        work.tidy()
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)
    sys.exit(status)


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
        """Tell what is wrong like every other mistake: as a BriefError."""
        usage = " ".join(self.format_usage().split()[1:])
        raise BriefError(f"{message}\nusage: {usage}")


def read_arguments(argv: Sequence[str]) -> argparse.Namespace:
    """The arguments of one call, without the program's name; ``command`` is what was called.

    Raises:
        BriefError: one is wrong.
    """
    called = next((one for one in argv if not one.startswith("-")), "")
    if called and called not in {command.name for command in COMMANDS}:
        raise BriefError(_no_such(called))
    return _parser(called).parse_args(argv)


MEANT = {
    "check": "inspect", "convert": "transcode", "edit": "adjust", "lighten": "compress",
    "make": "build", "new": "begin", "preview": "adjust", "publish": "build", "show": "sheet",
    "shrink": "compress", "start": "begin",
}  # fmt: skip
"""Everyday words for commands of ours."""


def _no_such(called: str) -> str:
    """Which command may have been meant, and how it is called."""
    names = [command.name for command in COMMANDS]
    close = [MEANT.get(called), *get_close_matches(called, names, n=1, cutoff=0.7)]
    meant = next((command for command in COMMANDS if command.name in close), None)
    if meant is None:
        return f"There is no command '{called}'. All commands: bright-canvas --help"
    example = meant.examples.strip().splitlines()[0]
    return f"There is no command '{called}'; did you mean {meant.name}? Such as: {example}"


def _parser(called: str) -> argparse.ArgumentParser:
    parser = _Parser(
        prog="bright-canvas",
        description=ABOUT,
        epilog=START,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=f"bright-canvas {VERSION}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", required=True)
    for one in COMMANDS:
        command = commands.add_parser(
            one.name,
            help=one.about,
            description=one.about[0].upper() + one.about[1:] + ".",
            formatter_class=argparse.RawDescriptionHelpFormatter,
        )
        if one.name == called:
            _complete(command, one)
    return parser


def _complete(parser: argparse.ArgumentParser, command: Command) -> None:
    """Give a command its arguments and examples."""
    parser.epilog = f"Examples:\n{command.examples}"
    parser.add_argument("--json", action="store_true", help="print the facts for machines")
    parser.add_argument("--traceback", action="store_true", help=argparse.SUPPRESS)
    command.add_arguments(parser)
    parser.set_defaults(command=command.name)


def run_of(arguments: argparse.Namespace) -> Callable[[argparse.Namespace, Streams], ExitStatus]:
    """What the command does; its code is imported here, and no other's."""
    module = importlib.import_module(f"brightcanvas.commands.{arguments.command.replace('-', '_')}")
    return cast("Callable[[argparse.Namespace, Streams], ExitStatus]", module.run)
