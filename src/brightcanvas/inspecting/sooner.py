"""What it would save if the first view's picture were known from the top of the page on."""

from __future__ import annotations

from dataclasses import replace

from brightcanvas.inspecting.facts import Facts, Seen
from brightcanvas.page.fetch import PICTURE, ShownElement
from brightcanvas.rehearsal.lines import Line, Protocol
from brightcanvas.rehearsal.timeline import waterfall_of


def gains(facts: Facts, one: Seen, hero: ShownElement) -> tuple[float, ...]:
    """Seconds that a hint at the top would save, over each line.

    Args:
        facts: of the page.
        one: the page on a screen.
        hero: what its first view shows.
    """
    early = tuple(
        replace(fetch, place=0.0, after=(), is_hinted=True)
        if fetch.url in hero.urls and fetch.kind == PICTURE
        else fetch
        for fetch in one.load.fetches
    )
    known_early = replace(one, load=replace(one.load, fetches=early))
    return tuple(
        _wait(facts, one, hero, line) - _wait(facts, known_early, hero, line)
        for line in facts.lines
    )


def _wait(facts: Facts, one: Seen, hero: ShownElement, line: Line) -> float:
    size = facts.page.folder.bytes_of
    return waterfall_of(one.load, size, line, Protocol.HTTP1, facts.habits).at_hand(hero)
