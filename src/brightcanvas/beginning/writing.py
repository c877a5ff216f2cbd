"""A first brief as text, with what is found on the page as comments."""

from __future__ import annotations

import math
import os
import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from brightcanvas.beginning.breakpoints import Range
from brightcanvas.values.geometry import Point, plain_number

EVEN = "even"


@dataclass(frozen=True)
class Shape:
    """What holds at one breakpoint."""

    height: str
    growth: float
    width: str
    padding: str = ""
    scrim: str = ""
    """The side from which it lies under the copy, or ``even``; empty: there is no copy."""


@dataclass(frozen=True)
class Entry:
    """One backdrop of a first brief."""

    element: str
    source: Path
    is_first: bool
    force: bool
    shapes: tuple[Shape, ...]
    """One for each breakpoint, the narrowest first."""
    subject: Point | None = None
    """Suggested, in fractions of the source."""
    found_by: str = "guess"
    """``page``: its own position; ``clear``: something stands out; ``guess``: only a comment."""
    has_copy: bool = False
    behind: str = ""
    """The colour that the page has behind it now."""
    pattern: str = ""
    """How it is repeated; empty: it isn't."""
    notes: tuple[str, ...] = field(default=())
    """What stands there now."""


def brief_text(
    title: str, page: str, ranges: Sequence[Range], entries: Sequence[Entry], folder: Path,
    copy_file: str,
) -> str:  # fmt: skip
    """The brief.

    Args:
        title: of the site.
        page: that it was drafted from, as it was named.
        ranges: its breakpoints; none: the usual ones.
        entries: its backdrops.
        folder: that it will lie in.
        copy_file: of the measured copy.
    """
    parts = [f"# Drafted from {_plain(page)}. Nothing of the page was changed.\n"]
    parts.append(f"[site]\ntitle = {_quoted(title)}\n")
    for one in ranges:
        below = f"below = {plain_number(one.below)}\n" if one.below else ""
        parts.append(f"[[breakpoint]]\nname = {_quoted(one.name)}\n{below}")
    names = [one.name for one in ranges] or ["handheld", "midsize", "desk"]
    parts += [_entry(one, names, folder, copy_file) for one in entries]
    return "\n".join(parts)


def _plain(text: str) -> str:
    return re.sub(r"[\x00-\x1f\x7f]", " ", text)


def _quoted(text: str) -> str:
    """A TOML basic string (TOML 1.0)."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + re.sub(r"[\x00-\x1f\x7f]", lambda found: f"\\u{ord(found[0]):04x}", escaped) + '"'


def _entry(one: Entry, names: Sequence[str], folder: Path, copy_file: str) -> str:
    lines = ["[[backdrop]]"]
    lines += [f"# now: {_plain(note)}" for note in one.notes]
    lines.append(f"element = {_quoted(one.element)}")
    source = Path(os.path.relpath(one.source.resolve(), folder.resolve())).as_posix()
    lines.append(f"source = {_quoted(source)}")
    if one.is_first:
        lines.append("first_view = true")
    if one.force:
        lines.append("force = true  # the page's own rule would win")
    if one.subject:
        lines.append(_subject(one.subject, one.found_by))
    if one.pattern:
        lines.append(f"repeat = {_quoted(one.pattern)}")
    if one.behind:
        lines.append(f"behind = {_quoted(one.behind)}")
    if one.has_copy:
        lines.append(f"copy = {{ measured = {_quoted(copy_file)} }}")
    return "\n".join([*lines, *_shapes(one.shapes, names)]) + "\n"


def _subject(point: Point, found_by: str) -> str:
    """A point, not a box: what nobody has confirmed must not become a promise that breaks."""
    told = f"subject = {{ point = [{point.x:.2f}, {point.y:.2f}] }}"
    if found_by == "page":
        return f"{told}  # what its own background-position shows; adjust draws a box"
    if found_by == "clear":
        return f"{told}  # suggested: see subjects.png; adjust draws a box"
    return f"# {told}  # a guess: nothing stands out much; adjust shows it"


def _shapes(shapes: Sequence[Shape], names: Sequence[str]) -> list[str]:
    """The widest breakpoint's shape, then what is otherwise in narrower ones."""
    lines = _keys(shapes[-1], None)
    above = shapes[-1]
    for name, shape in reversed(list(zip(names[:-1], shapes[:-1], strict=True))):
        if keys := _keys(shape, above):
            lines += [f"[backdrop.at.{name}]", *keys]
        above = shape
    return lines


def _keys(shape: Shape, above: Shape | None) -> list[str]:
    keys = []
    if above is None or shape.height != above.height:
        keys.append(f"height = {_quoted(shape.height)}")
    if shape.growth != (above.growth if above else 0.0):
        keys.append(f"growth = {math.ceil(shape.growth)}")
    if shape.width != (above.width if above else ""):
        keys.append(f"width = {_quoted(shape.width or '100%')}")
    if shape.padding != (above.padding if above else ""):
        keys.append(f"padding = {_quoted(shape.padding or '0')}")
    if shape.scrim and shape.scrim != (above.scrim if above else ""):
        side = "" if shape.scrim == EVEN else f", side = {_quoted(shape.scrim)}"
        keys.append(f"scrim = {{ least = true{side} }}")
    return keys
