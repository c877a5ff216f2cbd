"""The store: results of slow work, found again by the keys of their tasks.

Each entry begins with the digest of its key and content: one that was damaged, cut or exchanged
counts as lost, and is made again.

Nothing in a store is ever run: a folder that somebody sent us may hold anything. So a result is
JSON with its files' bytes behind it, and is rebuilt only as the type that is expected.
"""

from __future__ import annotations

import dataclasses
import hashlib
import json
import os
import re
import types
from collections.abc import Sequence
from enum import Enum
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any, Union, get_args, get_origin, get_type_hints

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


LENGTH = 8
"""Bytes of the length that stands first."""


def packed(value: object) -> bytes:
    """A result of plain data: dataclasses, tuples, enums, numbers, text, bytes."""
    blobs: list[bytes] = []
    plain = _plain(value, blobs)
    head = json.dumps({"value": plain, "blobs": [len(one) for one in blobs]}).encode()
    return len(head).to_bytes(LENGTH, "big") + head + b"".join(blobs)


def unpacked(kind: Any, content: bytes) -> Any:  # noqa: ANN401 - what ``kind`` says
    """The result of that type which ``packed`` gave.

    Raises:
        ValueError: it is none of that type.
    """
    end = LENGTH + int.from_bytes(content[:LENGTH], "big")
    try:
        head = json.loads(content[LENGTH:end])
        return _restored(kind, head["value"], _split(content[end:], head["blobs"]))
    except (KeyError, TypeError, IndexError, AttributeError) as error:
        raise ValueError(f"no {kind} is kept there") from error


def _split(content: bytes, lengths: Sequence[int]) -> list[bytes]:
    found, begin = [], 0
    for length in lengths:
        found.append(content[begin : begin + length])
        begin += length
    return found


def _plain(value: object, blobs: list[bytes]) -> object:
    if isinstance(value, bytes):
        blobs.append(value)
        return len(blobs) - 1
    if isinstance(value, Enum):
        return value.name
    if isinstance(value, Fraction):
        return [value.numerator, value.denominator]
    if isinstance(value, tuple):
        return [_plain(one, blobs) for one in value]
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        names = [one.name for one in dataclasses.fields(value)]
        return {name: _plain(getattr(value, name), blobs) for name in names}
    if value is None or isinstance(value, (bool, int, float, str)):
        return value
    raise TypeError(f"{type(value).__name__} can't be kept")


def _restored(kind: Any, plain: Any, blobs: Sequence[bytes]) -> Any:  # noqa: ANN401
    if get_origin(kind) in (Union, types.UnionType):
        [inner] = [one for one in get_args(kind) if one is not type(None)]
        return None if plain is None else _restored(inner, plain, blobs)
    if get_origin(kind) is tuple:
        return _tuple(get_args(kind), plain, blobs)
    if kind is bytes:
        return blobs[plain]
    if kind is Fraction:
        return Fraction(*plain)
    if issubclass(kind, Enum):
        return kind[plain]
    return (
        _of_fields(kind, plain, blobs) if dataclasses.is_dataclass(kind) else _simple(kind, plain)
    )


def _of_fields(kind: Any, plain: Any, blobs: Sequence[bytes]) -> Any:  # noqa: ANN401
    hints = _hints(kind)
    return kind(**{name: _restored(hints[name], one, blobs) for name, one in plain.items()})


def _tuple(kinds: tuple[Any, ...], plain: Any, blobs: Sequence[bytes]) -> tuple[Any, ...]:  # noqa: ANN401
    if kinds[-1] is Ellipsis:
        return tuple(_restored(kinds[0], one, blobs) for one in plain)
    return tuple(_restored(kind, one, blobs) for kind, one in zip(kinds, plain, strict=True))


def _simple(kind: type, plain: object) -> object:
    """A number that is a float stays one, written as 1 or not."""
    if kind is float and isinstance(plain, int):
        return float(plain)
    if isinstance(plain, kind):
        return plain
    raise ValueError(f"{plain!r} is no {kind.__name__}")


@cache
def _hints(kind: type) -> dict[str, Any]:
    # Without the class's own names: a property that is called ``bytes`` is no type.
    return get_type_hints(kind, localns={})
