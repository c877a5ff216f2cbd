"""Blocks for people who only have boxes to paste into, on a page that copies them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from jinja2 import Environment, PackageLoader

from brightcanvas.delivery.by_page import SHEET, PagePart, by_page, has_own_sheets, sheets_of
from brightcanvas.delivery.headers import (
    PASSED_ON,
    all_links,
    are_heavy,
    early_for_apache,
    early_links,
    for_apache,
    for_nginx,
    header_lines,
)
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.markup import markup
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.ledger.model import Record


@dataclass(frozen=True)
class Paste:
    """One thing to paste."""

    title: str
    told: str
    text: str


def blocks(record: Record) -> list[Paste]:
    """All blocks; those for hints only where something is in the first view, page by page."""
    addresses = record.addresses
    elements = "\n".join(markup(one, addresses) for one in record.backdrops)
    styles = [
        Paste(f"Style box{_of_sheet(name)}", "The whole style sheet, for a box named CSS.",
              stylesheet(own, addresses))
        for name, own in sheets_of(record).items()
    ]  # fmt: skip
    body = Paste("Body", "Each element goes where its content is; nothing to do for those that"
                 " say they are your own.", elements)  # fmt: skip
    own_sheets = has_own_sheets(record)
    hinted = [
        one for page in by_page(record)
        for one in _hint_blocks(page, page.sheet if own_sheets else SHEET)
    ]  # fmt: skip
    return [*styles, body, *hinted]


def _of_sheet(name: str) -> str:
    return "" if name == SHEET else f" of the page {name.removeprefix('backdrops-')[:-4]}"


def _hint_blocks(page: PagePart, sheet: str) -> list[Paste]:
    """The hints of one page, in every way in which they can be given."""
    values = all_links(page.record)
    if not values:
        return []
    head = hints(page.record, page.record.addresses)
    found = [
        Paste("Head", "The hints for the first view, behind the page's viewport tag: phones judge"
              " what stands before it as if they were 980 px wide, and fetch a second file. In one"
              " place only: here, in the body, or as headers.", head),
        Paste("Hints in the body", "Where the head can't be edited: the same, as early in the"
              " body as you can, before the first picture.", head),
        *_header_blocks(values),
        *_early_blocks(list(early_links(page.record, sheet))),
    ]  # fmt: skip
    return [replace(one, title=f"{one.title}{page.place}") for one in found]


def _header_blocks(values: Sequence[str]) -> list[Paste]:
    return [
        Paste("HTTP headers", "Where headers can be set for the page, and its head can't be"
              " edited: WebKit, which is on every second phone, asks for these pictures only"
              f" behind those of the page's own markup.{_warning(values)}",
              header_lines(values)),
        Paste("HTTP headers with nginx", "In the location of the page.", for_nginx(values)),
        Paste("HTTP headers with Apache", "With mod_headers, in the page's Location or .htaccess.",
              for_apache(values)),
    ]  # fmt: skip


def _warning(values: Sequence[str]) -> str:
    """What headers do that weigh too much; in a page's head they do no harm."""
    if not are_heavy(values):
        return ""
    return (
        f" They come to {len(header_lines(values)) / 1000:.1f} kB: where nginx stands in front of"
        f" the server that sends them, it answers 502 to more than {PASSED_ON / 1000:.0f} kB unless"
        " its proxy_buffer_size and proxy_busy_buffers_size are raised, to 16k say (for PHP, the"
        " same of fastcgi). The head has no such limit."
    )


def _early_blocks(values: Sequence[str]) -> list[Paste]:
    return [
        Paste("Early hints", "Beside one of the others: what every screen needs, to be sent with"
              " status 103 while a page that links backdrops.css is still being made. It has"
              " to come with a Cache-Control that lets browsers keep it (max-age), or they fetch it"
              " twice. Browsers pass over early hints for some screens only.",
              header_lines(values)),
        Paste("Early hints with Apache", "With mod_http2 and its H2EarlyHints on, in the page's"
              " Location.", early_for_apache(values)),
    ]  # fmt: skip


def paste_page(record: Record, lacking: Sequence[str]) -> str:
    """The page; everything on it is text, whatever stands in a brief."""
    environment = Environment(
        loader=PackageLoader("brightcanvas.delivery", "pages"),
        autoescape=True,
        keep_trailing_newline=True,
    )
    return environment.get_template("paste.html.j2").render(
        title=record.title or "Backdrops", blocks=blocks(record), lacking=lacking
    )
