"""Pictures far below the first view that are fetched with it."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Confidence, Finding, Severity
from brightcanvas.page.embedded import is_late, picture_of
from brightcanvas.values.screens import Screen
from brightcanvas.values.words import bytes_text

NAME = "fetched too early"
LEAST = 50_000
"""Bytes from which on it is told."""

FAR = 1.5
"""Heights of the window, below which nobody looks at first."""


def find(facts: PageFacts) -> Iterator[Finding]:
    """All such ``img`` together; nothing where no browser was asked where they lie."""
    found = {
        node: found for node in facts.page.nodes("img")
        if not is_late(node) and (found := _bytes_below(facts, node))
    }  # fmt: skip
    weight = sum(bytes_ for bytes_, _ in found.values())
    if weight >= LEAST:
        first = next(iter(found))
        screens = dict.fromkeys(one for _, each in found.values() for one in each)
        yield Finding(
            NAME, f"{len(found)} img far below the first view are fetched with it,"
            f" {bytes_text(weight)}",
            facts.at(first), 'write loading="lazy" into them', Severity.COSTS,
            tuple(one for one in facts.screens if one in screens), weight, sure=Confidence.LIKELY,
        )  # fmt: skip


def _bytes_below(facts: PageFacts, node: Node) -> tuple[int, tuple[Screen, ...]] | None:
    """Its bytes on the screen on which they are most, and the screens on which it lies far down."""
    weights = {}
    for one in facts.seen:
        laid = facts.laid(one.screen, node)
        url = picture_of(facts.page, node, one.environment)
        if laid and url and laid.box.top > FAR * one.screen.viewport.height:
            weights[one.screen] = facts.bytes_of(facts.page.resolved(url))
    return (max(weights.values()), tuple(weights)) if weights else None
