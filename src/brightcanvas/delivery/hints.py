"""Preload hints, in the page's head and as HTTP headers.

The ``Link`` header is RFC 8288's; sent ahead with status 103 it is an early hint (RFC 8297).
Chromium passes over early hints that have a condition, and would fetch one without it on every
screen: only what all screens need is worth sending ahead.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape
from urllib.parse import quote, urlsplit

from brightcanvas.delivery.candidates import YOUNG, hint_condition, hinted, srcset
from brightcanvas.ledger.record import Addresses, Asset, BackdropRecord, PublishedVariant, Record


def hints(record: Record, addresses: Addresses) -> str:
    """The lines for the page's head, one for each part of the backdrops in the first view."""
    lines = "".join(backdrop_hints(one, addresses) for one in record.backdrops)
    return f"{WHY_YOUNG}{lines}" if YOUNG in lines else lines


WHY_YOUNG = f"<!-- {YOUNG}: only in browsers that know the newer formats. -->\n"
"""Said where a reviewer will ask."""


def backdrop_hints(record: BackdropRecord, addresses: Addresses) -> str:
    """The lines of one backdrop; none where it isn't in the first view."""
    is_found = record.backdrop.form == "img"  # browsers see it in the markup at once
    shown = record.shown if record.first_view and not is_found else ()
    return "".join(_hint(record, one, addresses) for one in shown if one.shipped)


def _hint(record: BackdropRecord, shown: PublishedVariant, addresses: Addresses) -> str:
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


SAFE = "/:?&=%+,;@!*()~-._"
"""What stays as it is in a URL between angle brackets; servers read ``$`` and quotes themselves."""

PASSED_ON = 4096
"""Bytes of headers that nginx takes from a server behind it unless it is told to take more: one
page of memory (``proxy_buffer_size``, ``fastcgi_buffer_size``). It answers 502 to longer ones."""

OTHERS = 600
"""Bytes of the headers that a page has anyway, about."""


def all_links(record: Record) -> list[str]:
    """The values of the headers of all backdrops."""
    return [value for one in record.backdrops for value in links(one, record.addresses)]


def are_heavy(values: Sequence[str]) -> bool:
    """Whether they are more than servers in front of others may let through."""
    return len(header_lines(values)) + OTHERS > PASSED_ON


def links(record: BackdropRecord, addresses: Addresses) -> Iterator[str]:
    """The values of the headers of one backdrop, one for each part; none beyond the first view."""
    for shown in record.shown if record.first_view else ():
        if not shown.shipped:
            continue
        candidates = [(_quoted(addresses, asset), label) for asset, label in hinted(shown)]
        several = ", ".join(f"{url}{label}" for url, label in candidates)
        sources = f'; imagesrcset="{several}"' if len(candidates) > 1 else ""
        condition = hint_condition(record, shown)
        media = f'; media="{condition}"' if condition else ""
        kind = hinted(shown)[0][0].format.media_type
        yield (
            f'<{candidates[0][0]}>; rel=preload; as=image; type="{kind}"{sources}{media};'
            " fetchpriority=high"
        )


def _quoted(addresses: Addresses, asset: Asset) -> str:
    return quote(addresses.of(asset.file), safe=SAFE)


def early_links(record: Record, sheet_name: str) -> Iterator[str]:
    """The values of the headers to send ahead: hosts, the style sheet, unconditional pictures.

    None where nothing is in the first view.

    Args:
        record: of one page.
        sheet_name: of its style sheet.
    """
    pictures = all_links(record)
    if not pictures:
        return
    sheet = quote(record.addresses.of(sheet_name), safe=SAFE)
    urls = [value[1:].partition(">")[0] for value in pictures]
    for origin in dict.fromkeys(_origin(url) for url in (sheet, *urls)):
        if origin:
            yield f"<{origin}>; rel=preconnect"
    yield f"<{sheet}>; rel=preload; as=style"
    plain = (value for value in pictures if not {"media", "imagesrcset"} & _parameters(value))
    yield from plain


def _parameters(value: str) -> set[str]:
    """The names of a header's parameters."""
    return {part.strip().partition("=")[0] for part in value.split(";")}


def _origin(url: str) -> str:
    """Scheme and host; empty for a file of the page's own host."""
    parts = urlsplit(url)
    return f"{parts.scheme}://{parts.netloc}" if parts.scheme and parts.netloc else ""


def header_lines(values: Sequence[str]) -> str:
    """As they go over the line, for hosts with a box for headers."""
    return "".join(f"Link: {one}\n" for one in values)


def for_nginx(values: Sequence[str]) -> str:
    """For nginx: within the ``location`` of the page."""
    return "".join(f"add_header Link '{one}';\n" for one in values)


def for_apache(values: Sequence[str]) -> str:
    """For Apache, with mod_headers: within the page's ``Location`` or its .htaccess."""
    quoted = (_within_quotes(one.replace("%", "%%")) for one in values)
    return "".join(f'Header add Link "{one}"\n' for one in quoted)


def early_for_apache(values: Sequence[str]) -> str:
    """For Apache, with mod_http2: within the page's ``Location`` or its .htaccess."""
    return "".join(f'H2EarlyHint Link "{_within_quotes(one)}"\n' for one in values)


def _within_quotes(value: str) -> str:
    return value.replace('"', '\\"')
