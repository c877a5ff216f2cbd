"""Backgrounds of the first view that a browser finds only behind the style sheets."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.inspecting.facts import Facts, Seen
from brightcanvas.inspecting.finding import Finding, Harm, Sure
from brightcanvas.inspecting.sooner import gains
from brightcanvas.page.fetch import ShownElement
from brightcanvas.rehearsal.rehearsing import hero_of

NAME = "found late"
LEAST = 0.1
"""Seconds on the middling line, at which it is told."""


def find(facts: Facts) -> Iterator[Finding]:
    """The first view's background, where no hint is for it."""
    waits = []
    for one in facts.seen:
        hero = hero_of(one.load)
        if hero is not None and hero.how == "background" and not _is_hinted(one, hero):
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
        place, "write a hint into the head, with the rule's media condition", Harm.COSTS,
        tuple(one.screen for each, one, _ in waits if each[middle] >= LEAST),
        seconds=saved, sure=Sure.LIKELY,
    )  # fmt: skip


def _is_hinted(one: Seen, hero: ShownElement) -> bool:
    return any(fetch.is_hinted and fetch.url in hero.urls for fetch in one.load.fetches)
