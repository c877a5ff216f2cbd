"""``bright-canvas measure``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.library.for_pages import measure
from brightcanvas.values.errors import ExitStatus

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Measure the boxes of a brief's elements and their text, and keep that beside the brief."""
    found = measure(arguments.page, arguments.brief, root=arguments.root, browser=arguments.browser)
    console, measured = streams.console(), found.page.elements
    for path, elements in found.files.items():
        for element in elements:
            windows = measured.get(element, ())
            lines = max((len(one.lines) for one in windows), default=0)
            widths = len({one.viewport.width for one in windows})
            told = f"{widths} widths, up to {lines} lines" if windows else "not on this page"
            console.print(f"{element}: {told}", markup=False)
        console.print(f"Kept in {path}; build reads it.", soft_wrap=True, markup=False)
    if streams.as_json:
        streams.document({
            "page": arguments.page,
            "elements": {one: len(windows) for one, windows in measured.items()},
            "files": [path.name for path in found.files],
        })  # fmt: skip
    return ExitStatus.ALL_WELL
