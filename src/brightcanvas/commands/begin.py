"""``bright-canvas begin``."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from brightcanvas.library.for_pages import begin
from brightcanvas.terminal.arguments import pages_and_brief
from brightcanvas.terminal.progress import counted
from brightcanvas.values.errors import BriefError, ExitStatus

if TYPE_CHECKING:
    import argparse
    from collections.abc import Iterator

    from rich.console import Console

    from brightcanvas.drafting.draft import BriefDraft
    from brightcanvas.library.first_brief import FirstBrief
    from brightcanvas.terminal.streams import Streams

MOST_TOLD = 6
"""Elements that aren't drafted, told on the screen; the brief names all."""


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Draft a brief that gives back the page as it looks; nothing that is there is changed.

    Raises:
        BriefError: a picture is named without its element, or the other way round.
    """
    targets, brief = pages_and_brief(arguments.named)
    if (arguments.picture is None) != (arguments.on is None):
        raise BriefError("--picture and --on go together: a picture, and the element it is for")
    with counted(streams.err, "Measuring the page, windows") as told:
        begun = begin(
            targets, brief, root=arguments.root, browser=arguments.browser,
            picture=arguments.picture, element=arguments.on, told=told,
        )  # fmt: skip
    _tell(begun, streams.console())
    if streams.as_json:
        streams.document(_facts(begun))
    return ExitStatus.ALL_WELL


def _facts(begun: FirstBrief) -> dict[str, Any]:
    draft = begun.draft
    return {
        "brief": str(begun.path),
        "backdrops": [
            {"element": one.element, "sources": [str(path) for path in one.sources],
             "first_view": one.is_first, "pages": list(one.pages)}
            for one in draft.entries
        ],
        "left_out": [
            {"page": page.name, "element": one.name, "reason": one.reason}
            for page in draft.pages for one in page.left_out
        ],
        "measured_in": begun.browser,
    }  # fmt: skip


def _tell(begun: FirstBrief, console: Console) -> None:
    draft = begun.draft
    count = len(draft.entries)
    console.print(
        f"{begun.path}: {count} backdrop{'' if count == 1 else 's'}, as the page shows"
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
    if begun.browser:
        rows = [each for boxes in draft.boxes.values() for each in boxes.values()]
        widths = max(len({one.viewport.width for one in each}) for each in rows)
        told = f"boxes measured at {widths} widths in {begun.browser}; they stay as they are"
        console.print(f"  {told}")
    else:
        console.print("  no browser: boxes are guessed, and all of each picture is kept")
    console.print(
        f"{begun.sheet.name} shows what stands out in each, bright-canvas better what"
        " could be better. Next: bright-canvas build, then bright-canvas insert",
        soft_wrap=True,
    )


def _left_out(draft: BriefDraft) -> Iterator[str]:
    """What isn't drafted, the same of several pages once."""
    found = dict.fromkeys((one.name, one.reason) for page in draft.pages for one in page.left_out)
    yield from (f"  left out, {name}: {reason}" for name, reason in found)
