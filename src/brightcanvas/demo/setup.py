"""Putting the example's brief and sources into a folder."""

from __future__ import annotations

from importlib.resources import files
from importlib.resources.abc import Traversable
from pathlib import Path

from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import write_whole

BRIEF = "brief.toml"


def set_up(folder: Path) -> Path:
    """Copy what is missing of the example into ``folder``; return the path of its brief.

    Files that are there already stay as they are: someone may be trying things out.

    Raises:
        BriefError: something else is in that place.
    """
    if folder.exists() and not folder.is_dir():
        raise BriefError(f"{folder} is a file: name a folder for the demo.")
    if folder.is_dir() and any(folder.iterdir()) and not (folder / BRIEF).exists():
        raise BriefError(f"{folder} holds other things: name an empty or a new folder.")
    _copy(files("brightcanvas.demo") / "marrowfen-mill", folder)
    return folder / BRIEF


def _copy(source: Traversable, target: Path) -> None:
    for entry in source.iterdir():
        place = target / entry.name
        if entry.is_dir():
            _copy(entry, place)
        elif not place.exists():
            write_whole(place, entry.read_bytes())
