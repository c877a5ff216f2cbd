"""What a check found, turned into a line that a designer can act on, with its place in the text.

The standard parser gives values without places. This reader knows just enough of TOML
(table headers, keys, strings and brackets that run over several lines) to note the line
of every key outside inline values; a key inside one has the line of its outer key.
"""

from __future__ import annotations

import difflib
import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from brightcanvas.brief.entries import (
    BackdropEntry,
    BreakpointEntry,
    BriefEntry,
    BudgetEntry,
    CopyEntry,
    FadeEntry,
    OfferEntry,
    ScreenEntry,
    ScrimEntry,
    SiteEntry,
    SlotEntry,
    SubjectEntry,
    ToneEntry,
)

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


_EXPECTED = {
    "string_type": "text in quotes",
    "bool_type": "true or false",
    "float_type": "a number",
    "finite_number": "a number",
    "list_type": "a list in square brackets",
    "model_type": "a table",
    "model_attributes_type": "a table",
    "dict_type": "a table",
    "literal_error": "one of {expected}",
    "greater_than": "a number above {gt:g}",
    "greater_than_equal": "a number of at least {ge:g}",
    "less_than_equal": "a number of at most {le:g}",
    "too_short": "{min_length} entries",
    "too_long": "{max_length} entries",
    "value_error": "{error}",
}


@dataclass(frozen=True)
class Mistake:
    """One thing to mend in a brief."""

    path: KeyPath
    says: str

    def told(self, file: str, lines: LineIndex) -> str:
        """The line for the user: file, line, key, what was expected."""
        key = f"{key_text(self.path)}: " if self.path else ""
        return f"{file}, line {lines.line(self.path)}: {key}{self.says}"


def mistakes_of(error: ValidationError) -> list[Mistake]:
    """All mistakes that the schema found, in plain words."""
    return [_mistake(dict(found)) for found in error.errors()]


def _mistake(found: Mapping[str, Any]) -> Mistake:
    path = tuple(part for part in found["loc"])
    if found["type"] == "extra_forbidden":
        return Mistake(path, f"there is no such key{_hint(path)}")
    if found["type"] == "missing":
        return Mistake(path, "is missing")
    if found["type"] == "list_type" and len(path) == 1 and isinstance(found["input"], dict):
        return Mistake(path, f"there may be several, so write [[{path[0]}]] instead of [{path[0]}]")
    template = _EXPECTED.get(found["type"])
    if template is None:
        return Mistake(path, str(found["msg"]))
    return Mistake(path, "expected " + template.format(**found.get("ctx", {})))


def _hint(path: KeyPath) -> str:
    fields = _table_at(path[:-1]).model_fields
    return nearest(str(path[-1]), [field.alias or name for name, field in fields.items()])


_OTHER_WORDS = {
    "alt": ("alternative",),
    "background-color": ("colour",),
    "color": ("colour",),
    "file": ("source",),
    "focal": ("point", "subject"),
    "focus": ("point", "subject"),
    "headline": ("copy",),
    "image": ("source",),
    "img": ("source",),
    "overlay": ("scrim",),
    "photo": ("source",),
    "picture": ("source",),
    "selector": ("element",),
    "src": ("source",),
    "text": ("copy",),
    "title": ("copy",),
    "tile": ("repeat",),
    "veil": ("scrim",),
    "video": ("clip",),
}
"""Words of every day and of CSS for keys of ours."""


def nearest(word: str, known: list[str]) -> str:
    """The end of a message that offers the nearest known word, or all of them."""
    meant = [other for other in _OTHER_WORDS.get(word.lower(), ()) if other in known]
    close = meant or difflib.get_close_matches(word, known, n=1, cutoff=0.6)
    return f"; did you mean {close[0]}?" if close else f"; known here: {', '.join(known)}"


def _table_at(path: KeyPath) -> type[BaseModel]:
    """Which table of the schema a path leads to."""
    keys = [part for part in path if isinstance(part, str)]
    if keys and keys[-1] in _INNER_TABLES:
        return _INNER_TABLES[keys[-1]]
    if len(keys) == 3 and keys[:2] == ["backdrop", "at"]:
        return SlotEntry
    return _TABLES.get(keys[0], BriefEntry) if keys else BriefEntry


_INNER_TABLES: dict[str, type[BaseModel]] = {
    "subject": SubjectEntry,
    "copy": CopyEntry,
    "scrim": ScrimEntry,
    "tone": ToneEntry,
    "fade": FadeEntry,
    "pick_from": OfferEntry,
}
_TABLES: dict[str, type[BaseModel]] = {
    "site": SiteEntry,
    "breakpoint": BreakpointEntry,
    "screen": ScreenEntry,
    "backdrop": BackdropEntry,
    "budget": BudgetEntry,
}


def key_text(path: KeyPath) -> str:
    """A key's path for people: ``backdrop 2, at.handheld.height``; arrays count from 1."""
    words: list[str] = []
    for part in path:
        if isinstance(part, str):
            words.append(f".{part}" if words and not words[-1].endswith(" ") else part)
        elif len(words) == 1:
            words.append(f" {part + 1}, ")
        else:
            words.append(f" entry {part + 1}")
    return "".join(words).rstrip(", ")
