"""``bright-canvas inspect``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.inspecting.facts import Facts
from brightcanvas.inspecting.inspect import Inspected, inspect_page, together
from brightcanvas.page.reading import read_page
from brightcanvas.page.site import pages_at
from brightcanvas.rehearsal.lines import LINES
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.terminal.arguments import add_browser, add_root, add_screens_and_lines
from brightcanvas.terminal.findings import facts_of, headline, print_findings
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.geometry import Size
from brightcanvas.values.screens import Screen

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.page.folder import Folder
    from brightcanvas.rehearsal.lines import Line
    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas inspect site/index.html
  bright-canvas inspect site --json
  bright-canvas inspect site/index.html --browser
  bright-canvas inspect http://localhost:8000/rooms
  bright-canvas inspect site/index.html --screen 390x844@3,touched --into report
"""

PAGE = "inspection.html"

SCREENS = (
    Screen("narrow phone", Size(320, 568), 2, touched=True), *DEVICES[:4],
    Screen("tablet on its side", Size(1180, 820), 2, touched=True), *DEVICES[4:],
)  # fmt: skip
"""The usual ones, from the narrowest, and both ways round."""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument(
        "page", metavar="PAGE", help="an HTML file, a folder of them, or an address on this machine"
    )
    add_root(command)
    add_screens_and_lines(command)
    add_browser(command, None)
    command.add_argument("--into", type=Path, metavar="FOLDER", help="write a page to show there")


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Tell what the page does wrong, the worst first."""
    screens: Sequence[Screen] = arguments.screen or SCREENS
    lines = arguments.line or LINES
    with pages_at(arguments.page, arguments.root) as folders:
        inspected, unread = _inspected(folders, screens, lines, arguments.browser)
    if not inspected:
        raise BriefError("\n".join(unread))
    found = together(inspected) if len(inspected) > 1 else inspected[0]
    console = streams.console()
    print_findings(found, console, screens, lines[len(lines) // 2])
    for text in unread:
        console.print(f"Left out: {text}", soft_wrap=True, markup=False)
    if arguments.into:
        from brightcanvas.pipeline.ownership import BY_INTO, Output
        from brightcanvas.pipeline.publishing import publish
        from brightcanvas.reports.inspection import inspection_page

        content = inspection_page(headline(found, len(screens)), found, screens, lines)
        publish(Output(arguments.into, arguments.into, "inspections", BY_INTO), {PAGE: content})
        console.print(f"\nTo show: {arguments.into / PAGE}", soft_wrap=True)
    if streams.as_json:
        streams.document({
            "pages": list(found.pages),
            "left_out": unread,
            "findings": [facts_of(one, lines) for one in found.findings],
            "not_decided": list(found.undecided),
        })  # fmt: skip
    return ExitStatus.PROMISE_BROKEN if found.findings else ExitStatus.ALL_WELL


def _inspected(
    folders: Sequence[Folder],
    screens: Sequence[Screen],
    lines: Sequence[Line],
    browser: str | None,
) -> tuple[list[Inspected], list[str]]:
    """Each page, and why those were left out that can't be read."""
    found, unread = [], []
    for folder in folders:
        try:
            page = read_page(folder)
        except BriefError as error:
            unread.append(str(error))
            continue
        facts = Facts(page, screens, lines)
        if browser:
            from brightcanvas.inspecting.looking import look_at

            facts.looks = {one.screen: one for one in look_at(facts, browser)}
        found.append(inspect_page(facts))
    return found, unread
