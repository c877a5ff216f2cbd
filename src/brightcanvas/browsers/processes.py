"""The processes of a browser, which end with us, whatever keeps them busy."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from contextlib import suppress
from typing import Any

APART: dict[str, Any] = {"process_group": 0}
"""For ``Popen``: a group of its own, so that it can be ended whole; Windows has trees for that."""


def kill_all(process: subprocess.Popen[Any]) -> None:
    """End a process that was started ``APART``, and all that it has started, at once."""
    with suppress(OSError):
        if sys.platform == "win32":
            tree = ["taskkill", "/F", "/T", "/PID", str(process.pid)]
            subprocess.run(tree, capture_output=True, check=False)
        else:
            os.killpg(process.pid, signal.SIGKILL)
    process.wait()
