"""Runs the program, and lets something happen at one of its file events.

python -m bench.hostile.armed FAULT EVENT FOLDER ARGUMENTS...
"""

from __future__ import annotations

import errno
import os
import signal
import sys
from typing import Any

from brightcanvas.cli.main import main

EVENTS = ("open", "os.rename", "os.remove", "os.mkdir", "os.chmod", "os.listdir", "os.utime")


def arm(fault: str, event: int, folder: str) -> None:
    """Let it happen at the so-many-th event within a folder."""
    seen = 0

    def hook(name: str, arguments: tuple[Any, ...]) -> None:
        nonlocal seen
        if name not in EVENTS or not isinstance(arguments[0], str):
            return
        if not os.path.abspath(arguments[0]).startswith(folder):  # noqa: PTH100 - many, fast
            return
        seen += 1
        if seen != event + 1:
            return
        if fault == "kill":
            os.kill(os.getpid(), signal.SIGKILL)
        code = errno.ENOSPC if fault == "full" else errno.EACCES
        raise OSError(code, os.strerror(code), arguments[0])

    sys.addaudithook(hook)


if __name__ == "__main__":
    arm(sys.argv[1], int(sys.argv[2]), sys.argv[3])
    sys.exit(main(sys.argv[4:]))
