"""Copy that was measured on a page, in a small file beside the brief."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from brightcanvas.brief.model import Brief, Copy, Slot
from brightcanvas.values.boxes import MeasuredBoxes
from brightcanvas.values.colours import parse_colour
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_notes, read_regular
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import Letters
from brightcanvas.values.measured import CopyLine, MeasuredWindow

LARGEST_PAGE = 5_000_000
"""Bytes of a page or a style sheet whose digest is taken."""

Elements = Mapping[str, tuple[MeasuredWindow, ...]]
"""By the selector of the element."""


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
        BriefError: it isn't there, or is none of ours.
    """
    found = read_notes(path)
    if found is None and not path.exists():
        raise BriefError(f"{path} isn't there: bright-canvas measure PAGE makes it")
    try:
        assert isinstance(found, dict)
        elements = {
            str(selector): tuple(_window(one) for one in windows)
            for selector, windows in found["elements"].items()
        }
        assert all(elements.values())
        pages = {path.parent / str(name): digest for name, digest in found["read"].items()}
        is_stale = any(digest_of(one) != digest for one, digest in pages.items())
    except (
        AssertionError, KeyError, TypeError, ValueError, AttributeError, OverflowError,
    ) as error:  # fmt: skip
        raise BriefError(
            f"{path} is no file of measured copy: bright-canvas measure PAGE makes one"
        ) from error
    return Measured(elements, tuple(pages), is_stale)


def _window(found: Mapping[str, Any]) -> MeasuredWindow:
    lines = tuple(_line(one) for one in found["lines"])
    viewport, element = (_size(found[key]) for key in ("viewport", "element"))
    return MeasuredWindow(viewport, element, lines, found.get("veiled", False) is True)


def _size(found: Any) -> Size:  # noqa: ANN401
    width, height = (_number(side, *SIDES) for side in found)
    return Size(width, height)


SIDES = (1.0, 1e6)
"""CSS px of a window or an element."""


def _number(found: Any, low: float, high: float) -> float:  # noqa: ANN401
    """A number in a range; ValueError for others, and for what is none."""
    number = float(found)
    if isinstance(found, (bool, str)) or not low <= number <= high:
        raise ValueError(found)
    return number


def _line(found: Mapping[str, Any]) -> CopyLine:
    colour = parse_colour(found["colour"])
    letters = Letters(colour, _number(found["size"], 0.1, 1e4), found.get("bold", False) is True)
    left, top, right, bottom = (_number(edge, 0, 1) for edge in found["box"])
    if left > right or top > bottom:
        raise ValueError(found["box"])
    return CopyLine(Rect(left, top, right, bottom), letters, str(found.get("words", "")))


def digest_of(path: Path) -> str:
    """SHA-256 of a page's file, in hex; empty where there is none."""
    try:
        return hashlib.sha256(read_regular(path, LARGEST_PAGE)).hexdigest()
    except OSError:
        return ""


def written(elements: Elements, read: Iterable[Path], beside: Path) -> bytes:
    """The file.

    Args:
        elements: what was measured.
        read: the page and its style sheets.
        beside: the folder that the file will lie in.
    """
    names = {_relative(path, beside): digest_of(path) for path in read}
    document = {
        "made_by": "bright-canvas",
        "read": names,
        "elements": {
            selector: [_written_window(one) for one in windows]
            for selector, windows in elements.items()
        },
    }
    return (json.dumps(document, indent=1, ensure_ascii=False) + "\n").encode()


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
