"""A backdrop as an element behind the content: ``picture`` with sources for every part."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape

from brightcanvas.delivery.candidates import by_format, srcset
from brightcanvas.delivery.conditions import breakpoint_condition
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import Asset, BackdropRecord

NOTHING = "data:image/gif;base64,R0lGODlhAQABAAAAACw="
"""A picture of one clear px, for breakpoints that show none: it asks the host for nothing."""


def picture_markup(record: BackdropRecord, addresses: Addresses) -> str:
    """The element, to be the first child of the one that it fills.

    Its sources come in the order in which browsers try them: for each part the newest format
    first, then the file for browsers of any age.
    """
    last = next((one for one in reversed(record.shown) if one.oldest), None)
    if last is None or last.oldest is None:
        return ""
    sources = "\n".join(f"    {one}" for one in _sources(record, addresses))
    oldest, url = last.oldest, escape(addresses.of(last.oldest.file))
    haste = 'fetchpriority="high"' if record.first_view else 'loading="lazy"'
    return (
        f"  <picture data-backdrop>\n{sources}\n"
        f'    <img src="{url}" alt="{escape(record.alternative)}"'
        f' width="{oldest.width}" height="{oldest.height}" decoding="async" {haste}>\n'
        f"  </picture>\n"
    )


def _sources(record: BackdropRecord, addresses: Addresses) -> Iterator[str]:
    for shown in record.shown:
        condition = breakpoint_condition(shown.view.slot.breakpoint)
        media = f' media="{escape(condition)}"' if condition else ""
        if shown.oldest is None:
            yield f'<source{media} srcset="{NOTHING}" width="1" height="1">'
            continue
        for kind, candidates in by_format(shown).items():
            if candidates[0][0] != shown.oldest:
                yield _source(f'{media} type="{kind.media_type}"', candidates, addresses)
        yield _source(media, [(shown.oldest, "")], addresses)


def _source(asked: str, candidates: Sequence[tuple[Asset, str]], addresses: Addresses) -> str:
    largest = candidates[-1][0]
    return (
        f'<source{asked} srcset="{escape(srcset(list(candidates), addresses))}"'
        f' width="{largest.width}" height="{largest.height}">'
    )
