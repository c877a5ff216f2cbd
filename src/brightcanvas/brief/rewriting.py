"""Changing a brief's text: one value where it stands, everything else as it was written."""

from __future__ import annotations

import difflib
import math
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import tomlkit
from tomlkit.items import AbstractTable, InlineTable, Item

from brightcanvas.brief.by_breakpoint import names_of
from brightcanvas.brief.entries import DEFAULT_BREAKPOINTS, BriefEntry
from brightcanvas.brief.mistakes import KeyPath, LineIndex, outer_lines
from brightcanvas.values.errors import BriefError

FINENESS = 4
"""Decimals of fractions: a ten-thousandth of a picture 6000 px wide is less than a px."""

Table = Any
"""A table of the parser's, whose own types say little."""


@dataclass(frozen=True)
class Change:
    """One value that is to stand in a brief."""

    backdrop: str
    """Its name; empty: the key is a new breakpoint's."""
    breakpoint: str
    """Empty: as it is on the widest screens."""
    key: str
    """A key of ``SlotEntry``, or ``breakpoint`` for a new one."""
    value: Any
    """As JSON has it; None: it is taken out."""

    @property
    def place(self) -> tuple[str, str, str]:
        """What two changes share of which the later one counts."""
        return self.backdrop, self.breakpoint, self.key


def rewritten(text: str, entry: BriefEntry, changes: Iterable[Change]) -> str:
    """A brief's text with changes made.

    Comments, order and layout stay; each line keeps its end, and new ones end as that above.

    Args:
        text: of the brief.
        entry: what is written in it.
        changes: later ones count.

    Raises:
        BriefError: a change is for something that the brief doesn't have.
    """
    mark = "\ufeff" if text.startswith("\ufeff") else ""  # of the encoding, as some editors write
    before, names = text.removeprefix(mark), names_of(entry.backdrop)
    text = before.replace("\r\n", "\n")
    breakpoints = [one.name for one in entry.breakpoint]
    for change in changes:
        if change.key == "breakpoint":
            text = _with_breakpoint(text, change.value)
        elif change.backdrop not in names:
            raise BriefError(f"There is no backdrop '{change.backdrop}' in the brief any more.")
        elif change.breakpoint and change.breakpoint not in breakpoints:
            raise BriefError(f"There is no breakpoint '{change.breakpoint}' in the brief any more.")
        else:
            text = _with_value(text, names.index(change.backdrop), change)
    return mark + _with_ends(before, text)


def _with_ends(before: str, after: str) -> str:
    """A changed text with the line ends that its lines had."""
    if "\r\n" not in before:
        return after
    old, new = before.split("\n"), after.split("\n")
    plain = [one.removesuffix("\r") for one in old]
    ends: dict[int, str] = {}
    matcher = difflib.SequenceMatcher(None, plain, new, autojunk=False)
    for there, here, size in matcher.get_matching_blocks():
        ends |= {
            here + k: "\r\n" if old[there + k].endswith("\r") else "\n"
            for k in range(size) if there + k < len(old) - 1  # the last one has no end
        }  # fmt: skip
    last, found = "\r\n" if old[0].endswith("\r") else "\n", ""
    for number, line in enumerate(new[:-1]):
        last = ends.get(number, last)
        found += line + last
    return found + new[-1]


def _with_value(text: str, number: int, change: Change) -> str:
    document = tomlkit.parse(text)
    base: Table = document["backdrop"][number]
    overrides = base.get("at", {}) if change.breakpoint else {}
    table = overrides.get(change.breakpoint) if change.breakpoint else base
    path = ("backdrop", number, *(("at", change.breakpoint) if change.breakpoint else ()))
    is_new = change.value is not None and (table is None or change.key not in table)
    line = f"{change.key} = {_written(change.value)}" if is_new else ""
    if is_new and table is None and not isinstance(base, InlineTable):
        return _with_override(text, number, [f"[backdrop.at.{change.breakpoint}]", line])
    if is_new and (header := _header_of(text, path)):
        return _with_line(text, header, line)
    if is_new and table is None:
        table = base.setdefault("at", tomlkit.inline_table())
        table[change.breakpoint] = table = tomlkit.inline_table()
    if table is not None:
        _put(table, change.key, change.value)
    return str(tomlkit.dumps(document))


