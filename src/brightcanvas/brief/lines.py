"""Where in a TOML text each key stands, so that a mistake can be named with its line.

The standard parser gives values without places. This reader knows just enough of TOML
(table headers, keys, strings and brackets that run over several lines) to note the line
of every key outside inline values; a key inside one has the line of its outer key.
"""

from __future__ import annotations

import re
from collections import Counter

KeyPath = tuple[str | int, ...]

_KEY = r"""(?:[A-Za-z0-9_-]+|"(?:[^"\\]|\\.)*"|'[^']*')"""
_DOTTED = rf"{_KEY}(?:\s*\.\s*{_KEY})*"
_HEADER = re.compile(rf"\s*(?P<open>\[\[?)\s*(?P<keys>{_DOTTED})\s*\]")
_ENTRY = re.compile(rf"\s*(?P<keys>{_DOTTED})\s*=")
_PIECE = re.compile(
    r'''"""(?:[^\\]|\\.)*?"""|\'\'\'.*?\'\'\'|"(?:[^"\\\n]|\\.)*"|'[^'\n]*'|\#[^\n]*|[\[\]{}]|\n''',
    re.DOTALL,
)


class LineIndex:
    """The line (from 1) of every key of a TOML text."""

    def __init__(self, text: str) -> None:
        self._lines: dict[KeyPath, int] = {}
        self._arrays: Counter[KeyPath] = Counter()
        table: KeyPath = ()
        for number, line in outer_lines(text):
            if header := _HEADER.match(line):
                table = self._enter(_split(header["keys"]), is_array=header["open"] == "[[")
                self._lines.setdefault(table, number)
            elif entry := _ENTRY.match(line):
                path = table
                for key in _split(entry["keys"]):
                    path = (*path, key)
                    self._lines.setdefault(path, number)

    def _enter(self, keys: list[str], *, is_array: bool) -> KeyPath:
        """The path of a table header, with the numbers of the arrays it goes through."""
        path: KeyPath = ()
        for depth, key in enumerate(keys):
            path = (*path, key)
            if is_array and depth == len(keys) - 1:
                self._arrays[path] += 1
            if self._arrays[path]:
                path = (*path, self._arrays[path] - 1)
        return path

    def line(self, path: KeyPath) -> int:
        """The line of the key, or of the nearest key around it that is there."""
        while path and path not in self._lines:
            path = path[:-1]
        return self._lines.get(path, 1)


def _split(keys: str) -> list[str]:
    return [key.strip("\"'") for key in re.findall(_KEY, keys)]


def outer_lines(text: str) -> list[tuple[int, str]]:
    """The lines that don't begin inside a bracket or a string, numbered from 1."""
    inside = _lines_inside_values(text)
    return [(n, line) for n, line in enumerate(text.split("\n"), 1) if n not in inside]


def _lines_inside_values(text: str) -> set[int]:
    inside: set[int] = set()
    depth, number = 0, 1
    for piece in _PIECE.findall(text):
        if piece in ("[", "{"):
            depth += 1
        elif piece in ("]", "}"):
            depth = max(0, depth - 1)
        starts = range(number + 1, number + piece.count("\n") + 1)
        if depth or len(piece) > 1:
            inside.update(starts)
        number += len(starts)
    return inside
