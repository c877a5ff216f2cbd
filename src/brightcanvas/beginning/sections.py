"""The elements of a page that a brief may be for: those that show a picture behind content."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.css.declared import INLINE, Declared, Element
from brightcanvas.formats.loaded import load
from brightcanvas.formats.survey import SourceFacts, survey_of
from brightcanvas.inspecting.facts import Facts
from brightcanvas.page.reading import label
from brightcanvas.values.errors import BrightCanvasError

LEAST_SHARE = 0.4
"""Of a window's width, that a backdrop takes at least on some screen."""

LEAST_PX = 200
"""Of a source's shorter side; what is smaller is an icon or a pattern."""

PICTURES = (".jpg", ".jpeg", ".png", ".webp", ".avif", ".svg")

_SIZE = re.compile(r"([-_@.](\d{2,4}x\d{2,4}|\d{2,4}w?|[1-4]x|small|medium|large|xs|sm|md|lg|xl"
                   r"|mobile|phone|tablet|desktop|desk|wide|thumb|mini?|min))+$", re.I)  # fmt: skip
"""What the names of sizes of one picture end with."""


@dataclass(frozen=True)
class Section:
    """An element with its picture."""

    elements: tuple[Element, ...]
    """Those that show the same picture by the same rule: one, mostly."""
    source: SourceFacts
    """The largest file that there is of its picture."""
    shown: tuple[str, ...]
    """The files that it shows now, by their paths below the host's root."""
    declared: Declared
    """By which it shows one on the widest screen that has it."""
    is_pattern: bool
    """Whether it is repeated."""

    @property
    def name(self) -> str:
        """As people would name it."""
        return label(self.elements[0].etree_element)


def sections_of(facts: Facts) -> tuple[Section, ...]:
    """The backdrops of a page, in its order; each picture that is too small for one is left out."""
    groups: dict[tuple[object, ...], list[Element]] = {}
    for element in facts.pictured:
        if facts.page.is_inert(element.etree_element) or not _is_wide(facts, element):
            continue
        urls = tuple(_urls(facts, element))
        rule = _rule(facts, element)
        at = id(element) if rule is None or rule.origin == INLINE else (rule.origin, rule.line)
        groups.setdefault((urls, at), []).append(element)
    found = (_section(facts, tuple(elements)) for elements in groups.values())
    return tuple(one for one in found if one is not None)


def _is_wide(facts: Facts, element: Element) -> bool:
    return any(
        shown.node is element.etree_element and shown.how == "background"
        and shown.across >= LEAST_SHARE * one.viewer.width
        for one in facts.seen for shown in one.load.shown
    )  # fmt: skip


def _urls(facts: Facts, element: Element) -> list[str]:
    """The files that an element shows, those of the widest screens first."""
    listed = [url for one in reversed(facts.seen) for url in one.styles.backgrounds(element)]
    return list(dict.fromkeys(url for url in listed if url.startswith("http")))


def _rule(facts: Facts, element: Element) -> Declared | None:
    for one in reversed(facts.seen):
        winner = one.styles.winner(element)
        if winner and winner[1]:
            return winner[0]
    return None


def _section(facts: Facts, elements: tuple[Element, ...]) -> Section | None:
    urls, declared = _urls(facts, elements[0]), _rule(facts, elements[0])
    paths = [path for url in urls if (path := facts.page.folder.file(url))]
    known = [one for path in paths if (one := _survey(path))]
    if not known or declared is None:
        return None
    largest = max(_with_siblings(known), key=lambda one: one.size.width * one.size.height)
    if min(largest.size.width, largest.size.height) < LEAST_PX and not largest.kind.is_drawing:
        return None
    repeats = [one.styles.word(elements[0], "background-repeat") for one in facts.seen]
    is_pattern = any(one.startswith("repeat") for one in repeats)
    names = tuple(facts.file_name(url) for url in urls)
    return Section(elements, largest, names, declared, is_pattern)


def _survey(path: Path) -> SourceFacts | None:
    try:
        return survey_of(load(path))
    except BrightCanvasError:
        return None


def _with_siblings(known: Sequence[SourceFacts]) -> list[SourceFacts]:
    """With files beside them that are other sizes of the same picture, by their names."""
    found = {one.path: one for one in known}
    for one in known:
        stem = _SIZE.sub("", one.path.stem).lower()
        for path in sorted(one.path.parent.iterdir()):
            is_size = path.suffix.lower() in PICTURES and _SIZE.sub("", path.stem).lower() == stem
            if is_size and path not in found and (other := _survey(path)):
                found[path] = other
    return [one for one in found.values() if _is_same(one, known)]


def _is_same(one: SourceFacts, known: Sequence[SourceFacts]) -> bool:
    """Whether it is one of the files that are shown, or has the shape of one of them."""
    shapes = [abs(one.size.aspect / each.size.aspect - 1) for each in known]
    return one in known or min(shapes) < 0.02
