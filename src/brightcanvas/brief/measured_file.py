"""The file of what was measured on a page: its schema, and the digest of its own content."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Annotated, Any, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError, model_validator

from brightcanvas.brief.brief import Brief, Copy, Slot
from brightcanvas.values.colours import parse_colour
from brightcanvas.values.element_boxes import MeasuredBoxes
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_notes, read_regular
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import CopyLine, Letters, MeasuredWindow

LARGEST_PAGE = 5_000_000
"""Bytes of a page or a style sheet whose digest is taken."""

Elements = Mapping[str, tuple[MeasuredWindow, ...]]
"""By the selector of the element."""

Side = Annotated[float, Field(ge=1, le=1e6)]
"""CSS px of a window or an element."""

Fraction = Annotated[float, Field(ge=0, le=1)]


class _Entry(BaseModel):
    """What stands in the file and nothing else; numbers are numbers, and no NaN."""

    model_config = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False, frozen=True)


def _colour(text: str) -> str:
    parse_colour(text)
    return text


class LineEntry(_Entry):
    """A line of copy."""

    box: Annotated[list[Fraction], Field(min_length=4, max_length=4)]
    """Left, top, right, bottom, in fractions of the element."""
    colour: Annotated[str, AfterValidator(_colour)]
    size: Annotated[float, Field(ge=0.1, le=1e4)]
    """CSS px of its letters."""
    bold: bool = False
    words: str = ""

    @model_validator(mode="after")
    def _has_sides(self) -> Self:
        left, top, right, bottom = self.box
        if left > right or top > bottom:
            raise ValueError("a box is left, top, right, bottom")
        return self

    @property
    def line(self) -> CopyLine:
        """As it is used."""
        letters = Letters(parse_colour(self.colour), self.size, self.bold)
        return CopyLine(Rect(*self.box), letters, self.words)


Sides = Annotated[list[Side], Field(min_length=2, max_length=2)]


class WindowEntry(_Entry):
    """An element in one window."""

    viewport: Sides
    element: Sides
    veiled: bool = False
    lines: list[LineEntry]

    @property
    def window(self) -> MeasuredWindow:
        """As it is used."""
        lines = tuple(one.line for one in self.lines)
        return MeasuredWindow(Size(*self.viewport), Size(*self.element), lines, self.veiled)


class MeasuredEntry(_Entry):
    """The whole file."""

    made_by: str
    digest: str
    """SHA-256 of what else is in it."""
    read: dict[str, str]
    """The page and its style sheets, with their digests."""
    elements: dict[str, Annotated[list[WindowEntry], Field(min_length=1)]]


@dataclass(frozen=True)
class Measured:
    """What a file of measured copy tells."""

    elements: Elements
    pages: tuple[Path, ...]
    """The page and its style sheets."""
    is_stale: bool
    """Whether one of them has changed since."""


def read_measured(path: Path) -> Measured:
    """What a file tells of each element, and whether its page has changed since.

    Raises:
        BriefError: it isn't there, is none of ours, or was changed by hand.
    """
    found = read_notes(path)
    if found is None and not path.exists():
        raise BriefError(f"{path} isn't there: bright-canvas measure PAGE makes it")
    again = "bright-canvas measure PAGE makes one"
    if not isinstance(found, dict) or "elements" not in found:
        raise BriefError(f"{path} is no file of measured copy: {again}")
    if not _is_as_written(found):
        raise BriefError(
            f"{path} isn't as it was measured: somebody changed it, or an older version wrote it;"
            f" {again} anew"
        )
    try:
        entry = MeasuredEntry.model_validate(found)
    except ValidationError as error:
        first = error.errors()[0]
        where = ", ".join(map(str, first["loc"]))
        raise BriefError(f"{path} is no file of measured copy ({where}): {again}") from error
    elements = {name: tuple(one.window for one in each) for name, each in entry.elements.items()}
    pages = {path.parent / name: digest for name, digest in entry.read.items()}
    is_stale = any(digest_of(one) != digest for one, digest in pages.items())
    return Measured(elements, tuple(pages), is_stale)


def _is_as_written(document: Mapping[str, Any]) -> bool:
    try:
        return bool(document.get("digest") == _digest(document))
    except RecursionError:  # nested deeper than anything that is written here
        return False


def _digest(document: Mapping[str, Any]) -> str:
    """Of a document but for its digest."""
    content = {key: value for key, value in document.items() if key != "digest"}
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()


def digest_of(path: Path) -> str:
    """SHA-256 of a page's file, in hex; empty where there is none."""
    try:
        return hashlib.sha256(read_regular(path, LARGEST_PAGE)).hexdigest()
    except (OSError, ValueError):
        return ""


