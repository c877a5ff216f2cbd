"""``bright-canvas begin``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from brightcanvas.beginning.draft import Draft, Wanted, looked_at, with_own_sources
from brightcanvas.beginning.drafting import draft_of
from brightcanvas.beginning.writing import brief_text
from brightcanvas.brief.loading import brief_of
from brightcanvas.brief.measured_file import written
from brightcanvas.brief.selectors import check_selector
from brightcanvas.formats.survey import survey
from brightcanvas.page.site import FetchedFolder, pages_at
from brightcanvas.reports.subjects_sheet import draw_subjects
from brightcanvas.terminal.arguments import add_pages_and_brief, add_root, pages_and_brief
from brightcanvas.terminal.progress import counted
from brightcanvas.values.errors import BriefError, ExitStatus, MachineError
from brightcanvas.values.files import holds, write_whole

if TYPE_CHECKING:
    import argparse
    from collections.abc import Iterator, Sequence

    from rich.console import Console

    from brightcanvas.page.folder import Folder
    from brightcanvas.terminal.streams import Streams
    from brightcanvas.values.work import Told

EXAMPLES = """\
  bright-canvas begin site/index.html
  bright-canvas begin site/index.html site/about.html site/brief.toml
  bright-canvas begin site site/brief.toml --browser firefox
  bright-canvas begin http://localhost:8000/ --browser none
  bright-canvas begin site/index.html --picture DSC_0412.JPG --on .hero
"""

MOST_TOLD = 6
"""Elements that aren't drafted, told on the screen; the brief names all."""

BOXES, SHEET = "boxes.json", "subjects.png"


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    add_pages_and_brief(command)
    add_root(command)
    command.add_argument(
        "--picture", type=Path, metavar="FILE",
        help="for an element that shows no picture yet; with --on",
    )  # fmt: skip
    command.add_argument("--on", metavar="SELECTOR", help="the element that --picture is for")
    command.add_argument(
        "--browser", choices=("chromium", "firefox", "none"),
        help="which one measures boxes and copy (default: one that is here)",
    )  # fmt: skip


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Draft a brief that gives back the page as it looks; nothing that is there is changed."""
    targets, brief = pages_and_brief(arguments.named)
    wanted = _wanted(arguments)
    _check_free([brief, *(brief.parent / name for name in (BOXES, SHEET))])
    with pages_at(targets, arguments.root) as folders:
        with counted(streams.err, "Measuring the page, windows") as told:
            draft, browser = _drafted(folders, arguments.browser, told, wanted)
        if isinstance(folders[0], FetchedFolder):
            draft, fetched = with_own_sources(draft, brief.parent)
            for path, content in fetched.items():
                _write_new(path, content)
    if not draft.entries:
        raise BriefError("\n".join(_nothing_drafted(", ".join(targets), draft)))
    _write(draft, ", ".join(targets), brief)
    _tell(draft, brief, browser, streams.console())
    if streams.as_json:
        streams.document(_facts(draft, brief, browser))
    return ExitStatus.ALL_WELL


def _wanted(arguments: argparse.Namespace) -> Wanted | None:
    picture, element = arguments.picture, arguments.on
    if (picture is None) != (element is None):
        raise BriefError("--picture and --on go together: a picture, and the element it is for")
    if picture is None:
        return None
    try:
        check_selector(element)
    except ValueError as error:
        raise BriefError(f"--on {element}: {error}") from error
    survey(picture)
    return Wanted(picture, element)


def _check_free(files: Sequence[Path]) -> None:
    if there := [path for path in files if path.exists()]:
        raise BriefError(
            f"{there[0]} is there already, and is not overwritten: name another brief, in a folder"
            " of its own"
        )


def _nothing_drafted(named: str, draft: Draft) -> Iterator[str]:
    yield f"{named}: nothing on it can be drafted."
    told = [f"  {one.name}: {one.reason}" for page in draft.pages for one in page.left_out]
    yield from told or ["  No element shows a large picture behind content."]


def _facts(draft: Draft, brief: Path, browser: str) -> dict[str, Any]:
    return {
        "brief": str(brief),
        "backdrops": [
            {"element": one.element, "sources": [str(path) for path in one.sources],
             "first_view": one.is_first, "pages": list(one.pages)}
            for one in draft.entries
        ],
        "left_out": [
            {"page": page.name, "element": one.name, "reason": one.reason}
            for page in draft.pages for one in page.left_out
        ],
        "measured_in": browser,
    }  # fmt: skip


def _write_new(path: Path, content: bytes) -> None:
    """Write a source that isn't there yet; another file of its name stays as it is."""
    if path.exists() and not holds(path, content):
        raise BriefError(f"{path} is there already, and is another file: move it away")
    write_whole(path, content)


def _drafted(
    folders: Sequence[Folder], browser: str | None, told: Told, wanted: Wanted | None
) -> tuple[Draft, str]:
    """The draft, and what measured it; without a wish the first browser that is here."""
    if browser == "none":
        return draft_of(folders, None, told, wanted), ""
    for one in (browser,) if browser else ("chromium", "firefox"):
        try:
            return draft_of(folders, one, told, wanted), one
        except MachineError:
            if browser:
                raise
    return draft_of(folders, None, told, wanted), ""


def _write(draft: Draft, named: str, brief: Path) -> None:
    """The brief, the measured boxes and the sheet of subjects; the brief comes last, and whole."""
    names = {page: BOXES if len(draft.pages) == 1 else f"boxes-{page}.json" for page in draft.boxes}
    text = brief_text(draft, named, brief.parent, names)
    for page, boxes in draft.boxes.items():
        _write_new(brief.parent / names[page], written(boxes, draft.read, brief.parent))
    write_whole(brief.with_name(SHEET), draw_subjects(list(looked_at(draft))))
    brief_of(text.encode(), brief)
    write_whole(brief, text.encode())


def _tell(draft: Draft, brief: Path, browser: str, console: Console) -> None:
    count = len(draft.entries)
    console.print(
        f"{brief}: {count} backdrop{'' if count == 1 else 's'}, as the page shows"
        f" {'it' if count == 1 else 'them'}.",
        soft_wrap=True,
    )
    for one in draft.entries:
        names = ", ".join(path.name for path in one.sources)
        first = ", in the first view" if one.is_first else ""
        first += f", on {', '.join(one.pages)}" if len(draft.pages) > 1 else ""
        console.print(f"  {one.element}: {names}{first}", soft_wrap=True, markup=False,
                      highlight=False)  # fmt: skip
    left_out = list(_left_out(draft))
    for line in left_out[:MOST_TOLD]:
        console.print(line, soft_wrap=True, markup=False, highlight=False)
    if len(left_out) > MOST_TOLD:
        console.print(f"  and {len(left_out) - MOST_TOLD} more, named at the end of the brief")
    if browser:
        rows = [each for boxes in draft.boxes.values() for each in boxes.values()]
        widths = max(len({one.viewport.width for one in each}) for each in rows)
        console.print(f"  boxes measured at {widths} widths in {browser}; they stay as they are")
    else:
        console.print("  no browser: boxes are guessed, and all of each picture is kept")
    console.print(
        f"{brief.with_name(SHEET).name} shows what stands out in each, bright-canvas better what"
        " could be better. Next: bright-canvas build, then bright-canvas insert",
        soft_wrap=True,
    )


def _left_out(draft: Draft) -> Iterator[str]:
    """What isn't drafted, the same of several pages once."""
    found = dict.fromkeys((one.name, one.reason) for page in draft.pages for one in page.left_out)
    yield from (f"  left out, {name}: {reason}" for name, reason in found)
