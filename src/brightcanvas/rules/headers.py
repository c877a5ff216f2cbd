"""Hints as HTTP headers: plain lines, and lines for the two most used open web servers.

The ``Link`` header is RFC 8288's; sent ahead with status 103 it is an early hint (RFC 8297).
"""

from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import quote

from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord
from brightcanvas.rules.conditions import rung_condition

SAFE = "/:?&=%+,;@!*()~-._"
"""What stays as it is in a URL between angle brackets; servers read ``$`` and quotes themselves."""


def links(record: BackdropRecord, addresses: Addresses) -> Iterator[str]:
    """The values of the headers of one backdrop, one for each rung; none beyond the first view."""
    for shown in record.shown if record.first_view else ():
        for shipped in shown.shipped:
            best = shipped.assets[0]
            condition = rung_condition(shown, shipped)
            media = f'; media="{condition}"' if condition else ""
            yield (
                f"<{quote(addresses.of(best.file), safe=SAFE)}>; rel=preload; as=image;"
                f' type="{best.format.media_type}"{media}; fetchpriority=high'
            )


def header_lines(values: list[str]) -> str:
    """As they go over the line, for hosts with a box for headers."""
    return "".join(f"Link: {one}\n" for one in values)


def for_nginx(values: list[str]) -> str:
    """For nginx: within the ``location`` of the page."""
    return "".join(f"add_header Link '{one}';\n" for one in values)


def for_apache(values: list[str]) -> str:
    """For Apache, with mod_headers: within the page's ``Location`` or its .htaccess."""
    quoted = (one.replace("%", "%%").replace('"', '\\"') for one in values)
    return "".join(f'Header add Link "{one}"\n' for one in quoted)