def _put(table: Table, key: str, value: Any) -> None:  # noqa: ANN401 - any value
    """Write a value, and as little as can be: of a table only the keys that differ."""
    if value is None:
        if key in table:
            del table[key]
        return
    there = table.get(key)
    if isinstance(value, Mapping) and isinstance(there, AbstractTable):
        for inner in [one for one in there if one not in value]:
            del there[inner]
        for inner, one in value.items():
            _put(there, inner, one)
    elif not (isinstance(there, Item) and _is_same(there.unwrap(), _rounded(value))):
        table[key] = tomlkit.value(_written(value))


def _is_same(there: Any, value: Any) -> bool:  # noqa: ANN401 - any value
    return bool(there == value) and isinstance(there, bool) == isinstance(value, bool)


def _written(value: Any) -> str:  # noqa: ANN401 - any value
    """A value as people write it."""
    if isinstance(value, Mapping):
        if not all(re.fullmatch("[a-z_]+", str(key)) for key in value):
            raise BriefError("There is no such key in a brief.")
        return f"{{ {', '.join(f'{key} = {_written(one)}' for key, one in value.items())} }}"
    if isinstance(value, list):
        return f"[{', '.join(map(_written, value))}]"
    try:
        return str(tomlkit.item(_rounded(value)).as_string())
    except (TypeError, ValueError) as error:
        raise BriefError("That is no value for a brief.") from error


def _rounded(value: Any) -> Any:  # noqa: ANN401 - any value
    if isinstance(value, float):
        return int(value) if value.is_integer() and abs(value) > 1 else round(value, FINENESS)
    return [_rounded(one) for one in value] if isinstance(value, list) else value


def _header_of(text: str, path: KeyPath) -> int | None:
    """The line of a table's header; None where it has none."""
    line = LineIndex(text).line(path)
    return line if line in dict(_headers(text)) else None


def _with_line(text: str, header: int, line: str) -> str:
    """With one more line at the end of a table."""
    lines = text.split("\n")
    following = next((n for n, _ in _headers(text) if n > header), len(lines) + 1)
    lines.insert(_without_tail(lines, following - 1), line)
    return "\n".join(lines)


def _with_override(text: str, number: int, table: list[str]) -> str:
    """With a table for a breakpoint, behind everything that its backdrop has."""
    found = [n for n, line in _headers(text) if re.match(r"\s*\[\[\s*backdrop\s*\]\]", line)]
    following = [n for n, line in _headers(text) if n > found[number] and not _is_inner(line)]
    lines = text.split("\n")
    end = _without_tail(lines, following[0] - 1 if following else len(lines))
    lines[end:end] = ["", *table]
    return "\n".join(lines)


def _is_inner(header: str) -> bool:
    return bool(re.match(r"\s*\[\[?\s*backdrop\s*\.", header))


def _with_breakpoint(text: str, wanted: Mapping[str, Any]) -> str:
    """With one more breakpoint before the first wider one; built-in ones are written out."""
    name, below = str(wanted["name"]), float(wanted["below"])
    added = _breakpoint(name, below)
    listed = tomlkit.parse(text).unwrap().get("breakpoint")
    if listed is None:
        tables = [(one.below, _breakpoint(one.name, one.below)) for one in DEFAULT_BREAKPOINTS]
        before = [table for edge, table in tables if edge is not None and edge < below]
        after = [table for edge, table in tables if edge is None or edge > below]
        place = min((n for n, _ in _headers(text)), default=1) - 1
        added = [line for table in (*before, added, *after) for line in table]
    else:
        heads = [n for n, line in _headers(text) if re.match(r"\s*\[\[\s*breakpoint\b", line)]
        edges = [one.get("below", math.inf) for one in listed]
        place = next(n for n, edge in zip(heads, edges, strict=True) if edge > below) - 1
    lines = text.split("\n")
    while place and lines[place - 1].lstrip().startswith("#"):
        place -= 1
    lines[place:place] = added
    return "\n".join(lines)


def _breakpoint(name: str, below: float | None) -> list[str]:
    edge = [] if below is None else [f"below = {_written(below)}"]
    return ["[[breakpoint]]", f'name = "{name}"', *edge, ""]


def _headers(text: str) -> list[tuple[int, str]]:
    """The lines that open a table, numbered from 1."""
    return [(n, line) for n, line in outer_lines(text) if line.lstrip().startswith("[")]


def _without_tail(lines: list[str], end: int) -> int:
    """Where lines end that say something: blank ones and comments belong to what follows."""
    while end and (not lines[end - 1].strip() or lines[end - 1].lstrip().startswith("#")):
        end -= 1
    return end
