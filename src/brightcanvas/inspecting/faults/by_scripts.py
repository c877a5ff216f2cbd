"""What scripts make a page fetch, as a browser saw it."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Finding, Place, Severity
from brightcanvas.page.folder import HOST
from brightcanvas.values.words import bytes_text

NAME = "fetched by scripts"
LEAST = 100_000
"""Bytes from which on it is told as a fault."""

ICON = f"{HOST}/favicon.ico"
"""What browsers ask every host for."""


def further(facts: PageFacts) -> list[str]:
    """What a browser fetched on any screen that markup and style sheets don't tell."""
    found: dict[str, None] = {}
    for one in facts.seen if facts.looks else ():
        known = {fetch.url for fetch in one.load.fetches}
        found |= dict.fromkeys(sorted(facts.looks[one.screen].asked - known - {ICON}))
    return list(found)


def find(facts: PageFacts) -> Iterator[Finding]:
    """One finding for all of it; nothing where no browser was asked."""
    urls = sorted(further(facts), key=lambda url: -facts.bytes_of(url))
    weight = sum(facts.bytes_of(url) for url in urls)
    if weight >= LEAST:
        names = ", ".join(facts.file_name(url) for url in urls[:3])
        yield Finding(
            NAME, f"scripts fetch {len(urls)} further files, {bytes_text(weight)}: {names}",
            Place(facts.name), "no hint and no browser finds these early: name them in the markup,"
            " or leave out what nobody looks at", Severity.COSTS, bytes=weight,
        )  # fmt: skip
