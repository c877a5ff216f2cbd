"""Backgrounds of the first view that a browser finds only behind the style sheets."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.css.selectors import NEVER_SHOWN
from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts, SeenScreen, gains
from brightcanvas.inspecting.finding import Confidence, Finding, Severity
from brightcanvas.page.fetch import ShownElement
from brightcanvas.rehearsal.rehearsing import hero_of

NAME = "found late"
LEAST = 0.1
"""Seconds on the middling line, at which it is told."""

MOST_BEFORE = 3000
"""Letters before an element, menus' too, behind which it is in no first view, mostly."""


def find(facts: PageFacts) -> Iterator[Finding]:
    """The first view's background, where no hint is for it."""
    waits = []
    for one in facts.seen:
        hero = hero_of(one.load)
        if hero is None or hero.how != "background" or not _is_first(facts, one, hero):
            continue
        if not _is_hinted(one, hero):
            waits.append((gains(facts, one, hero), one, hero))
    if not waits:
        return
    middle = len(facts.lines) // 2
    saved, worst, hero = max(waits, key=lambda one: one[0][middle])
    if saved[middle] < LEAST:
        return
    line = facts.lines[middle]
    winner = worst.styles.winner(facts.element(hero.node))
    place = facts.at_rule(winner[0], hero.node) if winner else facts.at(hero.node, hero.element)
    yield Finding(
        NAME, f"the first view's picture, {facts.file_name(hero.urls[0])}, is found behind the"
        f" style sheets: a hint brings it {saved[middle]:.2f} s sooner over {line.name}",
        place, "write a hint into the head, with the rule's media condition", Severity.COSTS,
        tuple(one.screen for each, one, _ in waits if each[middle] >= LEAST),
        seconds=saved, sure=Confidence.LIKELY,
    )  # fmt: skip


def _is_first(facts: PageFacts, seen: SeenScreen, hero: ShownElement) -> bool:
    """Whether it begins in the first view: as a browser shows it, else by the text before it."""
    if laid := facts.laid(seen.screen, hero.node):
        return laid.box.top < seen.environment.height
    return _letters_before(facts.page.root, hero.node) <= MOST_BEFORE


def _letters_before(root: Node, node: Node) -> int:
    """Of the texts before an element, but for scripts, styles and what stands between words."""
    count = 0
    for one in root.iter():
        if one is node or count > MOST_BEFORE:
            break
        if one.tag not in NEVER_SHOWN:
            count += len((one.text or "").strip())
        count += len((one.tail or "").strip())
    return count


def _is_hinted(one: SeenScreen, hero: ShownElement) -> bool:
    return any(fetch.is_hinted and fetch.url in hero.urls for fetch in one.load.fetches)
