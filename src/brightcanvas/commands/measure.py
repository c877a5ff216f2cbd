"""``bright-canvas measure``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.brief.loading import entry_of, read_content
from brightcanvas.brief.measured_file import Elements, read_measured, written
from brightcanvas.measuring.site import MeasuredPage, measure_page
from brightcanvas.page.site import pages_at
from brightcanvas.terminal.arguments import add_brief, add_browser, add_root
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.files import write_whole

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence
    from pathlib import Path

    from brightcanvas.brief.schema import BriefEntry
    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas measure site/index.html
  bright-canvas measure site/index.html site/brief.toml --browser firefox
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("page", metavar="PAGE", help="an HTML file, or an address on this machine")
    add_brief(command)
    add_root(command)
    add_browser(command, "chromium")


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Measure the boxes of a brief's elements and their text, and keep that beside the brief."""
    entry = entry_of(read_content(arguments.brief), arguments.brief)
    wanted = measured_files(entry)
    if not wanted:
        raise BriefError(
            f'{arguments.brief.name} asks for nothing measured: write measured = "boxes.json" or'
            ' copy = { measured = "copy.json" }'
        )
    console = streams.console()
    with pages_at(arguments.page, arguments.root) as folders:
        selectors = list(dict.fromkeys(one for each in wanted.values() for one in each))
        found = measure_page(folders[0], selectors, arguments.browser)
    for name, elements in wanted.items():
        path = arguments.brief.parent / name
        write_whole(path, _with_former(path, elements, found))
        for element in elements:
            windows = found.elements.get(element, ())
            lines = max((len(one.lines) for one in windows), default=0)
            widths = len({one.viewport.width for one in windows})
            told = f"{widths} widths, up to {lines} lines" if windows else "not on this page"
            console.print(f"{element}: {told}", markup=False)
        console.print(f"Kept in {path}; build reads it.", soft_wrap=True, markup=False)
    if streams.as_json:
        streams.document({
            "page": arguments.page,
            "elements": {one: len(windows) for one, windows in found.elements.items()},
            "files": list(wanted),
        })  # fmt: skip
    return ExitStatus.ALL_WELL


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
