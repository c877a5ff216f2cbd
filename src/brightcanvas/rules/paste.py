"""Blocks for people who only have boxes to paste into, on a page that copies them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jinja2 import Environment, PackageLoader

from brightcanvas.ledger.model import Record
from brightcanvas.rules.headers import for_apache, for_nginx, header_lines, links
from brightcanvas.rules.hints import hints
from brightcanvas.rules.markup import markup
from brightcanvas.rules.stylesheet import stylesheet


@dataclass(frozen=True)
class Block:
    """One thing to paste."""

    title: str
    told: str
    text: str


def blocks(record: Record) -> list[Block]:
    """All blocks; those for hints only where something is in the first view."""
    addresses = record.addresses
    head = hints(record, addresses)
    elements = "\n".join(markup(one, addresses) for one in record.backdrops)
    values = [value for one in record.backdrops for value in links(one, addresses)]
    style = Block("Style box", "The whole style sheet, for a box named CSS.",
                  stylesheet(record, addresses))  # fmt: skip
    body = Block("Body", "Each element goes where its content is; nothing to do for those that"
                 " say they are your own.", elements)  # fmt: skip
    if not values:
        return [style, body]
    return [
        style,
        Block("Head", "The hints for the first view; one place only: here, 4, or 5.", head),
        body,
        Block("Hints in the body", "Where the head can't be edited: the same, as early in the"
              " body as you can, before the first picture.", head),
        Block("HTTP headers", "Where headers can be set for the page.", header_lines(values)),
        Block("HTTP headers with nginx", "In the location of the page.", for_nginx(values)),
        Block("HTTP headers with Apache", "With mod_headers, in the page's Location or .htaccess.",
              for_apache(values)),
    ]  # fmt: skip


def paste_page(record: Record, lacking: Sequence[str]) -> str:
    """The page; everything on it is text, whatever stands in a brief."""
    environment = Environment(
        loader=PackageLoader("brightcanvas.rules", "pages"),
        autoescape=True,
        keep_trailing_newline=True,
    )
    return environment.get_template("paste.html.j2").render(
        title=record.title or "Backdrops", blocks=blocks(record), lacking=lacking
    )
