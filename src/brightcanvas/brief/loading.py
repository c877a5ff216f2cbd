"""Reading a brief: text in, a checked Brief out, or all its mistakes at once."""

from __future__ import annotations

import errno
import hashlib
import shlex
import tomllib
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import groupby
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from brightcanvas.brief.brief import Brief
from brightcanvas.brief.by_breakpoint import names_of, resolve
from brightcanvas.brief.entries import BackdropEntry, BriefEntry, SlotEntry
from brightcanvas.brief.measured_file import with_measured
from brightcanvas.brief.mistakes import KeyPath, LineIndex, Mistake, mistakes_of, nearest
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import likely_page, read_regular

LARGEST_BRIEF = 4_000_000
"""Bytes. A longer file is no brief."""


def load_brief(path: Path) -> Brief:
    """Read the brief at ``path``.

    Raises:
        BriefError: naming every mistake with file, line, key and what was expected.
    """
    return brief_of(read_content(path), path)


def brief_of(content: bytes, path: Path) -> Brief:
    """The brief that a file's content is.

    Raises:
        BriefError: see load_brief.
    """
    return complete(entry_of(content, path), path, hashlib.sha256(content).hexdigest())


def complete(entry: BriefEntry, path: Path, digest: str) -> Brief:
    """The brief of what is written, with the copy that was measured for it.

    Raises:
        BriefError: a file of measured copy can't be used.
    """
    return with_measured(resolve(entry, path, digest))


def entry_of(content: bytes, path: Path) -> BriefEntry:
    """What is written in a brief, checked.

    Raises:
        BriefError: see load_brief.
    """
    text = _text(path, content)
    try:
        data = tomllib.loads(text)
        entry = BriefEntry.model_validate(_with_floats(data))
    except ValidationError as error:
        raise _told(mistakes_of(error), path, text) from error
    except RecursionError as error:
        raise BriefError(f"{path.name} is nested too deeply to be a brief.") from error
    except (ValueError, OverflowError) as error:  # endless numbers are no TOMLDecodeError
        raise BriefError(f"{path.name} is not valid TOML: {error}{_advice(str(error))}") from error
    if mistakes := list(_contradictions(entry)):
        raise _told(mistakes, path, text)
    return entry


def brief_schema() -> dict[str, Any]:
    """The brief's JSON Schema, for editors that complete and check while one types."""
    schema = BriefEntry.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}


def read_content(path: Path) -> bytes:
    """A brief's file as it is.

    Raises:
        BriefError: it can't be read, or is no brief.
    """
    try:
        return read_regular(path, LARGEST_BRIEF)
    except FileNotFoundError as error:
        raise BriefError(
            f"There is no brief at {path}. Name one, or start from: {_beginning(path.parent)}"
        ) from error
    except OSError as error:
        if error.errno == errno.EFBIG:
            says = f"{path.name} is too long for a brief: is it the right file?"
        else:
            says = f"{path} can't be read: {error.strerror or error}."
        raise BriefError(says) from error


def _advice(error: str) -> str:
    """What to do about a backslash, which begins a path of Windows more often than a sign."""
    if "hex value" in error or "Unescaped" in error:
        return ". In paths write / instead of \\: C:/Users/..."
    return ""


def _beginning(folder: Path) -> str:
    """How to come to a brief from what lies in a folder."""
    page = likely_page(path.name for path in folder.glob("*.htm*") if path.is_file())
    return f"bright-canvas begin {shlex.quote(page)}" if page else "bright-canvas demo"


def _text(path: Path, content: bytes) -> str:
    try:
        return content.decode("utf-8-sig").replace("\r\n", "\n")
    except UnicodeDecodeError as error:
        raise BriefError(f"{path} can't be read as a text file (UTF-8): {error}") from error


def _told(mistakes: list[Mistake], path: Path, text: str) -> BriefError:
    lines = LineIndex(text)
    mistakes = sorted(mistakes, key=lambda mistake: lines.line(mistake.path))
    return BriefError("\n".join(mistake.told(path.name, lines) for mistake in mistakes))


