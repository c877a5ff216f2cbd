"""From arguments to an exit status; the only place where errors become messages."""

from __future__ import annotations

import os
import sys
import traceback
from collections.abc import Sequence
from pathlib import Path
from typing import TextIO

# Work runs in as many threads as there are cores; more of them inside each product of
# matrices would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from brightcanvas.cli.parser import read_arguments
from brightcanvas.terminal.streams import Streams
from brightcanvas.values.errors import BrightCanvasError, ExitStatus
from brightcanvas.values.version import VERSION


def main(
    argv: Sequence[str] | None = None, out: TextIO | None = None, err: TextIO | None = None
) -> int:
    """Run one command and return its exit status; ``argv`` is without the program's name."""
    arguments = read_arguments(sys.argv[1:] if argv is None else argv)
    streams = Streams(out or sys.stdout, err or sys.stderr, as_json=arguments.json)
    try:
        return int(arguments.run(arguments, streams))
    except BrightCanvasError as error:
        streams.fail(str(error), error.status)
        return error.status
    except KeyboardInterrupt:
        streams.note("Stopped. What was made is kept; the next run goes on from there.")
        return ExitStatus.INTERRUPTED
    except BrokenPipeError:
        # Whoever read our output has gone; nothing is left to be told, not even at exit.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return ExitStatus.MACHINE_FAILED
    except MemoryError:
        streams.fail(
            "This machine's memory is full: try a smaller source.", ExitStatus.MACHINE_FAILED
        )
        return ExitStatus.MACHINE_FAILED
    except Exception as error:  # the last place where a fault of ours can be told
        if arguments.traceback:
            raise
        streams.fail(_excuse(error), ExitStatus.OUR_FAULT)
        return ExitStatus.OUR_FAULT


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
    sys.exit(main())
