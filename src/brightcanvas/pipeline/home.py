"""Our own folder beside a brief: the store, and the notes from run to run."""

from __future__ import annotations

from pathlib import Path

from brightcanvas.values.errors import MachineError

STORE_FOLDER = ".bright-canvas"
"""Its name."""


def own_folder(beside: Path) -> Path:
    """Our own folder in the folder of a brief.

    Raises:
        MachineError: it is a link, or no folder: what it leads to may be anybody's.
    """
    folder = beside / STORE_FOLDER
    check_own(folder)
    return folder


def check_own(folder: Path) -> None:
    """Make sure that a folder of ours, if it is there, is one itself.

    Raises:
        MachineError: it is a link, or a file.
    """
    try:
        is_link, is_other = folder.is_symlink(), folder.exists() and not folder.is_dir()
    except OSError as error:
        raise MachineError(f"{folder} can't be looked at: {error.strerror or error}.") from error
    if is_link or is_other:
        what = "is a link" if is_link else "is no folder"
        raise MachineError(
            f"{folder} {what}, but Bright Canvas keeps its own things there: move it."
        )


def is_plain_file(path: Path) -> bool:
    """Whether something is a regular file itself, and no link to one."""
    return path.is_file() and not path.is_symlink()
