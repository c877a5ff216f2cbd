"""What of a page is seen to differ with the rules in it, told by screen."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.integration.copying import LoadedPage
from brightcanvas.integration.screenshots import ACROSS, PICTURES, Pair, View
from brightcanvas.measuring.letters import ReadLine
from brightcanvas.page.fetch import CLIP, PICTURE, Fetch, ShownElement
from brightcanvas.page.page_load import PageLoad
from brightcanvas.page.reading import Page
from brightcanvas.rehearsal.engine_profiles import CHROMIUM
from brightcanvas.rehearsal.rehearsing import hero_of
from brightcanvas.rehearsal.timeline import Waterfall, waterfall_of
from brightcanvas.serving.network_profiles import NetworkProfile, Protocol
from brightcanvas.values.screens import DEVICES, Screen

LUMA = np.array([0.299, 0.587, 0.114], np.float32)

MOST_MEAN, MOST_FAR = 4.0, 14.0
"""Codes of 255 by which lightness may differ: in the mean, and at the 95th percentile."""

MOST_MOVED = 1.0
"""CSS px by which a box may be another one."""

MOST_LOST = 0.95
"""Share of its contrast that copy has left at least, where it can't be read well."""


@dataclass(frozen=True)
class Difference:
    """Something that is seen to differ."""

    kind: str
    """``tone``, ``box``, ``copy``, ``files`` or ``console``."""
    screen: Screen
    element: str
    """Selector; empty: the page."""
    says: str


@dataclass(frozen=True)
class ToneShift:
    """How much lighter or darker a view is, codes of 255."""

    mean: float
    far: float
    """At the 95th percentile."""

    @property
    def is_same(self) -> bool:
        """Whether nobody would call it another picture."""
        return self.mean <= MOST_MEAN and self.far <= MOST_FAR


def tone_between(first: bytes, second: bytes) -> ToneShift:
    """The difference in lightness between two screenshots (PNG), both shrunk."""
    one, other = (_shrunk(png) for png in (first, second))
    rows = min(one.shape[0], other.shape[0])
    off = np.abs(one[:rows] - other[:rows])
    return ToneShift(float(off.mean()), float(np.percentile(off, 95)))


def _shrunk(png: bytes) -> NDArray[np.float32]:
    """Lightness (luma, BT.601, codes of 255) in cells, as many across as are compared."""
    codes = decode(png).pixels[..., :3].astype(np.float32) @ LUMA
    cell = codes.shape[1] / ACROSS
    down = max(1, round(codes.shape[0] / cell))
    return _means(_means(codes, ACROSS).T, down).T


def _means(codes: NDArray[np.float32], cells: int) -> NDArray[np.float32]:
    """Means over so many cells along the last axis."""
    edges = np.linspace(0, codes.shape[1], cells + 1).round().astype(int)
    sums = np.add.reduceat(codes, edges[:-1], axis=1)
    return np.asarray(sums / np.diff(edges), np.float32)


def differences(
    pairs: Sequence[Pair], ours: str, changed: Collection[str] = ()
) -> tuple[Difference, ...]:
    """Everything that is seen to differ and nobody asked for.

    Args:
        pairs: the page on each screen.
        ours: the path of our files below the host's root.
        changed: selectors of backdrops that are to look otherwise, as the brief says.
    """
    found = (one for pair in pairs for one in _of_pair(pair, ours))
    return tuple(one for one in found if one.kind != "tone" or one.element not in changed)


def _of_pair(pair: Pair, ours: str) -> Iterator[Difference]:
    before, after, screen = pair.before, pair.after, pair.screen
    for element, view in before.views.items():
        if element in after.views:
            yield from _of_view(screen, element, view, after.views[element])
    if abs(before.height - after.height) > MOST_MOVED:
        says = f"the page is {after.height:.0f} px high, was {before.height:.0f}"
        yield Difference("box", screen, "", says)
    yield from _of_files(pair, ours)
    for said in dict.fromkeys(after.console):
        if said not in before.console:
            yield Difference("console", screen, "", f"the console says: {said[:200]}")


