"""Drawings into pixels, each in a process of its own that has so much time and memory."""

from __future__ import annotations

import io
import os
import subprocess
import sys
from pathlib import Path
from threading import Lock

from PIL import Image

from brightcanvas.formats.explained import explained
from brightcanvas.formats.renderer import REFUSED
from brightcanvas.formats.switches import our_switches
from brightcanvas.values.errors import MachineError, SourceError

SECONDS = "BRIGHT_CANVAS_DRAWING_SECONDS"
MEGABYTES = "BRIGHT_CANVAS_DRAWING_MB"
LIMITS = {SECONDS: 30.0, MEGABYTES: 1000.0}
"""What a drawing may take, by the variables of the environment that say otherwise."""

_RENDERER = Path(__file__).with_name("renderer.py")

_ONE_BY_ONE = Lock()
"""Each may take a lot of memory."""


def rendered(content: bytes, name: str, across: int | None = None) -> Image.Image:
    """The pixels of a drawing that states its size in px, or so many px across.

    Args:
        content: of the drawing's file.
        name: of it, for messages.
        across: px.

    Raises:
        SourceError: it can't be rendered, or takes more time or memory than it may.
        MachineError: no process can be begun.
    """
    seconds, megabytes = _limit(SECONDS), _limit(MEGABYTES)
    command = [sys.executable, "-P", str(_RENDERER), str(across or 0), f"{megabytes * 1e6:.0f}"]
    try:
        with _ONE_BY_ONE:
            ran = subprocess.run(
                command, input=content, capture_output=True, timeout=seconds, check=False
            )
    except subprocess.TimeoutExpired as error:
        raise _over(name, f"{seconds:g} s", SECONDS, seconds) from error
    except OSError as error:
        raise MachineError(f"The renderer can't be started: {error.strerror or error}.") from error
    if ran.returncode == REFUSED:
        why = " ".join(ran.stdout.decode("utf-8", "replace").split())[:200]
        raise SourceError(f"{name}: the drawing can't be rendered ({why}).")
    if ran.returncode:
        raise _over(name, f"{megabytes:g} MB of memory", MEGABYTES, megabytes)
    with explained(name, "drawing"), our_switches():
        return Image.open(io.BytesIO(ran.stdout)).convert("RGBA")


def _limit(variable: str) -> float:
    try:
        stated = float(os.environ.get(variable, ""))
    except ValueError:
        stated = 0.0
    return stated if 0 < stated < 1e9 else LIMITS[variable]


def _over(name: str, what: str, variable: str, limit: float) -> SourceError:
    return SourceError(
        f"{name}: rendering it takes more than {what}. Simplify it, save it as a PNG, or allow"
        f" more: {variable}={limit * 4:g}"
    )
