"""Clips without a still, with sound, without a pause, and on phones."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Confidence, Finding, Severity
from brightcanvas.page.embedded import clip_of
from brightcanvas.page.reading import label
from brightcanvas.values.errors import BrightCanvasError

if TYPE_CHECKING:
    from brightcanvas.formats.clips.clip_reading import ClipFacts

STILL, SOUND, PAUSE, PHONES, WEIGHT = (
    "clip without a still", "clip with sound", "clip without a pause", "clip on phones",
    "heavy clip",
)  # fmt: skip

HEAVY = 1_500_000
"""Bytes of a clip behind content that are more than anybody needs."""


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each clip of the page."""
    for node in facts.page.nodes("video"):
        if "autoplay" in node.attrib:
            yield from _on_phones(facts, node)
            yield from _on_desks(facts, node)
            yield from _with_sound(facts, node)
            yield from _without_pause(facts, node)
        yield from _without_still(facts, node)


def _on_phones(facts: PageFacts, node: Node) -> Iterator[Finding]:
    fetched = [
        (one, facts.page.resolved(url))
        for one in facts.seen
        if one.screen.touched and _is_small(one.environment.width, one.environment.height)
        and one.styles.is_shown(facts.element(node)) and (url := clip_of(node, one.environment))
    ]  # fmt: skip
    if not fetched:
        return
    heaviest = max(facts.bytes_of(url) for _, url in fetched)
    name = facts.file_name(fetched[0][1])
    yield Finding(
        PHONES, f"phones fetch the clip {name}", facts.at(node),
        "give its source a media condition such as (min-width: 800px), and phones the still",
        Severity.COSTS, tuple(one.screen for one, _ in fetched), heaviest,
    )  # fmt: skip


def _is_small(width: float, height: float) -> bool:
    return min(width, height) < 600


def _with_sound(facts: PageFacts, node: Node) -> Iterator[Finding]:
    urls = {
        facts.page.resolved(url) for one in facts.seen if (url := clip_of(node, one.environment))
    }  # fmt: skip
    loud = [url for url in sorted(urls) if _has_sound(facts, url)]
    if "muted" not in node.attrib:
        yield Finding(
            SOUND, "it isn't muted: browsers don't let it begin by itself", facts.at(node),
            "write muted", Severity.SPOILS,
        )  # fmt: skip
    elif loud:
        yield Finding(
            SOUND, f"{facts.file_name(loud[0])} carries a sound track that nobody hears",
            facts.at(node), f"take it out: bright-canvas transcode {facts.file_name(loud[0])}",
            Severity.LITTERS,
        )  # fmt: skip


def _has_sound(facts: PageFacts, url: str) -> bool:
    found = _facts_of(facts, url)
    return found is not None and found.has_sound


def _facts_of(facts: PageFacts, url: str) -> ClipFacts | None:
    from brightcanvas.formats.clips.clip_reading import read_facts

    path = facts.page.folder.file(url)
    try:
        return read_facts(path) if path else None
    except BrightCanvasError:
        return None


def _without_pause(facts: PageFacts, node: Node) -> Iterator[Finding]:
    if "controls" in node.attrib or not _plays_long(facts, node):
        return
    if any(_may_pause(facts, one) for one in _near(facts, node)):
        return
    yield Finding(
        PAUSE, "it plays on and on, or for more than five seconds, and nothing near it can stop"
        " it (WCAG 2.2, 2.2.2)",
        facts.at(node), "put a button beside it that pauses it, and heed prefers-reduced-motion",
        Severity.SPOILS, sure=Confidence.LIKELY,
    )  # fmt: skip


def _near(facts: PageFacts, node: Node) -> Iterator[Node]:
    """The buttons of the two elements round a clip; of all the page's, only those beside it."""
    for around in list(facts.page.above(node))[:2]:
        is_page = around.tag in ("body", "html")
        yield from around.findall("button") if is_page else around.iter("button")


def _may_pause(facts: PageFacts, button: Node) -> bool:
    """A form's button sends it, unless it says otherwise."""
    in_form = any(one.tag == "form" for one in facts.page.above(button))
    return not in_form or button.get("type", "submit").lower() == "button"


LONGEST = 5.0
"""Seconds that something may move by itself without a way to stop it (WCAG 2.2, 2.2.2)."""


def _plays_long(facts: PageFacts, node: Node) -> bool:
    """Whether it is played again and again, or for long."""
    if "loop" in node.attrib:
        return True
    urls = {url for one in facts.seen if (url := clip_of(node, one.environment))}
    seconds = (_seconds(facts, facts.page.resolved(url)) for url in urls)
    return max(seconds, default=0.0) > LONGEST


def _seconds(facts: PageFacts, url: str) -> float:
    found = _facts_of(facts, url)
    return found.seconds if found else 0.0


def _on_desks(facts: PageFacts, node: Node) -> Iterator[Finding]:
    """A clip that is heavy on screens that are meant to play it."""
    fetched = [
        (one, facts.page.resolved(url))
        for one in facts.seen
        if not one.screen.touched and one.styles.is_shown(facts.element(node))
        and (url := clip_of(node, one.environment))
    ]  # fmt: skip
    heaviest = max((facts.bytes_of(url) for _, url in fetched), default=0)
    if heaviest < HEAVY:
        return
    name = next(facts.file_name(url) for _, url in fetched if facts.bytes_of(url) == heaviest)
    yield Finding(
        WEIGHT, f"laptops fetch {name}, {heaviest / 1e6:.1f} MB", facts.at(node),
        f"make it lighter: bright-canvas transcode {name}", Severity.COSTS,
        tuple(one.screen for one, _ in fetched), heaviest, sure=Confidence.LIKELY,
    )  # fmt: skip


def _without_still(facts: PageFacts, node: Node) -> Iterator[Finding]:
    if node.get("poster", "").strip() or "controls" in node.attrib:
        return
    around = [facts.element(node), *list(reversed(facts.element(node).ancestors))[:2]]
    bare = [
        one.screen
        for one in facts.seen
        if one.styles.is_shown(facts.element(node))
        and not any(one.styles.backgrounds(each) for each in around)
    ]
    if bare:
        yield Finding(
            STILL, "nothing is seen until it plays, and where it doesn't", facts.at(node),
            f"give {label(node)} a poster, or its element a picture: bright-canvas poster",
            Severity.SPOILS, tuple(bare),
        )  # fmt: skip
