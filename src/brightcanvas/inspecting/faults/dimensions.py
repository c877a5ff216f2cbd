"""Pictures and clips that say no size, so that what stands below them jumps."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts, SeenScreen
from brightcanvas.inspecting.finding import Confidence, Finding, Severity
from brightcanvas.page.embedded import named

NAME = "no dimensions"
AUTO = ("", "auto")
OUT_OF_FLOW = ("absolute", "fixed")


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each ``img`` and ``video`` that is shown somewhere."""
    for node in facts.page.nodes("img", "video"):
        screens = tuple(one.screen for one in facts.seen if _jumps(facts, node, one))
        if screens:
            yield Finding(
                NAME, "it states no width and height: the page jumps when it arrives",
                facts.at(node, named(facts.page, node)),
                "write width and height in px of the file; CSS may still scale it", Severity.SPOILS,
                screens, sure=Confidence.LIKELY,
            )  # fmt: skip


def _jumps(facts: PageFacts, node: Node, one: SeenScreen) -> bool:
    if node.get("width", "").strip() and node.get("height", "").strip():
        return False
    element, styles = facts.element(node), one.styles
    if not styles.is_shown(element) or not (node.get("src") or node.get("srcset") or len(node)):
        return False
    if styles.word(element, "position") in OUT_OF_FLOW:
        return False
    if any(styles.word(outer, "position") in OUT_OF_FLOW for outer in element.ancestors):
        return False
    has_height = styles.word(element, "height") not in AUTO
    return not has_height and styles.word(element, "aspect-ratio") in AUTO
