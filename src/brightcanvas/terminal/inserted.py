"""What inserting the rules into copies of pages came to, for people and for machines."""

from __future__ import annotations

from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rich.table import Table

from brightcanvas.inserting.differing import tone_between, unreadable
from brightcanvas.page.viewport import viewport_tag
from brightcanvas.rehearsal.lines import LINES
from brightcanvas.terminal.words import weight

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from rich.console import Console

    from brightcanvas.inserting.comparing import Side
    from brightcanvas.inserting.done import PageDone
    from brightcanvas.inserting.looking import Pair

MIDDLE = len(LINES) // 2

MOST_TOLD = 4
"""Differences of a page, and lines of copy, that are told here; all are in the report."""


def print_inserted(
    done: Sequence[PageDone], left_out: Sequence[str], into: Path, browser: str, console: Console
) -> None:
    """Tell what the rules change.

    Args:
        done: each page.
        left_out: pages that no backdrop is on.
        into: the folder of the copies.
        browser: that looked at the pages; empty: none did.
        console: to tell it to.
    """
    for one in done:
        console.print(f"{one.before.folder.page.name}: pictures and clips, before and after\n",
                      markup=False)  # fmt: skip
        console.print(_table(one))
        for line in _told(one, browser):
            console.print(f"{line}", soft_wrap=True, markup=False, highlight=False)
        console.print(
            f"The copy: {into / one.inserted.page.folder.page.relative_to(into)}\n"
            f"Side by side: {into / one.report}",
            soft_wrap=True, markup=False,
        )  # fmt: skip
    if left_out:
        console.print(f"No backdrop is on: {', '.join(left_out)}", soft_wrap=True, markup=False)


def _table(one: PageDone) -> Table:
    table = Table(box=None, pad_edge=False)
    for heading in ("Screen", "Before", "After", "", f"First view over {LINES[MIDDLE].name}"):
        right = heading in ("Before", "After", "")
        table.add_column(heading, header_style="dim", justify="right" if right else "left")
    for each in one.compared:
        share = each.after.bytes / each.before.bytes if each.before.bytes else 1.0
        waits = [side.wait(MIDDLE) for side in (each.before, each.after)]
        table.add_row(
            f"{each.screen.name}, {each.screen.figures}", weight(each.before.bytes),
            weight(each.after.bytes), f"{share:.0%}", f"{waits[0]:.2f} s, now {waits[1]:.2f} s",
        )  # fmt: skip
    return table


def _told(one: PageDone, browser: str) -> Iterator[str]:
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


def _different(one: PageDone) -> Iterator[str]:
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


def _own_faults(one: PageDone) -> Iterator[str]:
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


def facts_of(done: Sequence[PageDone], into: Path) -> dict[str, Any]:
    """As JSON values."""
    return {"copy": str(into), "pages": [_page_facts(one) for one in done]}


def _page_facts(one: PageDone) -> dict[str, Any]:
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


def _side(side: Side) -> dict[str, Any]:
    return {
        "bytes": side.bytes,
        "files": [fetch.url for fetch in side.files],
        "first_view": {line.name: round(side.wait(number), 3) for number, line in enumerate(LINES)},
    }
