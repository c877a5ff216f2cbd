"""Large pictures on other hosts: a further connection before the first byte."""

from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import urlsplit

from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Confidence, Finding, Severity
from brightcanvas.page.folder import HOST

NAME = "picture on another host"
LEAST_SHARE = 0.4
"""Of a window's width, that its element takes at least."""


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each other host that large pictures come from, once."""
    told: set[str] = set()
    for one in facts.seen:
        for shown in one.load.shown:
            urls = [url for url in shown.files if not url.startswith(f"{HOST}/")]
            if not urls or shown.across < LEAST_SHARE * one.environment.width:
                continue
            host = urlsplit(urls[0]).netloc
            if host and host not in told:
                told.add(host)
                name = urls[0].rpartition("/")[2].partition("?")[0] or urls[0]
                yield Finding(
                    NAME, f"{name} comes from {host}: two or three round trips before its first"
                    " byte, and its weight isn't known here",
                    facts.at(shown.node, shown.element),
                    "save it beside the page; bright-canvas begin takes it from there",
                    Severity.COSTS, (one.screen,), sure=Confidence.LIKELY,
                )  # fmt: skip
