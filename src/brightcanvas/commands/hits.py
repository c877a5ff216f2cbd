"""``bright-canvas hits``."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING

from brightcanvas.library.for_briefs import load_brief
from brightcanvas.library.for_pages import hits
from brightcanvas.terminal.report import print_stale
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.geometry import plain_number
from brightcanvas.values.screens import DEVICES

if TYPE_CHECKING:
    import argparse

    from rich.console import Console

    from brightcanvas.page.aim import SelectorMatch
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Tell what the brief's selectors hit on a page, and who would win there."""
    brief = load_brief(arguments.brief)
    found = hits(arguments.page, brief, root=arguments.root)
    if streams.as_json:
        aims = [{**asdict(one), "is_good": one.is_good} for one in found.found]
        streams.document(
            {"page": str(arguments.page), "backdrops": aims, "shared": list(found.shared)}
        )
    console = streams.console()
    print_stale(brief, console)
    for one in found.found:
        _print_aim(one, console, is_built=found.is_built)
    for line in found.shared:
        console.print(line, soft_wrap=True, markup=False)
    if not found.is_built:
        console.print("Nothing is built yet, so whose rules would win is not known.")
    console.print(f"What the page itself does wrong: bright-canvas inspect {arguments.page}")
    return ExitStatus.ALL_WELL if found.is_good else ExitStatus.PROMISE_BROKEN


def _print_aim(one: SelectorMatch, console: Console, *, is_built: bool) -> None:
    count = len(one.hits)
    names = ", ".join(dict.fromkeys(one.hits))
    told = f"{count} element{'' if count == 1 else 's'}: {names}" if count else "no element"
    console.print(f"{one.backdrop}  {one.selector}  hits {told}", soft_wrap=True)
    if one.width is not None:
        widest = max(device.viewport.width for device in DEVICES)
        high = f", {plain_number(round(one.height))} px high" if one.height else ""
        console.print(
            f"  likely {plain_number(round(one.width))} px wide{high} in a window of"
            f" {plain_number(widest)} px; bright-canvas measure looks"
        )
    for rival in one.rivals:
        console.print(f"  at {rival.device}, {rival.where} wins: {rival.says}", soft_wrap=True)
    if is_built and one.is_good:
        console.print("  our rules win on every usual screen")
    if one.advice:
        console.print(f"  {one.advice}", soft_wrap=True)
