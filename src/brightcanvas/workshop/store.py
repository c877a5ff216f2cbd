"""The store: results of slow work, found again by what they were made from.

A key is the hash of everything that decides the result: the source's bytes, the
parameters, the version of our own code's results and of the codec. So nothing in the store
ever gets stale, and a second run with nothing changed finds all of it.
"""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from brightcanvas.workshop.files import write_whole

RESULTS_VERSION = 2
"""Raised whenever our own code gives other pixels or other bytes for the same parameters."""


class Store:
    """A folder of results."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def find(self, key: str) -> bytes | None:
        """The result kept under ``key``, if there is one."""
        try:
            return self._place(key).read_bytes()
        except OSError:
            return None

    def keep(self, key: str, content: bytes) -> None:
        """Keep a result."""
        write_whole(self._place(key), content)

    def _place(self, key: str) -> Path:
        return self.folder / "made" / key[:2] / key


def key_of(**parts: Any) -> str:  # noqa: ANN401 - anything that JSON can hold
    """The key of a result that is decided by ``parts``."""
    text = json.dumps({"results": RESULTS_VERSION, **parts}, sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()
