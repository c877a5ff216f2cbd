"""The store: results of slow work, found again by the keys of their tasks.

Each entry begins with the digest of its key and content: one that was damaged, cut or exchanged
counts as lost, and is made again.
"""

from __future__ import annotations

import hashlib
import os
import re
from pathlib import Path

from brightcanvas.pipeline.home import check_own, is_plain_file
from brightcanvas.values.files import read_regular, write_whole

DIGEST = hashlib.sha256().digest_size
"""Bytes of the digest before each entry's content."""


ENTRY = re.compile(r"[0-9a-f]{64}|\.aside-\w{8}")
"""Names of results, and of what killed runs were writing."""


class Store:
    """A folder of results.

    Raises:
        MachineError: it is a link, here and wherever one of its own folders is.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        check_own(folder / "made")
        self._checked: set[Path] = set()
        self._used: set[str] = set()
        self.damaged = 0
        """Entries that were found damaged, so far."""

    def find(self, key: str) -> bytes | None:
        """The result kept under ``key``, if there is one, whole; it counts as used now."""
        self._used.add(key)
        try:
            place = self._place(key)
            entry = read_regular(place)
            os.utime(place)
        except OSError:
            return None
        digest, content = entry[:DIGEST], entry[DIGEST:]
        if digest == _digest_of(key, content):
            return content
        self.damaged += 1
        return None

    def keep(self, key: str, content: bytes) -> None:
        """Keep a result."""
        self._used.add(key)
        write_whole(self._place(key), _digest_of(key, content) + content)

    def trim(self, room: int) -> None:
        """Remove what was used longest ago until the rest takes up no more than ``room`` bytes.

        What this run has used stays.
        """
        entries = [(path, path.stat()) for path in self.entries()]
        total = sum(found.st_size for _, found in entries)
        for path, found in sorted(entries, key=lambda entry: entry[1].st_mtime_ns):
            if total <= room:
                return
            if path.name not in self._used:
                path.unlink(missing_ok=True)
                total -= found.st_size

    def entries(self) -> list[Path]:
        """The files of all results, and what killed runs left behind of them.

        What is called otherwise, or is reached through a link, is none of ours.
        """
        shelves = [one for one in (self.folder / "made").glob("??") if not one.is_symlink()]
        entries = (path for shelf in shelves for path in shelf.glob("*"))
        return [one for one in entries if ENTRY.fullmatch(one.name) and is_plain_file(one)]

    def clear(self) -> int:
        """Remove everything; returns the bytes that are free now."""
        entries = self.entries()
        freed = sum(path.stat().st_size for path in entries)
        for path in entries:
            path.unlink(missing_ok=True)
        return freed

    def _place(self, key: str) -> Path:
        shelf = self.folder / "made" / key[:2]
        if shelf not in self._checked:
            check_own(shelf)
            self._checked.add(shelf)
        return shelf / key


def _digest_of(key: str, content: bytes) -> bytes:
    """Of the key too: an entry under another one's name is as bad as a damaged one."""
    return hashlib.sha256(key.encode() + content).digest()
