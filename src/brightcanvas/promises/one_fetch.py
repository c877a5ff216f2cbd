"""The promise *one fetch*: every window of every screen fetches one file, the hinted one.

Decided on the very text of the rules, by the selection engine. What a rule asks of a window are
comparisons with the numbers that stand in it, so between two of them nothing changes: a window
on each number and one between each two of them stand for all. Where rules ask for words (dark,
print), each that occurs is looked at, and another one. What they ask for besides isn't measured.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from brightcanvas.css.layer_lists import InvalidLayerError, pictures
from brightcanvas.css.media_queries import matches
from brightcanvas.css.sheets import RuleContext, SheetReading, read_sheet
from brightcanvas.css.srcset import chosen, from_srcset, known_type
from brightcanvas.delivery.candidates import YOUNG
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.hints import backdrop_hints
from brightcanvas.delivery.stylesheet import backdrop_rules
from brightcanvas.html.tree import parsed
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.values.environments import AXES, MEDIUM, Environment, WordAxis
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

Said = tuple[tuple[str, str | None], ...]
"""Words on axes."""

Fetched = tuple[tuple[str, ...], tuple[str, ...]]
"""What is shown, and what is hinted."""

Value = Tokens | str
"""Of a ``background-image``; or the ``srcset`` of a source."""


@dataclass(frozen=True)
class Sample:
    """What the rules and hints of one backdrop fetch in one window."""

    environment: Environment
    shown: tuple[str, ...]
    hinted: tuple[str, ...]

    @property
    def is_single(self) -> bool:
        """One file at most, and no other one hinted; None hinted, or the one."""
        return len(self.shown) <= 1 and set(self.hinted) <= set(self.shown)


def check(facts: PromiseFacts) -> Iterator[Verdict]:
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
    read = _read(rules, elements, hints)
    if unknown := _unsampled(read):
        says = f"what {' and '.join(unknown)} comes to: windows are sampled without it"
        return Verdict(NAME, backdrop, "every breakpoint", State.NOT_MEASURED, says, 0)
    samples = list(_sampled(read))
    bad = [one for one in samples if not one.is_single]
    bad += [one for one in samples if is_hinted and one.shown and one.shown != one.hinted]
    files = {url for one in samples for url in one.shown}
    if bad:
        says = f"{_window(bad[0].environment)} fetches {_told(bad[0])}"
        remedy = "two rules or hints overlap there: report this, it is ours to mend"
        return Verdict(NAME, backdrop, "every breakpoint", State.BROKEN, says, -1, remedy)
    hinted = ", the hinted one" if is_hinted else ""
    axes = dict.fromkeys(axis for one in samples for axis in one.environment.said)
    others = "".join(f", {axis}" for axis in axes)
    says = (
        f"any width, whole or not, any height and density{others}: one of {len(files)}"
        f" files{hinted}; {len(samples)} windows stand for all"
    )
    return Verdict(NAME, backdrop, "every breakpoint", State.HOLDS, says, margin=0)


def _window(environment: Environment) -> str:
    width, height = (plain_number(round(one, 3)) for one in (environment.width, environment.height))
    said = "".join(f", {axis}: {word}" for axis, word in environment.said.items())
    return f"a window of {width} x {height} at {plain_number(round(environment.density, 4))}x{said}"


def _told(sample: Sample) -> str:
    shown = ", ".join(sample.shown) or "nothing"
    return f"{shown}; hinted: {', '.join(sample.hinted) or 'nothing'}"


@dataclass(frozen=True)
class _Declared:
    """What the text of a backdrop's rules and hints declares."""

    layers: Sequence[tuple[Media, Value]]
    """Pictures, each with its conditions; the last one that applies is shown."""
    hinted: Sequence[tuple[str, str]]
    """Each hint's condition, and what it offers."""

    @property
    def queries(self) -> dict[str, Queries]:
        """The conditions, each a list of queries."""
        shown = {media for medias, _ in self.layers for media in medias}
        texts = sorted(shown | {media for media, _ in self.hinted})
        return {text: tuple(text.split(", ")) for text in texts}


def _read(rules: str, elements: str, hints: str) -> _Declared:
    return _Declared([*_layers(rules), *_sources(elements)], list(_hints(hints)))


def sampled(rules: str, elements: str, hints: str) -> Iterator[Sample]:
    """What each window that stands for others fetches.

    For each width, and each height at it, only those queries count that it leaves open; windows
    that leave the same ones open differ in their density and words alone, and are decided once.
    """
    return _sampled(_read(rules, elements, hints))


def _sampled(read: _Declared) -> Iterator[Sample]:
    decided: dict[tuple[Open, float, Said], Fetched] = {}
    for environment, left in _windows(read.queries):
        key = tuple(left.items()), environment.density, tuple(environment.said.items())
        if key not in decided:
            decided[key] = _fetched(read, environment, left)
        yield Sample(environment, *decided[key])


def _unsampled(read: _Declared) -> list[str]:
    """What the conditions ask for that no sample is taken of, as it stands there."""
    found = (one for query in _all(read.queries) for one in _unsampled_in(query))
    return list(dict.fromkeys(found))


_JOINED = re.compile(r"\b(?:not|or|only)\b|[<>=]")
"""Conjunctions of plain features alone are sampled: more isn't written."""


def _unsampled_in(query: str) -> Iterator[str]:
    plain = query.replace(YOUNG, "")
    medium = _medium(plain)
    if _JOINED.search(plain) or (medium and medium not in AXES[MEDIUM].words):
        yield query
    yield from (one for one in _FEATURE.findall(plain) if not _is_sampled(one))


