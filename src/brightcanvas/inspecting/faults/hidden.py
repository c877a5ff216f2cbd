"""Pictures and clips that are fetched although nobody sees them."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts, SeenScreen
from brightcanvas.inspecting.finding import Finding, Severity
from brightcanvas.page.embedded import clip_of, is_late, named, picture_of
from brightcanvas.page.reading import label

NAME = "hidden, but fetched"
LEAST = 500
"""Bytes; what is lighter costs less than the request."""


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each hidden ``img``, poster and clip."""
    page = facts.page
    for node in page.nodes("img"):
        if not is_late(node):
            yield from _found(facts, node, "picture", named(page, node), (
                "give those screens another source (picture, source media), or write loading=lazy"
            ))  # fmt: skip
    for node in page.nodes("video"):
        yield from _found(facts, node, "poster", label(node), (
            "put the still behind the clip as its element's background: hidden, that isn't fetched"
        ))  # fmt: skip
        yield from _found(facts, node, "clip", label(node), (
            "give its source a media condition, and let a script begin it where it is shown"
        ))  # fmt: skip


def _found(facts: PageFacts, node: Node, what: str, name: str, do: str) -> Iterator[Finding]:
    hidden = [
        (one, url)
        for one in facts.seen
        if not one.styles.is_shown(facts.element(node))
        and (url := _url(facts, node, what, one))
        and not _is_elsewhere(facts, url, node, one)
    ]
    heaviest = max((facts.bytes_of(url) for _, url in hidden), default=0)
    if heaviest >= LEAST:
        files = dict.fromkeys(facts.file_name(url) for _, url in hidden)
        yield Finding(
            NAME, f"{', '.join(files)} is hidden, and fetched all the same",
            facts.at(node, name), do, Severity.COSTS, tuple(one.screen for one, _ in hidden),
            heaviest, sure=facts.unless_scripts,
        )  # fmt: skip


def _url(facts: PageFacts, node: Node, what: str, seen: SeenScreen) -> str:
    page = facts.page
    if what == "picture":
        url = picture_of(page, node, seen.environment) or ""
    elif what == "poster":
        url = node.get("poster", "").strip()
    else:
        url = (clip_of(node, seen.environment) or "") if "autoplay" in node.attrib else ""
    return page.resolved(url) if url else ""


def _is_elsewhere(facts: PageFacts, url: str, node: Node, seen: SeenScreen) -> bool:
    """Whether another element shows the same file on that screen."""
    return any(
        url in one.urls and one.node is not node and seen.styles.is_shown(facts.element(one.node))
        for one in seen.load.shown
    )
