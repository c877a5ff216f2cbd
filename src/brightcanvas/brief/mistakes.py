"""Turning what a check found into a line that a designer can act on."""

from __future__ import annotations

import difflib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from brightcanvas.brief.lines import KeyPath, LineIndex
from brightcanvas.brief.schema import (
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
    template = _EXPECTED.get(found["type"])
    if template is None:
        return Mistake(path, str(found["msg"]))
    return Mistake(path, "expected " + template.format(**found.get("ctx", {})))


def _hint(path: KeyPath) -> str:
    fields = _table_at(path[:-1]).model_fields
    return nearest(str(path[-1]), [field.alias or name for name, field in fields.items()])


def nearest(word: str, known: list[str]) -> str:
    """The end of a message that offers the nearest known word, or all of them."""
    close = difflib.get_close_matches(word, known, n=1, cutoff=0.6)
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
