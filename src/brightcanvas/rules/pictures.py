"""A backdrop as an element behind the content: ``picture`` with a source for every rung."""

from __future__ import annotations

from collections.abc import Iterator
from html import escape

from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import Asset, BackdropRecord, Shown
from brightcanvas.rules.conditions import breakpoint_condition, rung_condition

NOTHING = "data:image/gif;base64,R0lGODlhAQABAAAAACw="
"""A picture of one clear px, for breakpoints that show none: it asks the host for nothing."""


def picture_markup(record: BackdropRecord, addresses: Addresses) -> str:
    """The element, to be the first child of the one that it fills.

    Its sources come in the order in which browsers try them: each breakpoint's rungs, newest
    format first; then the breakpoint's oldest file, for browsers that don't know conditions in
    the range form.
    """
    sources = "\n".join(f"    {one}" for one in _sources(record, addresses))
    last = next((one for one in reversed(record.shown) if one.shipped), None)
    if last is None:
        return ""
    oldest = last.shipped[0].assets[-1]
    haste = 'fetchpriority="high"' if record.first_view else 'loading="lazy"'
    return (
        f"  <picture data-backdrop>\n{sources}\n"
        f'    <img src="{escape(addresses.of(oldest.file))}" alt="{escape(record.alternative)}"'
        f' width="{oldest.width}" height="{oldest.height}" decoding="async" {haste}>\n'
        f"  </picture>\n"
    )


def _sources(record: BackdropRecord, addresses: Addresses) -> Iterator[str]:
    for shown in record.shown:
        for shipped in shown.shipped:
            condition = rung_condition(shown, shipped)
            for asset in shipped.assets:
                yield _source(asset, condition, addresses, has_type=True)
        yield _for_old(shown, addresses)


def _for_old(shown: Shown, addresses: Addresses) -> str:
    condition = breakpoint_condition(shown.view.slot.breakpoint)
    if not shown.shipped:
        return f'<source{_media(condition)} srcset="{NOTHING}" width="1" height="1">'
    return _source(shown.shipped[0].assets[-1], condition, addresses, has_type=False)


def _source(asset: Asset, condition: str, addresses: Addresses, *, has_type: bool) -> str:
    kind = f' type="{asset.format.media_type}"' if has_type else ""
    return (
        f'<source{_media(condition)}{kind} srcset="{escape(_in_srcset(addresses.of(asset.file)))}"'
        f' width="{asset.width}" height="{asset.height}">'
    )


def _media(condition: str) -> str:
    return f' media="{escape(condition)}"' if condition else ""


def _in_srcset(url: str) -> str:
    """A URL that ``srcset`` takes for one: commas at its ends and spaces would part it."""
    return url.replace(" ", "%20").replace(",", "%2C")
