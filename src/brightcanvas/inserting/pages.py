"""Which backdrops of a record are on a page, and what goes into it for them."""

from __future__ import annotations

from dataclasses import replace

from brightcanvas.brief.pages import names_by_page, page_named
from brightcanvas.delivery.by_page import SHEET, has_own_sheets, sheet_name
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.moving import SCRIPT, moving_link, moving_script
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.inserting.marked import Snippets
from brightcanvas.ledger.addresses import BESIDE, Addresses
from brightcanvas.ledger.model import BackdropRecord, Record, Shown
from brightcanvas.page.aim import PSEUDO, hit
from brightcanvas.page.reading import Page
from brightcanvas.page.viewport import viewport_tag
from brightcanvas.values.tones import UNTREATED


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


def _is_changed(shown: Shown) -> bool:
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
