"""Copy and boxes that were measured on a page, put into the brief that asks for them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from brightcanvas.brief.measured_file import Measured, read_measured
from brightcanvas.brief.model import Brief, Copy, Slot
from brightcanvas.values.boxes import MeasuredBoxes
from brightcanvas.values.errors import BriefError
from brightcanvas.values.geometry import Rect
from brightcanvas.values.measured import MeasuredWindow


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