def _of_view(screen: Screen, element: str, before: View, after: View) -> Iterator[Difference]:
    tone = tone_between(before.png, after.png)
    if not tone.is_same:
        says = f"looks different: {tone.mean:.0f} of 255 in the mean, {tone.far:.0f} at worst"
        yield Difference("tone", screen, element, says)
    sides = zip(_edges(before), _edges(after), strict=True)
    if max(abs(one - other) for one, other in sides) > MOST_MOVED:
        says = f"its box is {after.box.size}, was {before.box.size}"
        yield Difference("box", screen, element, says)
    yield from _of_copy(screen, element, before.lines, after.lines)


def _edges(view: View) -> tuple[float, ...]:
    return view.box.edges


def _of_copy(
    screen: Screen, element: str, before: Sequence[ReadLine], after: Sequence[ReadLine]
) -> Iterator[Difference]:
    """The line that lost most, of those that can't be read well now."""
    lost = [
        (now.contrast / was.contrast, was, now)
        for was, now in zip(before, after, strict=False)
        if was.words == now.words and now.contrast < now.wanted
        and now.contrast < MOST_LOST * was.contrast
    ]  # fmt: skip
    if lost:
        _, was, now = min(lost, key=lambda one: one[0])
        says = f"'{now.words}' has {now.contrast:.1f}:1, had {was.contrast:.1f}:1"
        yield Difference("copy", screen, element, says)


def _of_files(pair: Pair, ours: str) -> Iterator[Difference]:
    """More than one file of ours for a backdrop, or one that is fetched twice."""
    asked = [one for one in pair.after.asked if one.startswith(f"/{ours}/")]
    pictures = [one.rpartition("/")[2] for one in asked if one.lower().endswith(PICTURES)]
    twice = sorted({one for one in pictures if pictures.count(one) > 1})
    if twice:
        yield Difference("files", pair.screen, "", f"fetched twice: {', '.join(twice)}")
    by_backdrop: dict[str, list[str]] = {}
    for name in dict.fromkeys(pictures):
        by_backdrop.setdefault(_stem(name), []).append(name)
    for names in by_backdrop.values():
        if len(names) > 1:
            says = f"{len(names)} files for one backdrop: {', '.join(names)}"
            yield Difference("files", pair.screen, "", says)


_NAMED = re.compile(r"(.+)-\d+x\d+-[0-9a-f]{8}\.\w+")


def _stem(name: str) -> str:
    """The backdrop that a published file is of."""
    found = _NAMED.fullmatch(name)
    return found[1] if found else name


def unreadable(pairs: Iterable[Pair]) -> list[tuple[Screen, str, ReadLine]]:
    """Copy that the page as it was doesn't keep readable, each line where it is worst."""
    worst: dict[tuple[str, str], tuple[Screen, str, ReadLine]] = {}
    for pair in pairs:
        for element, view in pair.before.views.items():
            for line in view.lines:
                key = (element, line.words)
                is_worse = key not in worst or line.contrast < worst[key][2].contrast
                if line.contrast < line.wanted and is_worse:
                    worst[key] = (pair.screen, element, line)
    return sorted(worst.values(), key=lambda one: one[2].contrast)


@dataclass(frozen=True)
class PageSide:
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
    before: PageSide
    after: PageSide


def compare(
    before: LoadedPage, after: LoadedPage, lines: Sequence[NetworkProfile]
) -> tuple[Compared, ...]:
    """Both pages on each of ``DEVICES``, over every line.

    Args:
        before: as it was.
        after: with our rules.
        lines: to load over.
    """
    found = []
    for screen, was, now in zip(DEVICES, before.loads, after.loads, strict=True):
        hero = hero_of(now)
        same = [one for one in was.shown if hero and one.element == hero.element and one.files]
        found.append(Compared(
            screen,
            _side(before.page, was, lines, same[0] if same else hero_of(was)),
            _side(after.page, now, lines, hero),
        ))  # fmt: skip
    return tuple(found)


def _side(
    page: Page, found: PageLoad, lines: Sequence[NetworkProfile], hero: ShownElement | None
) -> PageSide:
    size = page.folder.bytes_of
    weighed = (
        size(one.url) or 0 for one in found.fetches
        if one.kind in (PICTURE, CLIP) and not one.is_partial
    )  # fmt: skip
    waterfalls = tuple(waterfall_of(found, size, one, Protocol.HTTP1, CHROMIUM) for one in lines)
    return PageSide(found, hero, waterfalls, sum(weighed))
