"""``bright-canvas hits``."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.brief.loading import load_brief
from brightcanvas.css.screens import viewer_of
from brightcanvas.delivery.headers import SHEET
from brightcanvas.page.aim import Aim, aim
from brightcanvas.page.fetches import load
from brightcanvas.page.folder import folder_of
from brightcanvas.page.reading import Page, read_page
from brightcanvas.rehearsal.rehearsing import DEVICES, file_name
from brightcanvas.terminal.arguments import add_brief, add_root
from brightcanvas.values.errors import ExitStatus
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
    sheet = brief.output / SHEET
    is_built = sheet.is_file()
    ours = sheet.read_text(encoding="utf-8") if is_built else ""
    folder = folder_of(arguments.page, arguments.root)
    page = read_page(folder, ours)
    found = [aim(page, one.name, one.element, DEVICES) for one in brief.backdrops]
    faults = list(_faults(read_page(folder)))
    if streams.as_json:
        aims = [{**asdict(one), "is_good": one.is_good} for one in found]
        streams.document({"page": str(arguments.page), "backdrops": aims, "faults": faults})
    console = streams.console()
    for one in found:
        _print_aim(one, console, is_built=is_built)
    if not is_built:
        console.print("Build first to learn which rules of the page would win over ours.")
    for line in faults:
        console.print(f"The page itself: {line}", soft_wrap=True)
    good = all(one.is_good for one in found)
    return ExitStatus.ALL_WELL if good else ExitStatus.PROMISE_BROKEN


def _print_aim(one: Aim, console: Console, *, is_built: bool) -> None:
    count = len(one.hits)
    names = ", ".join(dict.fromkeys(one.hits))
    told = f"{count} element{'' if count == 1 else 's'}: {names}" if count else "no element"
    console.print(f"{one.backdrop}  {one.selector}  hits {told}", soft_wrap=True)
    if one.width is not None:
        widest = max(device.viewport.width for device in DEVICES)
        console.print(
            f"  likely {plain_number(round(one.width))} px wide in a window of"
            f" {plain_number(widest)} px"
        )
    for rival in one.rivals:
        console.print(f"  at {rival.device}, {rival.where} wins: {rival.says}", soft_wrap=True)
    if is_built and one.is_good:
        console.print("  our rules win on every usual screen")
    if one.advice:
        console.print(f"  {one.advice}", soft_wrap=True)


def _faults(page: Page) -> Iterator[str]:
    """What a page does wrong as it is, without anything that we would add."""
    useless: dict[str, list[str]] = {}
    for device in DEVICES:
        for fetch in load(page, viewer_of(device)).useless:
            useless.setdefault(file_name(fetch), []).append(device.figures)
    for name, screens in useless.items():
        yield f"{name} is hinted, and shown by nothing, at {screens[0]}{_more(screens)}"
    yield from _hidden(page)
    for node in page.nodes("video"):
        is_ours = node.get("data-moving") is not None  # its still is its element's background
        if not node.get("poster") and not is_ours:
            yield "a clip has no still: give it a poster, or a picture behind it"


def _hidden(page: Page) -> Iterator[str]:
    """Pictures that are fetched although nobody sees them."""
    wrapped = {id(one.etree_element): one for one in page.cascade.elements}
    for node in page.nodes("img"):
        element = wrapped.get(id(node))
        hidden = [
            device.figures
            for device in DEVICES
            if element is not None and not page.cascade.styles(viewer_of(device)).is_shown(element)
        ]
        if hidden and node.get("loading") != "lazy":
            yield (
                f"{node.get('src') or 'a picture'} is hidden, but fetched, at {hidden[0]}"
                f"{_more(hidden)}: use another source there, or loading=lazy"
            )


def _more(hidden: Sequence[str]) -> str:
    further = len(hidden) - 1
    return f" and {further} more screen{'' if further == 1 else 's'}" if further else ""
