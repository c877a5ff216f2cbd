"""Preload hints: what the first view needs, under the very condition of the rule it serves."""

from __future__ import annotations

from html import escape

from brightcanvas.delivery.candidates import hint_condition, hinted, srcset
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord, Record, Shown


def hints(record: Record, addresses: Addresses) -> str:
    """The lines for the page's head, one for each part of the backdrops in the first view."""
    return "".join(backdrop_hints(one, addresses) for one in record.backdrops)


def backdrop_hints(record: BackdropRecord, addresses: Addresses) -> str:
    """The lines of one backdrop; none where it isn't in the first view."""
    is_found = record.backdrop.form == "img"  # browsers see it in the markup at once
    shown = record.shown if record.first_view and not is_found else ()
    return "".join(_hint(record, one, addresses) for one in shown if one.shipped)


def _hint(record: BackdropRecord, shown: Shown, addresses: Addresses) -> str:
    candidates = hinted(shown)
    condition = hint_condition(record, shown)
    media = f' media="{escape(condition)}"' if condition else ""
    first = candidates[0][0]
    where = f'href="{escape(addresses.of(first.file))}"'
    if len(candidates) > 1:  # browsers without imagesrcset pass over it, and fetch nothing twice
        where = f'imagesrcset="{escape(srcset(candidates, addresses))}"'
    return (
        f'<link rel="preload" as="image" type="{first.format.media_type}" {where}{media}'
        ' fetchpriority="high">\n'
    )
