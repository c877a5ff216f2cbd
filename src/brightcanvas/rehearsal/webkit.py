"""The WebKit of this machine's GTK, in windows on a screen that nobody sees."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from brightcanvas.css.screens import Viewer
from brightcanvas.rehearsal.seen import SeenLoad
from brightcanvas.rehearsal.throttled_server import ServedFolder
from brightcanvas.values.errors import MachineError

PYTHON = "/usr/bin/python3"
"""The system's own: GTK's modules belong to it."""

NEEDED = "gir1.2-webkit2-4.1, python3-gi, python3-gi-cairo and xvfb"
"""Debian's packages."""

_PROGRAM = Path(__file__).with_name("webkit_window.py")
PATIENCE, TRIES = 60.0, 2
"""Seconds until a window is given up, and windows: on a crowded machine one may never open."""

TOLD = """({
  width: innerWidth, height: innerHeight, density: devicePixelRatio,
  arrived: performance.getEntriesByType("navigation")[0].domInteractive,
})"""


class WebKit:
    """Started anew for every load, with a home of its own: nothing is left in a cache."""

    name = "WebKit"
    port = 0
    """Each window reaches the server that it is opened on, whichever that is."""

    def visit(self, served: ServedFolder, page: str, viewer: Viewer, patience: float) -> SeenLoad:
        """Load a page in a window; see ``Chromium.visit``. It tells no largest paint.

        Raises:
            MachineError: the window could not be opened.
        """
        asked = window_on(served, page, viewer, patience, script=TOLD)
        paths = tuple(one.path for one in served.taken())
        seen = Viewer(asked["width"], asked["height"], asked["density"])
        return SeenLoad(paths, None, "", asked["arrived"] / 1000, 0.0, (), seen)


def webkit() -> WebKit:
    """The browser.

    Raises:
        MachineError: there is none.
    """
    if not is_here():
        raise MachineError(f"no WebKit here: it needs Debian's {NEEDED}")
    return WebKit()


def is_here() -> bool:
    """Whether WebKit can be had: its library for GTK, and a screen that nobody sees."""
    if shutil.which("Xvfb") is None or not Path(PYTHON).exists():
        return False
    tried = 'import gi; gi.require_version("WebKit2", "4.1"); gi.require_version("Gtk", "3.0")'
    ran = subprocess.run([PYTHON, "-c", tried], capture_output=True, check=False)
    return ran.returncode == 0


def window_on(
    served: ServedFolder,
    page: str,
    viewer: Viewer,
    patience: float,
    **more: Any,  # noqa: ANN401
) -> Any:  # noqa: ANN401
    """Load a page of a served folder, whose log then holds this load alone; see ``window``."""
    for left in reversed(range(TRIES)):
        served.taken()
        try:
            return window(f"{served.address}/{page}", viewer, patience, **more)
        except MachineError:
            if not left:
                raise
    return None


def window(
    address: str,
    viewer: Viewer,
    patience: float,
    *,
    script: str = "null",
    **more: Any,  # noqa: ANN401
) -> Any:  # noqa: ANN401
    """Load a page in a window; what a script says there afterwards.

    Args:
        address: of the page.
        viewer: whole CSS px, and a whole density.
        patience: seconds after the load.
        script: an expression.
        more: see ``webkit_window``.

    Raises:
        MachineError: the window could not be opened, or never answered.
    """
    scale = max(1, round(viewer.density))
    width, height = round(viewer.width), round(viewer.height)
    asked = {"url": address, "width": width, "height": height, "patience": patience}
    text = json.dumps({**asked, "script": script, **more})
    with (
        tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as home,
        _screen(width * scale, height * scale) as display,
    ):
        env = {**os.environ, **_surroundings(home), "DISPLAY": display, "GDK_SCALE": str(scale)}
        command = [PYTHON, str(_PROGRAM), text]
        try:
            ran = subprocess.run(
                command, env=env, capture_output=True, check=False, timeout=PATIENCE
            )
        except subprocess.TimeoutExpired as error:
            raise MachineError(f"WebKit did not answer within {PATIENCE:.0f} s") from error
    try:
        return json.loads(ran.stdout)
    except ValueError as error:
        why = ran.stderr.decode("utf-8", "replace").strip().splitlines()[-1:]
        raise MachineError(f"WebKit could not load the page: {' '.join(why)}") from error


def _surroundings(home: str) -> Mapping[str, str]:
    return {
        "HOME": home, "XDG_RUNTIME_DIR": home, "XDG_CACHE_HOME": home, "XDG_DATA_HOME": home,
        "XDG_CONFIG_HOME": home, "WEBKIT_DISABLE_DMABUF_RENDERER": "1",
        "LIBGL_ALWAYS_SOFTWARE": "1", "NO_AT_BRIDGE": "1", "GDK_BACKEND": "x11",
    }  # fmt: skip


@contextmanager
def _screen(width: int, height: int) -> Iterator[str]:
    """A screen of so many px; its name for the environment."""
    told, tells = os.pipe()
    command = ["Xvfb", "-displayfd", str(tells), "-screen", "0", f"{width}x{height}x24"]
    command += ["-nolisten", "tcp"]
    quiet = subprocess.DEVNULL
    with subprocess.Popen(command, pass_fds=[tells], stdout=quiet, stderr=quiet) as running:
        try:
            os.close(tells)
            with os.fdopen(told) as said:
                number = said.readline().strip()  # it has to stay open until the line is whole
            if not number:
                raise MachineError("Xvfb could not be started")
            yield f":{number}"
        finally:
            running.terminate()
