"""A page with the rules of a build in a copy of it, and all that is seen of both."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

from brightcanvas.brief.brief import names_by_page, page_named
from brightcanvas.browsers.window import Window
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.forms.clip_forms import SCRIPT, moving_link, moving_script
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.markup import SHEET, has_own_sheets, sheet_name
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.integration.copying import CopyFolder, Inserted, copy_with_rules, loaded, relative
from brightcanvas.integration.differing import Compared, Difference, compare, differences
from brightcanvas.integration.marked import Snippets
from brightcanvas.integration.screenshots import Pair, look_at, pairs_of
from brightcanvas.ledger.record import BESIDE, Addresses, BackdropRecord, PublishedVariant, Record
from brightcanvas.page.aim import PSEUDO, hit
from brightcanvas.page.reading import Page
from brightcanvas.page.viewport import viewport_tag
from brightcanvas.serving.network_profiles import LINES
from brightcanvas.values.colours import UNTREATED
from brightcanvas.values.files import read_regular


def of_page(record: Record, page: Page) -> Record:
    """What of a record a page shows: what its ``[[page]]`` lists, and has an element there."""
    wish = page_named(record.pages, page.folder.page)
    names = [one.name for one in record.backdrops]
    on_it = dict(names_by_page(record.pages, names))
    listed = on_it[wish.name] if wish else frozenset(names)
    there = [
        one for one in record.backdrops
        if one.name in listed and hit(page, PSEUDO.sub("", one.element))
    ]  # fmt: skip
    return replace(record, backdrops=tuple(there))


def sheet_of(record: Record, page: Page) -> tuple[str, Record]:
    """The name of a page's style sheet, and what stands in it."""
    wish = page_named(record.pages, page.folder.page)
    if wish and has_own_sheets(record):
        return sheet_name(wish.name), of_page(record, page)
    return SHEET, record


def snippets_for(record: Record, page: Page, folder: str) -> Snippets:
    """What goes into a page; no hints where it has no viewport tag.

    Phones judge hints by two widths there, and would fetch two files.

    Args:
        record: of what was made.
        page: to put it into.
        folder: of our files, as seen from the page.
    """
    own, addresses = of_page(record, page), Addresses(folder)
    text = {one.element: children(one, addresses) for one in own.backdrops}
    imgs = {one.element for one in own.backdrops if one.backdrop.form == "img"}
    return Snippets(
        hints(own, addresses) if viewport_tag(page) is not None else "",
        addresses.of(sheet_of(record, page)[0]),
        tuple(one for one in text.items() if one[1] and one[0] not in imgs),
        tuple(one.element for one in own.backdrops if not _keeps_rule(one)),
        tuple(one.element for one in own.backdrops if _keeps_rule(one)),
        tuple(one for one in text.items() if one[0] in imgs),
        f"{moving_link(addresses)}\n" if own.moves else "",
    )


def _keeps_rule(one: BackdropRecord) -> bool:
    """Whether the page's own rule is needed for what it says besides its picture."""
    return any(shown.view.slot.keeps_rule for shown in one.shown)


def changed_in(record: Record) -> frozenset[str]:
    """The selectors of the backdrops that the brief makes look otherwise than the page does."""
    return frozenset(one.element for one in record.backdrops if any(map(_is_changed, one.shown)))


def _is_changed(shown: PublishedVariant) -> bool:
    """Whether a tone, a scrim or a subject is asked for, or all of the rule is ours."""
    slot, picture = shown.view.slot, shown.view.picture
    is_toned = picture is not None and picture.tone != UNTREATED
    is_framed = slot.position is None and bool(picture and picture.subjects)
    return not slot.keeps_rule or is_toned or shown.scrim is not None or is_framed


def rule_files_for(record: Record, page: Page) -> dict[str, bytes]:
    """The style sheet and the script that a page loads, by their names."""
    name, own = sheet_of(record, page)
    script = {SCRIPT: moving_script().encode()} if record.moves else {}
    return {name: stylesheet(own, BESIDE).encode(), **script}


FOLDER, REPORT = "backdrops", "before-after.html"
"""In a copy: our files, and the page that shows both sides."""

_RULES = (".html", ".txt", ".css", ".js", ".json")
"""Endings of what is published beside pictures and clips: a copy has its own."""


@dataclass(frozen=True)
class IntegratedPage:
    """A page before and after."""

    before: Page
    inserted: Inserted
    compared: tuple[Compared, ...]
    """What each screen fetches, and when."""
    pairs: tuple[Pair, ...]
    """As a browser showed them; none where none was asked."""
    differences: tuple[Difference, ...]
    """That are seen on them."""
    report: str
    """The name of the page that shows both."""


def integrate(
    page: Page, record: Record, published: Path, files: Iterable[str], place: CopyFolder,
    window: Window | None, *, report: str,
) -> IntegratedPage:  # fmt: skip
    """Look at a page, copy it with the rules in it, and look at it again.

    Args:
        page: as it is.
        record: of the build.
        published: the folder of the build's files.
        files: their names there.
        place: the folder of the copy.
        window: of a browser; None: nobody looks.
        report: the name of the page that will show both.

    Raises:
        BriefError: the page is itself a copy, or somebody changed a file of an earlier one.
        MachineError: the folder may not be written, or the browser fails.
    """
    selectors = [one.element for one in of_page(record, page).backdrops]
    was = look_at(window, page, selectors) if window else {}
    seen = {path for one in was.values() for path in one.asked}
    snippets = snippets_for(record, page, relative(page, FOLDER))
    original = loaded(page)
    contents = _contents(record, page, published, files)
    inserted = copy_with_rules(original, snippets, contents, place, seen)
    pairs = pairs_of(was, look_at(window, inserted.copy.page, selectors)) if window else ()
    return IntegratedPage(
        page, inserted, compare(original, inserted.copy, LINES), pairs,
        differences(pairs, FOLDER, changed_in(record)), report,
    )  # fmt: skip


def _contents(
    record: Record, page: Page, published: Path, files: Iterable[str]
) -> dict[str, bytes]:
    """The files that a page with our rules fetches, by their paths in the copy."""
    pictures = {one: read_regular(published / one) for one in files if not one.endswith(_RULES)}
    rules = rule_files_for(record, page)
    return {f"{FOLDER}/{name}": content for name, content in {**pictures, **rules}.items()}


def report_name(page: Page, *, is_single: bool) -> str:
    """Of the page that shows a page before and after; of several, each has one."""
    return REPORT if is_single else REPORT.replace(".", f"-{page.folder.page.stem}.")
