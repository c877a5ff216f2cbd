"""``bright-canvas hits``."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.brief.loading import load_brief
from brightcanvas.brief.pages import names_by_page, page_named
from brightcanvas.delivery.by_page import SHEET, sheet_name
from brightcanvas.page.aim import PSEUDO, Aim, aim, hit
from brightcanvas.page.folder import folder_of
from brightcanvas.page.reading import Page, label, read_page
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.terminal.arguments import add_brief, add_root
from brightcanvas.terminal.report import print_stale
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.files import LARGEST_RECORD, read_regular
from brightcanvas.values.geometry import plain_number

if TYPE_CHECKING:
    import argparse
    from collections.abc import Iterator, Sequence

    from rich.console import Console

    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas hits site/index.html
  bright-canvas hits site/index.html site/brief.toml --root site
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("page", type=Path, metavar="PAGE", help="an HTML file of your site")
    add_brief(command)
    add_root(command)


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Tell what the brief's selectors hit on a page, and who would win there."""
    brief = load_brief(arguments.brief)
    page_wish = page_named(brief.pages, arguments.page)
    own = brief.output / sheet_name(page_wish.name) if page_wish else brief.output / SHEET
    sheet = own if own.is_file() else brief.output / SHEET
    is_built = sheet.is_file()
    ours = read_regular(sheet, LARGEST_RECORD).decode() if is_built else ""
    folder = folder_of(arguments.page, arguments.root)
    page = read_page(folder, ours)
    on_it = dict(names_by_page(brief.pages, [one.name for one in brief.backdrops]))
    names = on_it[page_wish.name] if page_wish else {one.name for one in brief.backdrops}
    found = [
        aim(page, one.name, one.element, DEVICES, forced=one.force)
        for one in brief.backdrops if one.name in names
    ]  # fmt: skip
    shared = list(_shared(page, found))
    if streams.as_json:
        aims = [{**asdict(one), "is_good": one.is_good} for one in found]
        streams.document({"page": str(arguments.page), "backdrops": aims, "shared": shared})
    console = streams.console()
    print_stale(brief, console)
    for one in found:
        _print_aim(one, console, is_built=is_built)
    for line in shared:
        console.print(line, soft_wrap=True, markup=False)
    if not is_built:
        console.print("Nothing is built yet, so whose rules would win is not known.")
    console.print(f"What the page itself does wrong: bright-canvas inspect {arguments.page}")
    good = all(one.is_good for one in found) and not shared
    return ExitStatus.ALL_WELL if good else ExitStatus.PROMISE_BROKEN


def _print_aim(one: Aim, console: Console, *, is_built: bool) -> None:
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


def _shared(page: Page, found: Sequence[Aim]) -> Iterator[str]:
    """Two backdrops on one element: only the later one's rules are seen there."""
    owners: dict[int, Aim] = {}
    for one in found:
        for element in hit(page, PSEUDO.sub("", one.selector)):
            before = owners.setdefault(id(element.etree_element), one)
            both = PSEUDO.findall(before.selector) == PSEUDO.findall(one.selector)
            if before is not one and both:
                name = label(element.etree_element)
                yield (
                    f"{before.backdrop} and {one.backdrop} both fill {name}: only {one.backdrop}"
                    " is seen; give each an element of its own"
                )
                break
