"""Pictures and clips that say no size, so that what stands below them jumps."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.inspecting.facts import Facts, Seen
from brightcanvas.inspecting.finding import Finding, Harm, Sure
from brightcanvas.page.embedded import named
from brightcanvas.page.markup import Node

NAME = "no dimensions"
AUTO = ("", "auto")
OUT_OF_FLOW = ("absolute", "fixed")


def find(facts: Facts) -> Iterator[Finding]:
    """Each ``img`` and ``video`` that is shown somewhere."""
    for node in facts.page.nodes("img", "video"):
        screens = tuple(one.screen for one in facts.seen if _jumps(facts, node, one))
        if screens:
            yield Finding(
                NAME, "it states no width and height: the page jumps when it arrives",
                facts.at(node, named(facts.page, node)),
                "write width and height in px of the file; CSS may still scale it", Harm.SPOILS,
                screens, sure=Sure.LIKELY,
            )  # fmt: skip


def _jumps(facts: Facts, node: Node, one: Seen) -> bool:
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
