"""Backgrounds of the first view that a browser finds only behind the style sheets."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from brightcanvas.inspecting.facts import Facts, Seen
from brightcanvas.inspecting.finding import Finding, Harm, Sure
from brightcanvas.page.fetch import PICTURE, ShownElement
from brightcanvas.page.fetches import PageLoad
from brightcanvas.rehearsal.lines import Line, Protocol
from brightcanvas.rehearsal.rehearsing import hero_of
from brightcanvas.rehearsal.timeline import waterfall_of

NAME = "found late"
LEAST = 0.1
"""Seconds on the middling line, at which it is told."""


def find(facts: Facts) -> Iterator[Finding]:
    """The first view's background, where no hint is for it."""
    waits = []
    for one in facts.seen:
        hero = hero_of(one.load)
        if hero is not None and hero.how == "background" and not _is_hinted(one, hero):
            waits.append((_gains(facts, one, hero), one, hero))
    if not waits:
        return
    middle = len(facts.lines) // 2
    gains, worst, hero = max(waits, key=lambda one: one[0][middle])
    if gains[middle] < LEAST:
        return
    line = facts.lines[middle]
    winner = worst.styles.winner(facts.element(hero.node))
    place = facts.at_rule(winner[0], hero.node) if winner else facts.at(hero.node, hero.element)
    yield Finding(
        NAME, f"the first view's picture, {facts.file_name(hero.urls[0])}, is found behind the"
        f" style sheets: a hint brings it {gains[middle]:.2f} s sooner over {line.name}",
        place, "write a hint into the head, with the rule's media condition", Harm.COSTS,
        tuple(one.screen for each, one, _ in waits if each[middle] >= LEAST),
        seconds=gains, sure=Sure.LIKELY,
    )  # fmt: skip


def _is_hinted(one: Seen, hero: ShownElement) -> bool:
    return any(fetch.is_hinted and fetch.url in hero.urls for fetch in one.load.fetches)


def _gains(facts: Facts, one: Seen, hero: ShownElement) -> tuple[float, ...]:
    """Seconds that a hint would save, over each line."""
    hinted = PageLoad(
        tuple(
            replace(fetch, place=0.0, after=(), is_hinted=True)
            if fetch.url in hero.urls and fetch.kind == PICTURE
            else fetch
            for fetch in one.load.fetches
        ),
        one.load.shown,
    )
    return tuple(
        _wait(facts, one.load, hero, line) - _wait(facts, hinted, hero, line)
        for line in facts.lines
    )


def _wait(facts: Facts, load: PageLoad, hero: ShownElement, line: Line) -> float:
    size = facts.page.folder.bytes_of
    return waterfall_of(load, size, line, Protocol.HTTP1, facts.habits).at_hand(hero)
