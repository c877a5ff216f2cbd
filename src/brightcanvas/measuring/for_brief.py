"""What a brief asks to be measured on a page, measured, and kept beside the brief."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.brief.entries import BriefEntry
from brightcanvas.brief.loading import entry_of, read_content
from brightcanvas.brief.measured_file import Elements, read_measured, written
from brightcanvas.measuring.elements import MeasuredPage, measure_page
from brightcanvas.page.site import pages_at
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import write_whole


@dataclass(frozen=True)
class MeasuredFiles:
    """A page that was measured for a brief."""

    page: MeasuredPage
    files: dict[Path, list[str]]
    """Those that were written, each with the elements that it is for."""


def measure_for(brief: Path, page: str, root: Path | None, browser: str) -> MeasuredFiles:
    """Measure a page, and write what was found into the files that a brief names.

    Args:
        brief: path of it.
        page: an HTML file, or an address on this machine.
        root: what ``/`` is on its host; None: found by what the page names.
        browser: to measure in, ``chromium`` or ``firefox``.

    Raises:
        BriefError: the brief asks for nothing measured, or the page can't be read.
        MachineError: the browser fails, or a file can't be written.
    """
    wanted = measured_files(entry_of(read_content(brief), brief))
    if not wanted:
        raise BriefError(
            f'{brief.name} asks for nothing measured: write measured = "boxes.json" or'
            ' copy = { measured = "copy.json" }'
        )
    with pages_at(page, root) as folders:
        selectors = list(dict.fromkeys(one for each in wanted.values() for one in each))
        found = measure_page(folders[0], selectors, browser)
    files = {brief.parent / name: elements for name, elements in wanted.items()}
    for path, elements in files.items():
        write_whole(path, _with_former(path, elements, found))
    return MeasuredFiles(found, files)


def _with_former(path: Path, elements: Sequence[str], found: MeasuredPage) -> bytes:
    """The file with what was measured, and what it told of elements that this page hasn't got."""
    former, read = _former(path)
    kept = {one: windows for one, windows in former.items() if one in elements}
    kept |= {one: found.elements[one] for one in elements if one in found.elements}
    others = read if kept.keys() - found.elements.keys() else ()
    return written(kept, dict.fromkeys((*others, *found.read)), path.parent)


def _former(path: Path) -> tuple[Elements, tuple[Path, ...]]:
    """What a file tells, and of which pages; nothing where there is none that can be read."""
    try:
        former = read_measured(path)
    except BriefError:
        return {}, ()
    return former.elements, () if former.is_stale else former.pages


def measured_files(entry: BriefEntry) -> dict[str, list[str]]:
    """The files that a brief names of what is measured, each with the elements that it is for."""
    wanted: dict[str, list[str]] = {}
    for one in entry.backdrop:
        for slot in (one, *one.at.values()):
            named = [slot.measured, slot.copy_.measured if slot.copy_ else None]
            for file in dict.fromkeys(each for each in named if each):
                elements = wanted.setdefault(file, [])
                elements += [one.element] if one.element not in elements else []
    return wanted
