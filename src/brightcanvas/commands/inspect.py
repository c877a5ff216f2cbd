"""``bright-canvas inspect``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.inspecting.inspect import SCREENS, inspect_folders
from brightcanvas.page.site import pages_at
from brightcanvas.rehearsal.lines import LINES
from brightcanvas.terminal.arguments import add_browser, add_root, add_screens_and_lines
from brightcanvas.terminal.findings import facts_of, headline, print_findings
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.terminal.streams import Streams
    from brightcanvas.values.screens import Screen

EXAMPLES = """\
  bright-canvas inspect site/index.html
  bright-canvas inspect site --json
  bright-canvas inspect site/index.html --browser
  bright-canvas inspect http://localhost:8000/rooms
  bright-canvas inspect site/index.html --screen 390x844@3,touched --into report
"""

PAGE = "inspection.html"


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
        found, unread = inspect_folders(folders, screens, lines, arguments.browser)
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
