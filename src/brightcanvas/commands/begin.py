"""``bright-canvas begin``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.beginning.drafting import Draft, draft_of, looked_at, with_own_sources
from brightcanvas.beginning.writing import brief_text
from brightcanvas.brief.loading import brief_of
from brightcanvas.brief.measured import written
from brightcanvas.page.site import FetchedFolder, pages_at
from brightcanvas.reports.subjects_sheet import draw_subjects
from brightcanvas.terminal.arguments import add_brief, add_root
from brightcanvas.values.errors import BriefError, ExitStatus, MachineError
from brightcanvas.values.files import write_whole
from brightcanvas.values.geometry import plain_number

if TYPE_CHECKING:
    import argparse
    from pathlib import Path

    from rich.console import Console

    from brightcanvas.page.folder import Folder
    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas begin site/index.html
  bright-canvas begin site/index.html site/brief.toml --browser firefox
  bright-canvas begin http://localhost:8000/ --browser none
"""

COPY, SHEET = "copy.json", "subjects.png"


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("page", metavar="PAGE", help="an HTML file, or an address on this machine")
    add_brief(command)
    add_root(command)
    command.add_argument(
        "--browser", choices=("chromium", "firefox", "none"),
        help="which one measures boxes and copy (default: one that is here)",
    )  # fmt: skip


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Draft a brief from the page, with its copy measured; nothing that is there is changed."""
    folder = arguments.brief.parent
    files = [arguments.brief, folder / COPY, folder / SHEET]
    if there := [path for path in files if path.exists()]:
        raise BriefError(
            f"{there[0]} is there already, and is not overwritten: name another brief, in a folder"
            " of its own"
        )
    with pages_at(arguments.page, arguments.root) as folders:
        draft, told = _drafted(folders[0], arguments.browser)
        if isinstance(folders[0], FetchedFolder):
            draft, fetched = with_own_sources(draft, folder)
            for path, content in fetched.items():
                _write_new(path, content)
    if not draft.entries:
        raise BriefError(
            f"{arguments.page}: no element shows a picture of a style sheet that is wide enough for"
            " a backdrop"
        )
    _write(draft, arguments, files)
    console = streams.console()
    _tell(draft, arguments.brief, told, console)
    if streams.as_json:
        streams.document({
            "brief": str(arguments.brief),
            "backdrops": [
                {"element": one.element, "source": str(one.source), "first_view": one.is_first,
                 "copy": one.has_copy}
                for one in draft.entries
            ],
            "measured_in": told,
        })  # fmt: skip
    return ExitStatus.ALL_WELL


def _write_new(path: Path, content: bytes) -> None:
    """Write a source that isn't there yet; another file of its name stays as it is."""
    if path.exists() and path.read_bytes() != content:
        raise BriefError(f"{path} is there already, and is another file: move it away")
    write_whole(path, content)


def _drafted(folder: Folder, browser: str | None) -> tuple[Draft, str]:
    """The draft, and what measured it; without a wish the first browser that is here."""
    if browser == "none":
        return draft_of(folder, None), ""
    for one in (browser,) if browser else ("chromium", "firefox"):
        try:
            return draft_of(folder, one), one
        except MachineError:
            if browser:
                raise
    return draft_of(folder, None), ""


def _write(draft: Draft, arguments: argparse.Namespace, files: list[Path]) -> None:
    """The brief, the measured copy and the sheet of subjects; the brief comes last, and whole."""
    brief, copy, sheet = files
    text = brief_text(
        draft.title, arguments.page, draft.ranges, draft.entries, brief.parent, copy.name
    )
    if any(one.has_copy for one in draft.entries):
        write_whole(copy, written(draft.copies, draft.read, brief.parent))
    write_whole(sheet, draw_subjects(list(looked_at(draft))))
    brief_of(text.encode(), brief)
    write_whole(brief, text.encode())


def _tell(draft: Draft, brief: Path, browser: str, console: Console) -> None:
    count = len(draft.entries)
    console.print(f"{brief}: {count} backdrop{'' if count == 1 else 's'}.", soft_wrap=True)
    for one in draft.entries:
        widest = one.shapes[-1]
        grows = f", up to {plain_number(widest.growth)} px more by content" if widest.growth else ""
        first = ", in the first view" if one.is_first else ""
        told = f"  {one.element}: {one.source.name}, {widest.height} high{grows}{first}"
        console.print(told, soft_wrap=True, markup=False, highlight=False)
    if browser:
        lines = sum(max(len(one.lines) for one in rows) for rows in draft.copies.values())
        windows = max((len(rows) for rows in draft.copies.values()), default=0)
        console.print(f"  copy: {lines} lines, measured in {windows} windows of {browser}")
    else:
        console.print("  no browser: heights are guessed, and no copy was measured")
    console.print(
        f"Look at {brief.with_name(SHEET).name}, move what is wrong (bright-canvas adjust), then:"
        " bright-canvas build",
        soft_wrap=True,
    )
