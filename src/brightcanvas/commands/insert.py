"""``bright-canvas insert``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from rich.table import Table

from brightcanvas.brief.loading import load_brief
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.headers import SHEET
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.moving import SCRIPT, moving_link, moving_script
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.inserting.comparing import Compared, compare
from brightcanvas.inserting.copying import Inserted, copy_with_rules, is_free, relative
from brightcanvas.inserting.marked import Snippets
from brightcanvas.ledger.addresses import BESIDE, Addresses
from brightcanvas.page.reading import Page, read_page
from brightcanvas.page.site import pages_at
from brightcanvas.pipeline.building import Outcome, build
from brightcanvas.pipeline.ownership import BY_INTO, Output
from brightcanvas.pipeline.publishing import publish
from brightcanvas.rehearsal.lines import CHROMIUM, LINES
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.reports.before_after import before_after_page
from brightcanvas.terminal.arguments import add_brief, add_root
from brightcanvas.terminal.progress import watched
from brightcanvas.terminal.words import weight
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.files import read_regular

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from rich.console import Console

    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas insert site/index.html
  bright-canvas insert site/index.html site/brief.toml --into site-after --pictures
"""

FOLDER, PAGE = "backdrops", "before-after.html"


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("page", metavar="PAGE", help="an HTML file, or an address on this machine")
    add_brief(command)
    add_root(command)
    command.add_argument(
        "--into", type=Path, default=Path("with-backdrops"), metavar="FOLDER",
        help="where the copy goes, with all that the page fetches (default: with-backdrops)",
    )  # fmt: skip
    command.add_argument(
        "--pictures", action="store_true",
        help="show both in a real browser too, side by side",
    )  # fmt: skip


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Put the rules into a copy of the page, and tell what that changes on every screen."""
    brief = load_brief(arguments.brief)
    into: Path = arguments.into
    _check_free(into)
    with watched(streams.err) as watcher:
        outcome = build(brief, watcher=watcher)
    with pages_at(arguments.page, arguments.root) as folders:
        before = read_page(folders[0])
        snippets, published = _snippets(before, outcome)
        done = copy_with_rules(before, snippets, published, into)
        compared = compare(before, done.page, DEVICES, LINES, CHROMIUM)
        shots = _shots(before, done.page) if arguments.pictures else {}
        content = before_after_page(before.folder.page.name, compared, LINES, shots)
    publish(Output(into, into, "copies", BY_INTO), {PAGE: content})
    console = streams.console()
    _tell(done, compared, into, console)
    if streams.as_json:
        streams.document(_facts(done, compared, into))
    is_better = all(one.after.bytes <= one.before.bytes for one in compared)
    return ExitStatus.ALL_WELL if is_better else ExitStatus.PROMISE_BROKEN


def _check_free(into: Path) -> None:
    """Refuse a folder with files that no earlier copy of ours put there."""
    if into.is_file() or not is_free(into):
        raise BriefError(f"{into} holds other files: {BY_INTO}. Nothing was written.")


def _snippets(page: Page, outcome: Outcome) -> tuple[Snippets, dict[str, bytes]]:
    """What goes into the page, and the files that it then fetches, by their paths."""
    record, folder = outcome.record, relative(page, FOLDER)
    addresses = Addresses(folder)
    below = [(one.element, children(one, addresses)) for one in record.backdrops]
    moves = record.moves
    snippets = Snippets(
        hints(record, addresses),
        addresses.of(SHEET),
        tuple((element, text) for element, text in below if text),
        tuple(one.element for one in record.backdrops),
        f"{moving_link(addresses)}\n" if moves else "",
    )
    output = outcome.plan.brief.output
    names = [one for one in outcome.published if (output / one).suffix not in (".html", ".txt")]
    files = {f"{FOLDER}/{one}": read_regular(output / one) for one in names if one != "ledger.json"}
    files[f"{FOLDER}/{SHEET}"] = stylesheet(record, BESIDE).encode()
    if moves:
        files[f"{FOLDER}/{SCRIPT}"] = moving_script().encode()
    return snippets, files


def _shots(before: Page, after: Page) -> dict[str, tuple[bytes, bytes]]:
    from brightcanvas.inserting.shots import side_by_side

    return side_by_side(before.folder, after.folder)


def _tell(done: Inserted, compared: Sequence[Compared], into: Path, console: Console) -> None:
    table = Table(box=None, pad_edge=False)
    line = LINES[len(LINES) // 2]
    for heading in ("Screen", "Before", "After", "", f"First view over {line.name}"):
        right = heading in ("Before", "After", "")
        table.add_column(heading, header_style="dim", justify="right" if right else "left")
    for one in compared:
        share = one.after.bytes / one.before.bytes if one.before.bytes else 1.0
        waits = [side.wait(len(LINES) // 2) for side in (one.before, one.after)]
        table.add_row(
            f"{one.screen.name}, {one.screen.figures}", weight(one.before.bytes),
            weight(one.after.bytes), f"{share:.0%}", f"{waits[0]:.2f} s, now {waits[1]:.2f} s",
        )  # fmt: skip
    console.print("Pictures and clips of the page, as it was and with the rules:\n")
    console.print(table)
    if done.taken_out:
        console.print(f"\nTaken out, hints for: {', '.join(done.taken_out)}", markup=False)
    for name in done.still_fetched:
        console.print(
            f"\nStill fetched, though ours is shown: {name}. Take its own rule out.", markup=False
        )
    console.print(f"\nThe copy: {into / done.page.folder.page.name}", soft_wrap=True, markup=False)
    console.print(f"Side by side: {into / PAGE}", soft_wrap=True, markup=False)


def _facts(done: Inserted, compared: Sequence[Compared], into: Path) -> dict[str, Any]:
    return {
        "copy": str(into),
        "hints_taken_out": list(done.taken_out),
        "still_fetched": list(done.still_fetched),
        "screens": [
            {
                "screen": one.screen.figures,
                **{
                    word: {
                        "bytes": side.bytes,
                        "files": [fetch.url for fetch in side.files],
                        "first_view": {
                            line.name: round(side.wait(number), 3)
                            for number, line in enumerate(LINES)
                        },
                    }
                    for word, side in (("before", one.before), ("after", one.after))
                },
            }
            for one in compared
        ],
    }
