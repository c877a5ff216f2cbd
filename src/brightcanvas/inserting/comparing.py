"""A page before and after: what each screen fetches, and when its first view is there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from brightcanvas.page.fetch import CLIP, PICTURE, Fetch, ShownElement
from brightcanvas.page.fetches import PageLoad, load
from brightcanvas.page.reading import Page
from brightcanvas.rehearsal.lines import Habits, Line, Protocol
from brightcanvas.rehearsal.rehearsing import hero_of
from brightcanvas.rehearsal.timeline import Waterfall, waterfall_of
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class Side:
    """The page as it was, or as it is with our rules, on one screen."""

    load: PageLoad
    hero: ShownElement | None
    waterfalls: tuple[Waterfall, ...]
    """One for each line."""
    bytes: int
    """Of its pictures and clips."""

    @property
    def files(self) -> tuple[Fetch, ...]:
        """The pictures and clips."""
        return tuple(one for one in self.load.fetches if one.kind in (PICTURE, CLIP))

    def wait(self, line: int) -> float:
        """Seconds until the first view has its picture; until all is there where it has none."""
        waterfall = self.waterfalls[line]
        return waterfall.at_hand(self.hero) if self.hero else waterfall.unheld


@dataclass(frozen=True)
class Compared:
    """One screen."""

    screen: Screen
    before: Side
    after: Side


def compare(
    before: Page, after: Page, screens: Sequence[Screen], lines: Sequence[Line], habits: Habits
) -> tuple[Compared, ...]:
    """Both pages on every screen, over every line.

    Args:
        before: as it was.
        after: with our rules.
        screens: to look at.
        lines: to load over.
        habits: of the browser.
    """
    found = []
    for one in screens:
        now = _side(after, one, lines, habits, None)
        found.append(Compared(one, _side(before, one, lines, habits, now.hero), now))
    return tuple(found)


def _side(
    page: Page, screen: Screen, lines: Sequence[Line], habits: Habits, like: ShownElement | None
) -> Side:
    """One side; its first view is the same element as that of another side, if it is there."""
    found = load(page, habits.viewer(screen))
    same = [one for one in found.shown if like and one.element == like.element and one.files]
    hero = same[0] if same else hero_of(found)
    size = page.folder.bytes_of
    weighed = (
        size(one.url) or 0 for one in found.fetches
        if one.kind in (PICTURE, CLIP) and not one.is_partial
    )  # fmt: skip
    waterfalls = tuple(waterfall_of(found, size, one, Protocol.HTTP1, habits) for one in lines)
    return Side(found, hero, waterfalls, sum(weighed))
