"""Files that are there whole or not at all."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path

from brightcanvas.values.errors import MachineError

ASIDE = ".aside-"
"""How the names of files begin that are being written."""


def write_whole(path: Path, content: bytes) -> None:
    """Write a file aside, flush it, and put it in its place in one step.

    Raises:
        MachineError: the disk is full, the folder may not be written, and the like.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, aside = tempfile.mkstemp(dir=path.parent, prefix=ASIDE)
    except OSError as error:
        raise _refused(path, error) from error
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        Path(aside).chmod(0o644)
        Path(aside).replace(path)
    except OSError as error:
        raise _refused(path, error) from error
    finally:
        with contextlib.suppress(OSError):
            Path(aside).unlink(missing_ok=True)


def _refused(path: Path, error: OSError) -> MachineError:
    return MachineError(f"{path} can't be written: {error.strerror or error}.")
