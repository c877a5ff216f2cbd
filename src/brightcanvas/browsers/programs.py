"""Where a browser's program is: on the path, or where macOS and Windows keep it."""

from __future__ import annotations

import importlib.util
import os
import shutil
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.values.errors import MachineError

WINDOWS_FOLDERS = ("PROGRAMFILES", "PROGRAMFILES(X86)", "LOCALAPPDATA")
"""Environment variables that name the folders of programs."""


@dataclass(frozen=True)
class BrowserProgram:
    """What a browser's program is called on each system."""

    name: str
    option: str
    """With which it is asked for."""
    commands: tuple[str, ...]
    """On the path."""
    apps: tuple[str, ...]
    """On macOS, in a folder of applications."""
    executables: tuple[str, ...]
    """On Windows, in a folder of programs."""

    def find(self) -> str | None:
        """The path of the first one that is here; None: none is."""
        on_path = (shutil.which(name) for name in self.commands)
        places = (str(one) for one in self._places() if one.is_file())
        return next((one for one in on_path if one), None) or next(places, None)

    def path(self) -> str:
        """Where it is, with what asks it.

        Raises:
            MachineError: it isn't here, or there is nothing to ask it with.
        """
        advice = f'for {self.option}, install {self.name} and pip install "brightcanvas[browser]"'
        path = self.find()
        if path is None:
            raise MachineError(f"no {self.name} here: {advice}")
        if importlib.util.find_spec("websocket") is None:
            raise MachineError(f"{self.name} can't be asked: {advice}")
        return path

    def _places(self) -> Iterator[Path]:
        for folder in (Path("/Applications"), Path.home() / "Applications"):
            yield from (folder / app for app in self.apps)
        for folder in _named_folders(WINDOWS_FOLDERS):
            yield from (folder / executable for executable in self.executables)


def _named_folders(variables: Sequence[str]) -> list[Path]:
    return [Path(folder) for name in variables if (folder := os.environ.get(name))]


CHROMIUM = BrowserProgram(
    "Chromium",
    "--browser",
    ("chromium", "chromium-browser", "google-chrome", "chrome"),
    ("Chromium.app/Contents/MacOS/Chromium", "Google Chrome.app/Contents/MacOS/Google Chrome"),
    ("Chromium/Application/chrome.exe", "Google/Chrome/Application/chrome.exe"),
)
FIREFOX = BrowserProgram(
    "Firefox",
    "--browser firefox",
    ("firefox", "firefox-esr"),
    ("Firefox.app/Contents/MacOS/firefox",),
    ("Mozilla Firefox/firefox.exe",),
)
