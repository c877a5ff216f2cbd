"""Preload hints: what the first view needs, under the very condition of the rule it serves."""

from __future__ import annotations

from html import escape

from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord, Record, Shipped, Shown
from brightcanvas.rules.conditions import rung_condition


def hints(record: Record, addresses: Addresses) -> str:
    """The lines for the page's head, one for each rung of the backdrops in the first view.

    Only the best format is hinted: a browser fetches every hinted format that it knows.
    """
    return "".join(backdrop_hints(one, addresses) for one in record.backdrops)


def backdrop_hints(record: BackdropRecord, addresses: Addresses) -> str:
    """The lines of one backdrop; none where it isn't in the first view."""
    return "".join(
        _hint(shown, shipped, addresses)
        for shown in record.shown
        if record.first_view
        for shipped in shown.shipped
    )


def _hint(shown: Shown, shipped: Shipped, addresses: Addresses) -> str:
    best = shipped.assets[0]
    condition = rung_condition(shown, shipped)
    media = f' media="{escape(condition)}"' if condition else ""
    return (
        f'<link rel="preload" as="image" href="{escape(addresses.of(best.file))}"'
        f' type="{best.format.media_type}"{media} fetchpriority="high">\n'
    )
