"""Photographs in formats that all browsers in use could have lighter."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Finding, Severity
from brightcanvas.page.fetch import ShownElement
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.words import bytes_text

NAME = "old format"
LEAST = 30_000
"""Bytes; a lighter picture gains little."""

OLD = (FileFormat.JPEG, FileFormat.PNG)


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each picture once."""
    told: set[str] = set()
    for one in facts.seen:
        for shown in one.load.shown:
            for url in shown.urls:
                if url not in told and _is_old(facts, url):
                    told.add(url)
                    yield _finding(facts, shown, url)


def _is_old(facts: PageFacts, url: str) -> bool:
    file = facts.picture(url)
    if file is None or file.bytes < LEAST:
        return False
    return file.kind.format in OLD or file.kind.name == "GIF"


def _finding(facts: PageFacts, shown: ShownElement, url: str) -> Finding:
    file = facts.picture(url)
    kind = file.kind.name if file else ""
    heavy = bytes_text(file.bytes) if file else ""
    screens = tuple(
        one.screen for one in facts.seen if any(url in other.urls for other in one.load.shown)
    )
    return Finding(
        NAME, f"{facts.file_name(url)} ({heavy}) is a {kind}, and no newer format is offered",
        facts.at(shown.node, shown.element),
        f"see what it would weigh: bright-canvas compress {facts.file_name(url)}",
        Severity.LITTERS, screens, about=facts.file_name(url),
    )  # fmt: skip
