"""A first brief, written beside nothing that is there: text, measured boxes, suggested subjects."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.brief.loading import brief_of
from brightcanvas.brief.measured_file import written
from brightcanvas.brief.selector_text import check_selector
from brightcanvas.drafting.draft import BriefDraft, WantedPicture, looked_at, with_own_sources
from brightcanvas.drafting.from_pages import draft_of
from brightcanvas.drafting.writing import brief_text
from brightcanvas.formats.survey import survey
from brightcanvas.page.folder import Folder
from brightcanvas.page.site import FetchedFolder, pages_at
from brightcanvas.reports.picture_sheets import draw_subjects
from brightcanvas.values.errors import BriefError, MachineError
from brightcanvas.values.files import holds, write_whole

BOXES, SHEET = "boxes.json", "subjects.png"


@dataclass(frozen=True)
class FirstBrief:
    """A brief that was drafted and written."""

    path: Path
    draft: BriefDraft
    browser: str
    """That measured the pages; empty: none did, and boxes are guessed."""

    @property
    def sheet(self) -> Path:
        """The picture of what stands out in each source."""
        return self.path.with_name(SHEET)


def write_first_brief(
    targets: Sequence[str],
    brief: Path,
    root: Path | None,
    browser: str | None,
    wanted: WantedPicture | None,
    told: Callable[[int], None],
) -> FirstBrief:
    """Draft a brief that gives back pages as they look; nothing that is there is changed.

    Args:
        targets: the pages.
        brief: path of it; its folder gets the boxes and the sheet as well.
        root: what ``/`` is on their host; None: found by what they name.
        browser: to measure in, or ``none``; None: the first one that is here.
        wanted: a picture for a page that has none.
        told: called with the number of windows that are measured.

    Raises:
        BrightCanvasError: nothing can be drafted, or a file is in the way; no brief is written.
    """
    _check_free([brief, *(brief.parent / name for name in (BOXES, SHEET))])
    named = ", ".join(targets)
    with pages_at(targets, root) as folders:
        draft, measured_in = _drafted(folders, browser, told, wanted)
        if isinstance(folders[0], FetchedFolder):
            draft, fetched = with_own_sources(draft, brief.parent)
            for path, content in fetched.items():
                _write_new(path, content)
    if not draft.entries:
        raise BriefError("\n".join(_nothing_drafted(named, draft)))
    _write(draft, named, brief)
    return FirstBrief(brief, draft, measured_in)


def wanted_picture(picture: Path, element: str) -> WantedPicture:
    """A picture for an element that has none, checked.

    Raises:
        BrightCanvasError: the picture can't be used, or no element can be meant.
    """
    try:
        check_selector(element)
    except ValueError as error:
        raise BriefError(f"{element}: {error}") from error
    survey(picture)
    return WantedPicture(picture, element)


def _check_free(files: Sequence[Path]) -> None:
    if there := [path for path in files if path.exists()]:
        raise BriefError(
            f"{there[0]} is there already, and is not overwritten: name another brief, in a folder"
            " of its own"
        )


def _nothing_drafted(named: str, draft: BriefDraft) -> Iterator[str]:
    yield f"{named}: nothing on it can be drafted."
    told = [f"  {one.name}: {one.reason}" for page in draft.pages for one in page.left_out]
    yield from told or ["  No element shows a large picture behind content."]


def _drafted(
    folders: Sequence[Folder],
    browser: str | None,
    told: Callable[[int], None],
    wanted: WantedPicture | None,
) -> tuple[BriefDraft, str]:
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


def _write(draft: BriefDraft, named: str, brief: Path) -> None:
    """The brief, the measured boxes and the sheet of subjects; the brief comes last, and whole."""
    names = {page: BOXES if len(draft.pages) == 1 else f"boxes-{page}.json" for page in draft.boxes}
    text = brief_text(draft, named, brief.parent, names)
    for page, boxes in draft.boxes.items():
        _write_new(brief.parent / names[page], written(boxes, draft.read, brief.parent))
    write_whole(brief.with_name(SHEET), draw_subjects(list(looked_at(draft))))
    brief_of(text.encode(), brief)
    write_whole(brief, text.encode())


def _write_new(path: Path, content: bytes) -> None:
    """Write a file that isn't there yet; another one of its name stays as it is."""
    if path.exists() and not holds(path, content):
        raise BriefError(f"{path} is there already, and is another file: move it away")
    write_whole(path, content)