def written(elements: Elements, read: Iterable[Path], beside: Path) -> bytes:
    """The file.

    Args:
        elements: what was measured.
        read: the page and its style sheets.
        beside: the folder that the file will lie in.
    """
    document: dict[str, Any] = {
        "made_by": "bright-canvas",
        "read": {_relative(path, beside): digest_of(path) for path in read},
        "elements": {
            selector: [_written_window(one) for one in windows]
            for selector, windows in elements.items()
        },
    }
    return (json.dumps(signed(document), indent=1, ensure_ascii=False) + "\n").encode()


def signed(document: Mapping[str, Any]) -> dict[str, Any]:
    """A document with the digest of what else is in it."""
    return {**document, "digest": _digest(document)}


def _relative(path: Path, folder: Path) -> str:
    return Path(os.path.relpath(path.resolve(), folder.resolve())).as_posix()


def _written_window(one: MeasuredWindow) -> dict[str, Any]:
    return {
        "viewport": [one.viewport.width, one.viewport.height],
        "element": [round(one.element.width, 2), round(one.element.height, 2)],
        **({"veiled": True} if one.is_veiled else {}),
        "lines": [_written_line(line) for line in one.lines],
    }


def _written_line(line: CopyLine) -> dict[str, Any]:
    box, letters = line.box, line.letters
    told: dict[str, Any] = {
        "box": [round(edge, 4) for edge in box.edges],
        "colour": letters.colour.css,
        "size": round(letters.size, 2),
    }
    return {**told, **({"bold": True} if letters.bold else {}), "words": line.words}


def with_measured(brief: Brief) -> Brief:
    """The brief with the copy that its files tell.

    Raises:
        BriefError: a file isn't there, is none of ours, or doesn't know an element.
    """
    files = {path for one in brief.backdrops for slot in one.slots for path in _files(slot)}
    read = {path: read_measured(path) for path in files}
    return replace(brief, backdrops=tuple(
        replace(one, slots=tuple(_slot(slot, one.element, read) for slot in one.slots))
        for one in brief.backdrops
    ))  # fmt: skip


def _files(slot: Slot) -> list[Path]:
    named = (slot.boxes_in, slot.copy.measured_in if slot.copy else None)
    return [path for path in named if path]


def _slot(slot: Slot, element: str, read: Mapping[Path, Measured]) -> Slot:
    return _with_copy(_with_boxes(slot, element, read), element, read)


def _with_boxes(slot: Slot, element: str, read: Mapping[Path, Measured]) -> Slot:
    if slot.boxes_in is None:
        return slot
    found = read[slot.boxes_in]
    windows = _windows(found, element, slot.boxes_in, "measured")
    boxes = MeasuredBoxes(tuple((one.viewport, one.element) for one in windows))
    return replace(slot, boxes=boxes, measured_pages=found.pages, is_stale=found.is_stale)


def _windows(found: Measured, element: str, path: Path, key: str) -> tuple[MeasuredWindow, ...]:
    windows = found.elements.get(element, ())
    if not windows:
        raise BriefError(
            f"{key}: {path.name} has nothing measured for {element}: bright-canvas measure PAGE"
        )
    return windows


def _with_copy(slot: Slot, element: str, read: Mapping[Path, Measured]) -> Slot:
    path = slot.copy.measured_in if slot.copy else None
    if slot.copy is None or path is None:
        return slot
    found = read[path]
    wanted = slot.copy.letters.wanted if slot.copy.letters else None
    windows = tuple(_wanting(one, wanted) for one in _windows(found, element, path, "copy"))
    told = replace(slot.copy, is_stale=found.is_stale, pages=found.pages)
    return replace(slot, copy=_copy(told, windows, slot))


def _wanting(window: MeasuredWindow, contrast: float | None) -> MeasuredWindow:
    """The lines with the contrast that the brief asks for."""
    lines = (replace(line, letters=replace(line.letters, wanted=contrast)) for line in window.lines)
    return replace(window, lines=tuple(lines)) if contrast else window


def _copy(copy: Copy, windows: tuple[MeasuredWindow, ...], slot: Slot) -> Copy | None:
    """The copy of one breakpoint: none where no window of it has any."""
    own = [one for one in windows if slot.breakpoint.has(one.viewport)] or list(windows)
    lines = [line for one in own for line in one.lines]
    if not lines:
        return None
    strictest = max(lines, key=lambda one: (one.letters.wanted_contrast, -one.letters.size))
    box = Rect(
        min(one.box.left for one in lines), min(one.box.top for one in lines),
        max(one.box.right for one in lines), max(one.box.bottom for one in lines),
    )  # fmt: skip
    return replace(copy, box=box, letters=strictest.letters, windows=windows)