_SIDE = re.compile(r"\((?:min-|max-)?(?:width|height): \d+(?:\.\d+)?px\)")
_WORD = re.compile(r"\(([a-z-]+)(?:: ([a-z0-9-]+))?\)")


def _is_sampled(feature: str) -> bool:
    if _SIDE.fullmatch(feature):
        return True
    word = _WORD.fullmatch(feature)
    if word is None or word[1] == "orientation":
        return word is not None
    axis = AXES.get(word[1])
    return axis is not None and (word[2] is None or word[2] in axis.words)


def _medium(query: str) -> str:
    """The media type that a query names; empty: none, or all."""
    first = query.strip().partition(" ")[0]
    return "" if first.startswith("(") or first in ("", "all", "and") else first


def _words_in(queries: Queries) -> list[dict[str, str]]:
    """Each word that occurs on an axis, and another one, with those on all other axes."""
    asked: dict[str, set[str]] = {}
    for query in queries:
        named = [_WORD.fullmatch(one) for one in _FEATURE.findall(query)]
        for word in named:
            if word and word[1] in AXES:
                asked.setdefault(word[1], set()).update({word[2]} - {None})
        if medium := _medium(query):
            asked.setdefault(MEDIUM, set()).add(medium)
    axes = [AXES[name] for name in sorted(asked)]
    choices = [_looked_at(axis, asked[axis.name]) for axis in axes]
    return [
        {axis.name: word for axis, word in zip(axes, words, strict=True)}
        for words in itertools.product(*choices)
    ]


def _looked_at(axis: WordAxis, asked: set[str]) -> list[str]:
    """The words that are asked for, and one that isn't: those that nobody asks for are alike.

    All of them where some stand for others, or where the axis is asked for without a word.
    """
    others = [word for word in reversed(axis.words) if word not in asked]
    return list(axis.words) if axis.climbs or not asked else [*sorted(asked), *others[:1]]


def _fetched(read: _Declared, environment: Environment, left: Mapping[str, Queries]) -> Fetched:
    """What is shown in a window, and what is hinted."""
    holds = {
        text: any(matches(one, environment) for one in listed) for text, listed in left.items()
    }
    wanted = (_offered(offer, environment) for media, offer in read.hinted if holds[media])
    return tuple(_shown(read.layers, environment, holds)), tuple(dict.fromkeys(wanted))


def _windows(
    queries: Mapping[str, Queries],
) -> Iterator[tuple[Environment, dict[str, Queries]]]:
    """Windows on every number of the queries and between every two, with what each leaves open."""
    words = _words_in(_all(queries))
    for width in _stands(_numbers(_all(queries), "width"), (LEAST, MOST)):
        fitting = _left(queries, ("width",), Environment(width, 800))
        for height in _heights(width, _all(fitting)):
            left = _left(fitting, ("height", "orientation"), Environment(width, height))
            for density, said in itertools.product([*_stands(LABELS, DENSITIES)], words):
                yield Environment(width, height, density, said), left


def _all(queries: Mapping[str, Queries]) -> Queries:
    return tuple(itertools.chain(*queries.values()))


def _left(
    queries: Mapping[str, Queries], names: tuple[str, ...], environment: Environment
) -> dict[str, Queries]:
    """Those whose features of these names hold; each feature stands in parentheses."""
    return {
        text: tuple(one for one in listed if _may_hold(one, names, environment))
        for text, listed in queries.items()
    }


def _may_hold(query: str, names: tuple[str, ...], environment: Environment) -> bool:
    asked = (one for one in _FEATURE.findall(query) if any(name in one for name in names))
    return all(matches(one, environment) for one in asked)


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
    read_sheet(rules, RuleContext(""), lambda _: None, reading)
    for rule in reading.rules:
        for one in rule.declarations:
            if one.lower_name == "background-image" and not _is_scrim(one.value):
                yield rule.around.media, one.value


def _is_scrim(value: Tokens) -> bool:
    """Gradients alone: the layer above a clip, which fetches nothing."""
    text = "".join(token.serialize() for token in value)
    return "url(" not in text and "none" not in text


def _shown(
    layers: Sequence[tuple[Media, Value]], environment: Environment, holds: Mapping[str, bool]
) -> list[str]:
    """The file of the last declaration that applies: all rules of a backdrop weigh the same."""
    for media, value in reversed(layers):
        if all(holds[one] for one in media):
            try:
                if isinstance(value, str):
                    found = [_offered(value, environment)]
                else:
                    found = pictures(value, environment)
            except InvalidLayerError:
                continue
            return [url for url in found if not url.startswith("data:")]
    return []


def _offered(offer: str, environment: Environment) -> str:
    """The URL that a browser takes of a ``srcset``."""
    return chosen(from_srcset(offer, "", "", environment), environment.density) or ""


def _sources(elements: str) -> Iterator[tuple[Media, str]]:
    """The sources of a picture element, the last one first: the first that matches is taken."""
    tree = parsed(elements)
    for node in reversed([one for one in tree.iter() if one.tag in ("source", "img")]):
        if known_type(node.get("type", ""), Environment(800, 800)):
            yield (node.get("media", ""),), node.get("srcset") or node.get("src", "")


def _hints(markup: str) -> Iterator[tuple[str, str]]:
    tree = parsed(markup)
    for node in tree.iter("link"):
        if known_type(node.get("type", ""), Environment(800, 800)):
            yield node.get("media", ""), node.get("imagesrcset") or node.get("href", "")
