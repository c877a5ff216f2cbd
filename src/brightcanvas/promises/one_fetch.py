"""The promise *one fetch*: every window of every screen fetches one file, the hinted one.

Decided on the very text of the rules, by the selection engine. What a rule asks of a window are
comparisons with the numbers that stand in it, so between two of them nothing changes: a window
on each number and one between each two of them stand for all.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import html5lib

from brightcanvas.css.layers import InvalidLayerError, pictures
from brightcanvas.css.media_queries import matches
from brightcanvas.css.screens import Viewer
from brightcanvas.css.sheets import Around, SheetReading, read_sheet
from brightcanvas.css.srcset import chosen, from_srcset, known_type
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.hints import backdrop_hints
from brightcanvas.delivery.stylesheet import backdrop_rules
from brightcanvas.promises.facts import Facts
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.values.geometry import plain_number
from brightcanvas.values.lengths import Tokens

NAME = "one fetch"
LEAST, MOST = 1.0, 100_000.0
"""CSS px of a window, wider and higher than any."""
DENSITIES = (0.25, 8.0)
"""Device px to a CSS px, zoomed out and in."""
LABELS = (1.0, 2.0, 3.0)
"""Densities that candidates are written with: between two of them nothing changes."""
HOLE = 1 / 64
"""CSS px: browsers keep lengths in such steps, so no window lies between two of them."""

Media = tuple[str, ...]
Queries = tuple[str, ...]
Open = tuple[tuple[str, Queries], ...]
"""What is left of each condition, a list of queries, where some have failed already."""

Fetched = tuple[tuple[str, ...], tuple[str, ...]]
"""What is shown, and what is hinted."""

Value = Tokens | str
"""Of a ``background-image``; or the ``srcset`` of a source."""


@dataclass(frozen=True)
class Sample:
    """What the rules and hints of one backdrop fetch in one window."""

    viewer: Viewer
    shown: tuple[str, ...]
    hinted: tuple[str, ...]

    @property
    def is_single(self) -> bool:
        """One file at most, and no other one hinted; None hinted, or the one."""
        return len(self.shown) <= 1 and set(self.hinted) <= set(self.shown)


def check(facts: Facts) -> Iterator[Verdict]:
    """The verdict on each backdrop that was published, by the text of its rules and hints."""
    if facts.record is None:
        return
    addresses = facts.record.addresses
    for one in facts.record.backdrops:
        elements = children(one, addresses)
        rules, hinted = backdrop_rules(one, addresses), backdrop_hints(one, addresses)
        yield check_rules(one.name, rules, elements, hinted, is_hinted=one.first_view)


def check_rules(
    backdrop: str, rules: str, elements: str, hints: str, *, is_hinted: bool
) -> Verdict:
    """The verdict on one backdrop.

    Args:
        backdrop: its name.
        rules: its part of the style sheet, as published.
        elements: its picture element, if it is one.
        hints: its lines for the head.
        is_hinted: whether each picture it shows has to be the hinted one.
    """
    samples = list(sampled(rules, elements, hints))
    bad = [one for one in samples if not one.is_single]
    bad += [one for one in samples if is_hinted and one.shown and one.shown != one.hinted]
    files = {url for one in samples for url in one.shown}
    if bad:
        says = f"{_window(bad[0].viewer)} fetches {_told(bad[0])}"
        remedy = "two rules or hints overlap there: report this, it is ours to mend"
        return Verdict(NAME, backdrop, "every breakpoint", State.BROKEN, says, -1, remedy)
    hinted = ", the hinted one" if is_hinted else ""
    says = (
        f"any width, whole or not, any height and density: one of {len(files)} files{hinted};"
        f" {len(samples)} windows stand for all"
    )
    return Verdict(NAME, backdrop, "every breakpoint", State.HOLDS, says, margin=0)


def _window(viewer: Viewer) -> str:
    size = f"{plain_number(round(viewer.width, 3))} x {plain_number(round(viewer.height, 3))}"
    return f"a window of {size} at {plain_number(round(viewer.density, 4))}x"


def _told(sample: Sample) -> str:
    shown = ", ".join(sample.shown) or "nothing"
    return f"{shown}; hinted: {', '.join(sample.hinted) or 'nothing'}"


def sampled(rules: str, elements: str, hints: str) -> Iterator[Sample]:
    """What each window that stands for others fetches.

    For each width, and each height at it, only those queries count that it leaves open; windows
    that leave the same ones open differ in their density alone, and are decided once.
    """
    layers, hinted = [*_layers(rules), *_sources(elements)], list(_hints(hints))
    texts = {media for medias, _ in layers for media in medias} | {media for media, _ in hinted}
    decided: dict[tuple[Open, float], Fetched] = {}
    for viewer, left in _windows({text: tuple(text.split(", ")) for text in texts}):
        key = tuple(left.items()), viewer.density
        if key not in decided:
            decided[key] = _fetched(layers, hinted, viewer, left)
        yield Sample(viewer, *decided[key])


def _fetched(
    layers: Sequence[tuple[Media, Value]],
    hinted: Sequence[tuple[str, str]],
    viewer: Viewer,
    left: Mapping[str, Queries],
) -> Fetched:
    """What is shown in a window, and what is hinted."""
    holds = {text: any(matches(one, viewer) for one in listed) for text, listed in left.items()}
    wanted = (_offered(offer, viewer) for media, offer in hinted if holds[media])
    return tuple(_shown(layers, viewer, holds)), tuple(dict.fromkeys(wanted))


def _windows(queries: Mapping[str, Queries]) -> Iterator[tuple[Viewer, dict[str, Queries]]]:
    """Windows on every number of the queries and between every two, with what each leaves open."""
    for width in _stands(_numbers(_all(queries), "width"), (LEAST, MOST)):
        fitting = _left(queries, ("width",), Viewer(width, 800))
        for height in _heights(width, _all(fitting)):
            left = _left(fitting, ("height", "orientation"), Viewer(width, height))
            for density in _stands(LABELS, DENSITIES):
                yield Viewer(width, height, density), left


def _all(queries: Mapping[str, Queries]) -> Queries:
    return tuple(itertools.chain(*queries.values()))


def _left(
    queries: Mapping[str, Queries], names: tuple[str, ...], viewer: Viewer
) -> dict[str, Queries]:
    """Those whose features of these names hold; each feature stands in parentheses."""
    return {
        text: tuple(one for one in listed if _may_hold(one, names, viewer))
        for text, listed in queries.items()
    }


def _may_hold(query: str, names: tuple[str, ...], viewer: Viewer) -> bool:
    asked = (one for one in _FEATURE.findall(query) if any(name in one for name in names))
    return all(matches(one, viewer) for one in asked)


def _heights(width: float, queries: Queries) -> list[float]:
    tall = _numbers(queries, "height")
    beside = [width - 1, width] if any("orientation" in one for one in queries) else []
    return [*(_stands(tall, (LEAST, MOST)) if tall else [800.0]), *beside]


_FEATURE = re.compile(r"\([^()]*\)")


def _numbers(queries: Iterable[str], name: str) -> set[float]:
    """The numbers that a feature is compared with."""
    named = {one for query in queries for one in _FEATURE.findall(query) if name in one}
    return {float(one) for text in named for one in re.findall(r"\d+(?:\.\d+)?", text)}


def _stands(numbers: Iterable[float], span: tuple[float, float]) -> Iterator[float]:
    """On each number of a range, and between; not where browsers have no step between."""
    inside = sorted({*span, *(one for one in numbers if span[0] <= one <= span[1])})
    for low, high in itertools.pairwise(inside):
        yield low
        if high - low > 2 * HOLE or span == DENSITIES:
            yield (low + high) / 2
    yield inside[-1]


def _layers(rules: str) -> Iterator[tuple[Media, Tokens]]:
    """The pictures that are declared, in order, with their conditions."""
    reading = SheetReading()
    read_sheet(rules, Around(""), lambda _: None, reading)
    for rule in reading.rules:
        for one in rule.declarations:
            if one.lower_name == "background-image" and not _is_scrim(one.value):
                yield rule.around.media, one.value


def _is_scrim(value: Tokens) -> bool:
    """Gradients alone: the layer above a clip, which fetches nothing."""
    text = "".join(token.serialize() for token in value)
    return "url(" not in text and "none" not in text


def _shown(
    layers: Sequence[tuple[Media, Value]], viewer: Viewer, holds: Mapping[str, bool]
) -> list[str]:
    """The file of the last declaration that applies: all rules of a backdrop weigh the same."""
    for media, value in reversed(layers):
        if all(holds[one] for one in media):
            try:
                if isinstance(value, str):
                    found = [_offered(value, viewer)]
                else:
                    found = pictures(value, viewer)
            except InvalidLayerError:
                continue
            return [url for url in found if not url.startswith("data:")]
    return []


def _offered(offer: str, viewer: Viewer) -> str:
    """The URL that a browser takes of a ``srcset``."""
    return chosen(from_srcset(offer, "", "", viewer), viewer.density) or ""


def _sources(elements: str) -> Iterator[tuple[Media, str]]:
    """The sources of a picture element, the last one first: the first that matches is taken."""
    tree = html5lib.parseFragment(elements, treebuilder="etree", namespaceHTMLElements=False)
    for node in reversed([one for one in tree.iter() if one.tag in ("source", "img")]):
        if known_type(node.get("type", ""), Viewer(800, 800)):
            yield (node.get("media", ""),), node.get("srcset") or node.get("src", "")


def _hints(markup: str) -> Iterator[tuple[str, str]]:
    tree = html5lib.parseFragment(markup, treebuilder="etree", namespaceHTMLElements=False)
    for node in tree.iter("link"):
        if known_type(node.get("type", ""), Viewer(800, 800)):
            yield node.get("media", ""), node.get("imagesrcset") or node.get("href", "")