def _with_floats(value: Any) -> Any:  # noqa: ANN401 - TOML's values are of any type
    """Whole numbers as floats: in a brief 640 and 640.0 mean the same."""
    if isinstance(value, dict):
        return {key: _with_floats(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_with_floats(inner) for inner in value]
    return float(value) if isinstance(value, int) and not isinstance(value, bool) else value


def _contradictions(entry: BriefEntry) -> Iterator[Mistake]:
    """What no single table can know about itself."""
    yield from _breakpoint_mistakes(entry)
    yield from _repeated_names(entry)
    yield from _backdrop_mistakes(entry)
    yield from _budget_mistakes(entry)
    yield from _page_mistakes(entry)


def _breakpoint_mistakes(entry: BriefEntry) -> Iterator[Mistake]:
    """The ranges go from narrow to wide, and only twins of two orientations share one."""
    ranges = [
        (edge, [index for index, _ in group])
        for edge, group in groupby(enumerate(entry.breakpoint), key=lambda item: item[1].below)
    ]
    before = 0.0
    for number, (edge, indices) in enumerate(ranges):
        path = ("breakpoint", indices[0], "below")
        is_last = number == len(ranges) - 1
        if is_last and edge is not None:
            yield Mistake(path, "expected none: the last breakpoint is open upwards")
        elif not is_last and edge is None:
            yield Mistake(path, "is missing: only the last breakpoint is open upwards")
        elif edge is not None and edge <= before:
            says = f"expected more than {before:g}: breakpoints go from narrow to wide"
            yield Mistake(path, says)
        before = edge or before
        yield from _twin_mistakes(entry, indices)


def _budget_mistakes(entry: BriefEntry) -> Iterator[Mistake]:
    """A budget is for something that the brief has."""
    breakpoints = [one.name for one in entry.breakpoint]
    backdrops = names_of(entry.backdrop)
    for index, one in enumerate(entry.budget):
        if one.breakpoint and one.breakpoint not in breakpoints:
            says = f"expected the name of a breakpoint: {', '.join(breakpoints)}"
            yield Mistake(("budget", index, "breakpoint"), says)
        if one.backdrop and one.backdrop not in backdrops:
            says = "expected the name of a backdrop in this brief"
            yield Mistake(("budget", index, "backdrop"), says)


def _page_mistakes(entry: BriefEntry) -> Iterator[Mistake]:
    """A page has backdrops of this brief, and a name of its own."""
    names = Counter(one.name for one in entry.page)
    known = names_of(entry.backdrop)
    for index, page in enumerate(entry.page):
        if names[page.name] > 1:
            yield Mistake(("page", index, "name"), f"'{page.name}' is taken twice")
        for one in page.backdrops:
            if one not in known:
                says = f"expected the name of a backdrop in this brief{nearest(one, known)}"
                yield Mistake(("page", index, "backdrops"), says)


def _twin_mistakes(entry: BriefEntry, indices: list[int]) -> Iterator[Mistake]:
    named = sorted(str(entry.breakpoint[index].orientation) for index in indices)
    if named not in (["None"], ["landscape", "portrait"]):
        path = ("breakpoint", indices[-1], "orientation")
        says = "expected twins: two breakpoints with the same 'below', portrait and landscape"
        yield Mistake(path, says)


def _repeated_names(entry: BriefEntry) -> Iterator[Mistake]:
    breakpoints = Counter(one.name for one in entry.breakpoint)
    for index, one in enumerate(entry.breakpoint):
        if breakpoints[one.name] > 1:
            yield Mistake(("breakpoint", index, "name"), f"'{one.name}' is taken twice")
    backdrops = Counter(one.name for one in entry.backdrop if one.name)
    for number, backdrop in enumerate(entry.backdrop):
        if backdrop.name and backdrops[backdrop.name] > 1:
            yield Mistake(("backdrop", number, "name"), f"'{backdrop.name}' is taken twice")


def _backdrop_mistakes(entry: BriefEntry) -> Iterator[Mistake]:
    known = [one.name for one in entry.breakpoint]
    for index, backdrop in enumerate(entry.backdrop):
        for name in backdrop.at:
            if name not in known:
                says = f"there is no such breakpoint{nearest(name, known)}"
                yield Mistake(("backdrop", index, "at", name), says)
        for path, slot in _slots_of(index, backdrop):
            if slot.source and slot.pick_from:
                yield Mistake((*path, "pick_from"), "expected either source or pick_from, not both")
            if slot.drift and "::" in backdrop.element:
                yield Mistake((*path, "drift"), "needs an element: a pseudo-element has no layer")
            if slot.drift and (slot.attachment or backdrop.attachment) == "fixed":
                yield Mistake((*path, "drift"), "and attachment = 'fixed' exclude each other")
        yield from _kept_mistakes(index, backdrop)
        yield from _moving_mistakes(index, backdrop)
        yield from _element_mistakes(index, backdrop)
        yield from _missing_sources(("backdrop", index), backdrop, known)


def _kept_mistakes(index: int, backdrop: BackdropEntry) -> Iterator[Mistake]:
    """Where the page's own boxes and rules stay, nothing may be stated in their place."""
    slots = list(_slots_of(index, backdrop))
    for path, slot in slots:
        stated = [key for key in ("height", "width", "padding", "growth") if getattr(slot, key)]
        if backdrop.measured and stated:
            yield Mistake((*path, stated[0]), "and measured exclude each other: it is measured")
        if slot.measured and path != ("backdrop", index):
            yield Mistake((*path, "measured"), "is one file for all breakpoints")
        if slot.layers and (slot.replaces or backdrop.replaces) != "picture":
            yield Mistake((*path, "layers"), "needs replaces = 'picture'")
    is_kept = any(slot.replaces == "picture" for _, slot in slots)
    if backdrop.form == "img" and backdrop.replaces != "picture":
        yield Mistake(("backdrop", index, "form"), "img needs replaces = 'picture'")
    if not is_kept:
        return
    yield from _veiled_mistakes(slots)
    for key, is_set in (("form", backdrop.form == "element"), ("clip", backdrop.clip),
                        ("hosted", backdrop.hosted), ("drift", backdrop.drift)):  # fmt: skip
        if is_set:
            says = "and replaces = 'picture' exclude each other"
            yield Mistake(("backdrop", index, key), says)


def _veiled_mistakes(slots: Sequence[tuple[KeyPath, SlotEntry]]) -> Iterator[Mistake]:
    """Beneath the page's own layers a scrim is a tint of the picture, and even."""
    for path, slot in slots:
        if slot.scrim and (slot.scrim.side or slot.scrim.lines):
            says = "is an even tint of the picture where replaces = 'picture': no side, no lines"
            yield Mistake((*path, "scrim"), says)


def _element_mistakes(index: int, backdrop: BackdropEntry) -> Iterator[Mistake]:
    """A picture behind the content fills its box once, in one piece."""
    path = ("backdrop", index)
    if backdrop.alternative and backdrop.form != "element":
        yield Mistake((*path, "alternative"), "needs form = 'element': a background has no words")
    if backdrop.form != "element":
        return
    if "::" in backdrop.element:
        yield Mistake((*path, "form"), "needs an element, not a pseudo-element")
    if backdrop.clip or backdrop.hosted:
        yield Mistake((*path, "form"), "goes without [backdrop.clip] and [backdrop.hosted]")
    yield from _unlike_elements(index, backdrop)


def _unlike_elements(index: int, backdrop: BackdropEntry) -> Iterator[Mistake]:
    for place, slot in _slots_of(index, backdrop):
        for key in ("drift", "repeat", "seamless", "whole_motifs"):
            if getattr(slot, key) not in (None, 0.0, "no-repeat", False):
                yield Mistake((*place, key), "and form = 'element' exclude each other")
        if slot.size not in (None, "cover", "contain"):
            yield Mistake((*place, "size"), "expected cover or contain, with form = 'element'")
    if len({slot.attachment for _, slot in _slots_of(index, backdrop) if slot.attachment}) > 1:
        path = ("backdrop", index, "attachment")
        yield Mistake(path, "is one for all breakpoints, with form = 'element'")


def _moving_mistakes(index: int, backdrop: BackdropEntry) -> Iterator[Mistake]:
    """A clip fills its element once, and scrolls with it."""
    if not backdrop.clip and not backdrop.hosted:
        return
    if backdrop.clip and backdrop.hosted:
        yield Mistake(("backdrop", index, "hosted"), "and [backdrop.clip] exclude each other")
    kind = "clip" if backdrop.clip else "hosted"
    if "::" in backdrop.element:
        yield Mistake(("backdrop", index, kind), "needs an element, not a pseudo-element")
    for path, slot in _slots_of(index, backdrop):
        for key in ("drift", "repeat", "attachment"):
            if getattr(slot, key) not in (None, 0.0, "no-repeat", "scroll"):
                yield Mistake((*path, key), f"and [backdrop.{kind}] exclude each other")


def _slots_of(index: int, backdrop: BackdropEntry) -> Iterator[tuple[KeyPath, SlotEntry]]:
    yield ("backdrop", index), backdrop
    for name, override in backdrop.at.items():
        yield ("backdrop", index, "at", name), override


def _source_of(entry: SlotEntry) -> str | None:
    return entry.source or (entry.pick_from[0].source if entry.pick_from else None)


def _missing_sources(path: KeyPath, backdrop: BackdropEntry, known: list[str]) -> Iterator[Mistake]:
    """A picture is wanted, but none is named here or for wider screens."""
    says = "is missing (or plain = true for a colour only)"
    if _source_of(backdrop) is None and not backdrop.plain:
        yield Mistake((*path, "source"), says)
        return
    source, plain = _source_of(backdrop), backdrop.plain
    for name in reversed(known):
        override = backdrop.at.get(name)
        if override is None:
            continue
        named = _source_of(override)
        source = named or source
        plain = override.plain if override.plain is not None else plain and not named
        if source is None and not plain:
            yield Mistake((*path, "at", name, "source"), says)
