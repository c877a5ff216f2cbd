"""``bright-canvas insert``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.brief.loading import load_brief
from brightcanvas.inserting.comparing import compare
from brightcanvas.inserting.copying import CopyFolder, copy_with_rules, relative
from brightcanvas.inserting.differing import differences
from brightcanvas.inserting.done import PageDone
from brightcanvas.inserting.looking import SHOWN, look_at, pairs_of
from brightcanvas.inserting.pages import changed_in, of_page, rule_files_for, snippets_for
from brightcanvas.page.reading import Page, read_page
from brightcanvas.page.site import pages_at
from brightcanvas.pipeline.building import Outcome, build
from brightcanvas.pipeline.home import own_folder
from brightcanvas.pipeline.ownership import BY_INTO, Output
from brightcanvas.pipeline.publishing import publish
from brightcanvas.rehearsal.lines import CHROMIUM, LINES
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.reports.before_after import before_after_page
from brightcanvas.terminal.arguments import add_pages_and_brief, add_root, pages_and_brief
from brightcanvas.terminal.browsers import first_window
from brightcanvas.terminal.inserted import facts_of, print_inserted
from brightcanvas.terminal.progress import counted, watched
from brightcanvas.terminal.report import print_stale
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.files import read_regular

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.browsers.window import Window
    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas insert site/index.html
  bright-canvas insert site/index.html site/about.html site/brief.toml --into site-after
  bright-canvas insert site brief.toml --browser firefox
"""

FOLDER, PAGE = "backdrops", "before-after.html"


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    add_pages_and_brief(command)
    add_root(command)
    command.add_argument(
        "--into", type=Path, default=Path("with-backdrops"), metavar="FOLDER",
        help="where the copy goes, with all that the page fetches (default: with-backdrops)",
    )  # fmt: skip
    command.add_argument(
        "--browser", choices=("chromium", "firefox", "none"),
        help="which one looks at both pages (default: one that is here)",
    )  # fmt: skip


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Put the rules into a copy of the page, and look at what that changes on every screen."""
    targets, brief_path = pages_and_brief(arguments.named)
    brief = load_brief(brief_path)
    place = CopyFolder(arguments.into, own_folder(brief.path.parent))
    if not place.is_free:
        raise BriefError(f"{arguments.into} holds other files: {BY_INTO}. Nothing was written.")
    into = place.into
    print_stale(brief, streams.console())
    with watched(streams.err) as watcher:
        outcome = build(brief, watcher=watcher)
    with (
        pages_at(targets, arguments.root) as folders,
        first_window(arguments.browser, folders) as window,
        counted(streams.err, "Looking at the pages, screens") as told,
        place,
    ):
        pages = [read_page(one) for one in folders]
        shown = [one for one in pages if of_page(outcome.record, one).backdrops]
        if not shown:
            raise BriefError("no backdrop of this brief has an element there: bright-canvas hits")
        done = []
        for page in shown:
            done.append(_done(page, outcome, place, window, single=len(shown) == 1))
            told(len(done) * len(SHOWN))
    reports = {one.report: _report(one) for one in done}
    publish(Output(into, brief.path.parent, "copies", BY_INTO), reports)
    left_out = [page.folder.page.name for page in pages if page not in shown]
    print_inserted(done, left_out, into, window.name if window else "", streams.console())
    if streams.as_json:
        streams.document(facts_of(done, into))
    return _status(done)


def _done(
    before: Page, outcome: Outcome, place: CopyFolder, window: Window | None, *, single: bool
) -> PageDone:
    """One page: looked at, copied with the rules in it, and looked at again."""
    record = outcome.record
    selectors = [one.element for one in of_page(record, before).backdrops]
    was = look_at(window, before, selectors) if window else {}
    seen = {path for one in was.values() for path in one.asked}
    snippets = snippets_for(record, before, relative(before, FOLDER))
    done = copy_with_rules(before, snippets, _published(outcome, before), place, seen)
    compared = compare(before, done.page, DEVICES, LINES, CHROMIUM)
    pairs = pairs_of(was, look_at(window, done.page, selectors)) if window else ()
    name = PAGE if single else PAGE.replace(".", f"-{before.folder.page.stem}.")
    found = differences(pairs, FOLDER, changed_in(record))
    return PageDone(before, done, compared, pairs, found, name)


def _published(outcome: Outcome, page: Page) -> dict[str, bytes]:
    """The files that a page with our rules fetches, by their paths in the copy."""
    output = outcome.plan.brief.output
    kept = (".html", ".txt", ".css", ".js", ".json")
    names = [one for one in outcome.published if not one.endswith(kept)]
    files = {f"{FOLDER}/{one}": read_regular(output / one) for one in names}
    rules = rule_files_for(outcome.record, page)
    return files | {f"{FOLDER}/{name}": content for name, content in rules.items()}


def _report(one: PageDone) -> bytes:
    shots = {
        (pair.screen.name, element): (view.png, pair.after.views[element].png)
        for pair in one.pairs for element, view in pair.before.views.items()
        if element in pair.after.views
    }  # fmt: skip
    title = one.before.folder.page.name
    told = [f"{each.screen.name}: {each.element} {each.says}" for each in one.differences]
    return before_after_page(title, one.compared, LINES, shots, told)


def _status(done: Sequence[PageDone]) -> ExitStatus:
    """All well only where nothing is heavier, and nothing is seen to differ."""
    is_lighter = all(each.after.bytes <= each.before.bytes for one in done for each in one.compared)
    is_same = not any(one.differences for one in done)
    return ExitStatus.ALL_WELL if is_lighter and is_same else ExitStatus.PROMISE_BROKEN
