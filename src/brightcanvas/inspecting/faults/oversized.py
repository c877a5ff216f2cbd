"""Pictures with more px than a screen shows: one size for all, or the wrong one of several."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts, PictureFile, SeenScreen
from brightcanvas.inspecting.finding import Confidence, Finding, Severity
from brightcanvas.page.fetch import ShownElement
from brightcanvas.page.likely_boxes import likely_height, likely_width, stated_width
from brightcanvas.values.geometry import Size

ONE_FOR_ALL, NEEDLESS = "one size for all", "needless pixels"

DENSEST = 2.0
"""Px for each CSS px, as dense as anybody sees."""

MOST_SHOWN = 0.5
"""Share of a file's px that a screen shows, below which the file is too large for it."""

LEAST = 10_000
"""Bytes that are wasted, at which it is told."""


@dataclass(frozen=True)
class Waste:
    """What one screen needn't have fetched of a picture."""

    seen: SeenScreen
    file: PictureFile
    shown: float
    """Share of its px that the screen shows."""

    @property
    def bytes(self) -> int:
        """As its px are, so are its bytes: about."""
        return round(self.file.bytes * (1 - self.shown))


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each element whose picture is too large for some screen."""
    nodes = {id(shown.node): shown.node for one in facts.seen for shown in one.load.shown}
    for node in nodes.values():
        fetched = [
            (one, shown) for one in facts.seen for shown in one.load.shown
            if shown.node is node and shown.how in ("background", "picture")
        ]  # fmt: skip
        wasted = [waste for one, shown in fetched for waste in _wasted(facts, one, shown)]
        if wasted:
            is_one = not _has_others(facts, node, fetched[0][1].how)
            urls = {url for _, shown in fetched for url in shown.urls}
            yield _finding(facts, fetched[0][1], wasted, is_one=is_one and len(urls) == 1)


def _has_others(facts: PageFacts, node: Node, how: str) -> bool:
    """Whether the markup offers several files for a picture."""
    outer = next(iter(facts.page.above(node)), None)
    is_offered = "srcset" in node.attrib or (outer is not None and outer.tag == "picture")
    return how == "picture" and is_offered


def _wasted(facts: PageFacts, seen: SeenScreen, shown: ShownElement) -> Iterator[Waste]:
    box = _box(facts, seen, shown)
    for url in shown.urls:
        file = facts.picture(url)
        if file is None or file.is_drawing:
            continue
        density = min(seen.environment.density, DENSEST)
        share = box.width * box.height * density**2 / (file.size.width * file.size.height)
        waste = Waste(seen, file, min(1.0, share))
        if share < MOST_SHOWN and waste.bytes >= LEAST:
            yield waste


def _box(facts: PageFacts, seen: SeenScreen, shown: ShownElement) -> Size:
    """CSS px in which a picture can be seen: as a browser shows it, or rather too large."""
    element = facts.element(shown.node)
    if seen.styles.word(element, "background-attachment") == "fixed":
        return Size(seen.environment.width, seen.environment.height)
    if laid := facts.laid(seen.screen, shown.node):
        return laid.box.size
    width = max(of(facts.page, element, seen.environment) for of in (likely_width, stated_width))
    height = likely_height(facts.page, element, seen.environment) or seen.environment.height
    if shown.how == "picture" and (file := facts.picture(shown.urls[0])):
        height = width * file.size.height / file.size.width
    return Size(width, height)


def _finding(
    facts: PageFacts, shown: ShownElement, wasted: list[Waste], *, is_one: bool
) -> Finding:
    worst = max(wasted, key=lambda one: one.bytes)
    px = f"{worst.file.size} px"
    says = f"{worst.file.name} ({px}) has more px than screens show:"
    says += f" {'' if facts.looks else 'about '}{max(1, round(worst.shown * 100))} % of them at"
    says += f" {worst.seen.screen.figures}"
    element = facts.element(shown.node)
    winner = worst.seen.styles.winner(element) if shown.how == "background" else None
    place = facts.at_rule(winner[0], shown.node) if winner else facts.at(shown.node, shown.element)
    if is_one and len(facts.seen) > 1:
        do = "make a cut and a size for each breakpoint: bright-canvas begin drafts the brief"
    elif shown.how == "picture":
        do = "say in sizes how wide it is shown, and offer a size near that"
    else:
        do = "give that screen a smaller file in the rule's media condition"
    return Finding(
        ONE_FOR_ALL if is_one else NEEDLESS, says, place, do, Severity.COSTS,
        tuple(one.seen.screen for one in wasted), worst.bytes,
        sure=Confidence.CERTAIN if facts.looks else Confidence.LIKELY,
        about=worst.file.name,
    )  # fmt: skip
