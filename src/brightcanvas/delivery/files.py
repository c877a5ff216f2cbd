"""The published files beside the pictures: rules, hints, markup, and pages to try and paste them.

A page gets its own hints only: those of another page would be fetched in vain.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from brightcanvas.delivery.by_page import SHEET, by_page, has_own_sheets, sheets_of
from brightcanvas.delivery.headers import all_links, are_heavy, early_links, header_lines
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.markup import markup
from brightcanvas.delivery.moving import SCRIPT, moving_script
from brightcanvas.delivery.page import try_page
from brightcanvas.delivery.paste import paste_page
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.ledger.model import LEDGER, Record

TRY_PAGE = "try-it.html"
PASTE_PAGE = "paste.html"
MARKUP = "markup.html"


def rule_files(record: Record, lacking: Sequence[str]) -> dict[str, bytes]:
    """The content of each file by its name.

    Args:
        record: of what was made.
        lacking: files that the brief's list has no address for.
    """
    addresses = record.addresses
    texts = {SCRIPT: moving_script()} if record.moves else {}
    texts |= {
        **{name: stylesheet(own, addresses) for name, own in sheets_of(record).items()},
        MARKUP: "\n".join(markup(one, addresses) for one in record.backdrops),
        PASTE_PAGE: paste_page(record, lacking),
        TRY_PAGE: try_page(record),
    }
    for page in by_page(record):
        own, sheet = page.record, page.sheet if has_own_sheets(record) else SHEET
        texts |= {
            page.file("head", "html"): hints(own, addresses),
            page.file("headers", "txt"): header_lines(all_links(own)),
            page.file("early-hints", "txt"): header_lines(list(early_links(own, sheet))),
        }
    return {name: text.encode() for name, text in texts.items()}


def purposes(record: Record) -> Iterator[tuple[str, str]]:
    """The name of each file that is to be used, and what it is for."""
    if record.moves:
        yield SCRIPT, f"starts, stops and pauses them; {MARKUP} loads it"
    for name in sheets_of(record):
        of_page = "" if name == SHEET else f", on {name.removesuffix('.css').partition('-')[2]}"
        yield name, f"link it, or paste it into your own style sheet{of_page}"
    yield MARKUP, "the elements they fill"
    for page in by_page(record):
        told = f"hints for the head{page.place or ' of the page'}, behind its viewport tag"
        yield page.file("head", "html"), told
        is_heavy = are_heavy(all_links(page.record))
        caution = f"; too long for some servers, see {PASTE_PAGE}" if is_heavy else ""
        told = f"the same as HTTP headers, where the head can't be edited{caution}"
        yield page.file("headers", "txt"), told
        yield page.file("early-hints", "txt"), "what may be sent ahead of the page, beside them"
    yield PASTE_PAGE, "all of it in blocks to copy, for boxes to paste into"
    yield LEDGER, "every file, rule and promise, for machines"
