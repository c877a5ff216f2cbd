"""Every key of a brief with its meaning, read off its declaration."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from brightcanvas.brief import entries
from brightcanvas.brief.entries import Flows


@dataclass(frozen=True)
class Key:
    """One key, as people write it."""

    table: str
    """Where it stands: ``[site]``, ``[[backdrop]]``, ``copy``."""
    name: str
    meaning: str
    choices: tuple[str, ...]
    """The words that it takes, where these are all there is."""
    default: str
    """As it would be written; empty: none, ``required``: there is none."""
    flows: bool
    """Whether a breakpoint may have its own, which narrower ones then have too."""


_TABLES: dict[str, type[BaseModel]] = {
    "[site]": entries.SiteEntry,
    "[[breakpoint]]": entries.BreakpointEntry,
    "[[screen]]": entries.ScreenEntry,
    "[[page]]": entries.PageEntry,
    "[[budget]]": entries.BudgetEntry,
    "[[backdrop]]": entries.BackdropEntry,
    "subject": entries.SubjectEntry,
    "copy": entries.CopyEntry,
    "scrim": entries.ScrimEntry,
    "tone": entries.ToneEntry,
    "pick_from": entries.OfferEntry,
    "[backdrop.clip]": entries.ClipEntry,
    "[backdrop.hosted]": entries.HostedEntry,
}


def all_keys() -> Iterator[Key]:
    """All keys, table by table."""
    for table, entry in _TABLES.items():
        yield from _keys_of(table, entry)


def _keys_of(table: str, entry: type[BaseModel]) -> Iterator[Key]:
    for name, field in entry.model_fields.items():
        flows = next((one for one in field.metadata if isinstance(one, Flows)), None)
        default = flows.default if flows else field.default
        if field.default_factory is not None:
            default = None
        yield Key(
            table, field.alias or name, field.description or "", tuple(_words(field.annotation)),
            _written(default), flows is not None,
        )  # fmt: skip


def _words(annotation: Any) -> Iterator[str]:  # noqa: ANN401 - any type
    """Of a choice among words, within whatever."""
    if get_origin(annotation) is Literal:
        yield from map(str, get_args(annotation))
        return
    for one in get_args(annotation):
        if not isinstance(one, (Flows, FieldInfo)):
            yield from _words(one)


def _written(value: object) -> str:
    if value is PydanticUndefined or value is ...:
        return "required"
    if value is None or value == "":
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, list):
        return ", ".join(map(str, value))
    return f"{value:g}" if isinstance(value, float) else str(value)


def as_markdown() -> str:
    """A page of tables."""
    lines = ["# The brief's keys", "", _INTRODUCTION]
    table = ""
    for key in all_keys():
        if key.table != table:
            table = key.table
            lines += ["", f"## `{table}`", "", _about(table), "", "| key | meaning | default |"]
            lines += ["|---|---|---|"]
        lines.append(f"| `{key.name}` | {_meaning(key)} | {_cell(key.default)} |")
    return "\n".join(lines) + "\n"


_INTRODUCTION = """\
Written by `bright-canvas keys --markdown` from the declarations in `brief/entries.py`. Keys marked
with ↓ may also stand under a breakpoint, as in `[backdrop.at.handheld]`; what is written there
holds for narrower breakpoints too, until one of them says otherwise."""


def _about(table: str) -> str:
    return (_TABLES[table].__doc__ or "").strip()


def _meaning(key: Key) -> str:
    words = f" ({', '.join(f'`{one}`' for one in key.choices)})" if key.choices else ""
    return f"{key.meaning.replace('|', '/')}{words}{' ↓' if key.flows else ''}"


def _cell(default: str) -> str:
    return f"`{default}`" if default and default != "required" else default or "none"
