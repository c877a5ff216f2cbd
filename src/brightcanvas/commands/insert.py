"""``bright-canvas insert``, and how both pages are told of on a terminal."""

from __future__ import annotations

from itertools import groupby
from typing import TYPE_CHECKING, Any

from rich.table import Table

from brightcanvas.integration.differing import tone_between, unreadable
from brightcanvas.library.copied_pages import copy_folder
from brightcanvas.library.for_briefs import build, load_brief
from brightcanvas.library.for_pages import insert
from brightcanvas.page.viewport import viewport_tag
from brightcanvas.serving.network_profiles import LINES
from brightcanvas.terminal.arguments import pages_and_brief
from brightcanvas.terminal.progress import counted, watched
from brightcanvas.terminal.report import print_stale
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse
    from collections.abc import Iterator

    from rich.console import Console

    from brightcanvas.integration.differing import PageSide
    from brightcanvas.integration.integrating import IntegratedPage
    from brightcanvas.integration.screenshots import Pair
    from brightcanvas.library.copied_pages import Integration
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Put the rules into a copy of the page, and look at what that changes on every screen."""
    targets, brief_path = pages_and_brief(arguments.named)
    brief = load_brief(brief_path)
    copy_folder(arguments.into, brief)  # before anything is built
    print_stale(brief, streams.console())
    with watched(streams.err) as watcher:
        outcome = build(brief, starts=watcher.starts, done=watcher.done)
    with counted(streams.err, "Looking at the pages, screens") as told:
        done = insert(
            targets, brief, outcome, into=arguments.into, root=arguments.root,
            browser=arguments.browser, told=told,
        )  # fmt: skip
    print_inserted(done, streams.console())
    if streams.as_json:
        streams.document(facts_of(done))
    return ExitStatus.ALL_WELL if done.is_lighter and done.is_same else ExitStatus.PROMISE_BROKEN


MIDDLE = len(LINES) // 2

MOST_TOLD = 4
"""Differences of a page, and lines of copy, that are told here; all are in the report."""


def print_inserted(done: Integration, console: Console) -> None:
    """Tell what the rules change."""
    for one in done.pages:
        console.print(f"{one.before.folder.page.name}: pictures and clips, before and after\n",
                      markup=False)  # fmt: skip
        console.print(_table(one))
        for line in _told(one, done.browser):
            console.print(f"{line}", soft_wrap=True, markup=False, highlight=False)
        console.print(
            f"The copy: {done.into / one.inserted.copy.page.folder.page.relative_to(done.into)}\n"
            f"Side by side: {done.into / one.report}",
            soft_wrap=True, markup=False,
        )  # fmt: skip
    if done.left_out:
        console.print(f"No backdrop is on: {', '.join(done.left_out)}", soft_wrap=True,
                      markup=False)  # fmt: skip


def _table(one: IntegratedPage) -> Table:
    table = Table(box=None, pad_edge=False)
    for heading in ("Screen", "Before", "After", "", f"First view over {LINES[MIDDLE].name}"):
        right = heading in ("Before", "After", "")
        table.add_column(heading, header_style="dim", justify="right" if right else "left")
    for each in one.compared:
        share = each.after.bytes / each.before.bytes if each.before.bytes else 1.0
        waits = [side.wait(MIDDLE) for side in (each.before, each.after)]
        table.add_row(
            f"{each.screen.name}, {each.screen.figures}", bytes_text(each.before.bytes),
            bytes_text(each.after.bytes), f"{share:.0%}", f"{waits[0]:.2f} s, now {waits[1]:.2f} s",
        )  # fmt: skip
    return table


def _told(one: IntegratedPage, browser: str) -> Iterator[str]:
    if viewport_tag(one.before) is None:
        yield (
            "No hints were put in: the page has no viewport tag, so phones would judge them by two"
            ' widths. <meta name="viewport" content="width=device-width"> mends both.'
        )
    if one.inserted.taken_out:
        yield f"Taken out, hints for: {', '.join(one.inserted.taken_out)}"
    for name in one.inserted.still_fetched:
        yield f"Still fetched, though ours is shown: {name}. Take its own rule out."
    if not browser:
        yield "No browser looked at it: whether it looks the same is not known."
        return
    screens = len(one.pairs)
    if one.differences:
        yield f"Looked at in {browser} on {screens} kinds of screen; different:"
        yield from _different(one)
    else:
        yield (
            f"Looked at in {browser} on {screens} kinds of screen: the same tone, boxes and copy,"
            " one file for each backdrop, nothing new on the console."
        )
    yield from _own_faults(one)


def _different(one: IntegratedPage) -> Iterator[str]:
    """Each kind of difference once, with the screens that it concerns."""
    in_order = sorted(one.differences, key=lambda each: (each.element, each.kind))
    told = []
    for (element, _), group in groupby(in_order, key=lambda each: (each.element, each.kind)):
        found = list(group)
        screens = ", ".join(dict.fromkeys(each.screen.name for each in found))
        told.append(f"  {element or 'the page'} {found[0].says} ({screens})")
    yield from told[:MOST_TOLD]
    if len(told) > MOST_TOLD:
        yield f"  and {len(told) - MOST_TOLD} more, in the report"


def _own_faults(one: IntegratedPage) -> Iterator[str]:
    """What the page as it was doesn't keep, which nobody asked to mend."""
    found = unreadable(one.pairs)
    if not found:
        return
    yield f"Hard to read before and after, {len(found)} line{'' if len(found) == 1 else 's'}:"
    for screen, element, line in found[:MOST_TOLD]:
        yield (
            f"  '{line.words}' on {element}: {line.contrast:.1f}:1 on a {screen.name},"
            f" {line.wanted:g}:1 is wanted"
        )


def facts_of(done: Integration) -> dict[str, Any]:
    """As JSON values."""
    return {"copy": str(done.into), "pages": [_page_facts(one) for one in done.pages]}


def _page_facts(one: IntegratedPage) -> dict[str, Any]:
    return {
        "page": str(one.before.folder.page),
        "report": one.report,
        "hints_taken_out": list(one.inserted.taken_out),
        "still_fetched": list(one.inserted.still_fetched),
        "looked_at": [each.screen.figures for each in one.pairs],
        "views": [_view_facts(each, element) for each in one.pairs for element in each.shared],
        "differences": [
            {"kind": each.kind, "screen": each.screen.figures, "element": each.element,
             "says": each.says}
            for each in one.differences
        ],
        "hard_to_read": [
            {"element": element, "words": line.words, "screen": screen.figures,
             "contrast": round(line.contrast, 2), "wanted": line.wanted}
            for screen, element, line in unreadable(one.pairs)
        ],
        "screens": [
            {"screen": each.screen.figures, "before": _side(each.before),
             "after": _side(each.after)}
            for each in one.compared
        ],
    }  # fmt: skip


def _view_facts(pair: Pair, element: str) -> dict[str, Any]:
    """How far a backdrop is from what it was, as it is seen."""
    before, after = pair.before.views[element], pair.after.views[element]
    tone = tone_between(before.png, after.png)
    return {
        "screen": pair.screen.figures,
        "element": element,
        "lightness": {"mean": round(tone.mean, 2), "far": round(tone.far, 2)},
        "box": [round(after.box.width, 2), round(after.box.height, 2)],
        "box_before": [round(before.box.width, 2), round(before.box.height, 2)],
    }


def _side(side: PageSide) -> dict[str, Any]:
    return {
        "bytes": side.bytes,
        "files": [fetch.url for fetch in side.files],
        "first_view": {line.name: round(side.wait(number), 3) for number, line in enumerate(LINES)},
    }
