"""The elements of a page that a brief may be for: those that show a picture behind content."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from brightcanvas.beginning.rules import KeptError
from brightcanvas.css.declared import INLINE, Declared, Element
from brightcanvas.formats.loaded import load
from brightcanvas.formats.pictures import read_picture
from brightcanvas.formats.survey import SourceFacts, survey_of
from brightcanvas.inspecting.facts import Facts
from brightcanvas.measuring.pictures import IMG, LargePicture
from brightcanvas.page.embedded import picture_of
from brightcanvas.page.painted import parts
from brightcanvas.page.reading import label, path_of
from brightcanvas.values.errors import BrightCanvasError
from brightcanvas.values.geometry import Size

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
    """An element, or a pseudo-element of it, with its picture."""

    elements: tuple[Element, ...]
    """Those that show the same picture by the same rule: one, mostly."""
    pseudo: str
    """``before``, ``after``, or empty."""
    urls: tuple[str, ...]
    """Of the files that it shows now, those of the widest screens first."""
    declared: Declared | None = None
    """By which it shows one on the widest screen that has it; None: it is an ``img``."""

    @property
    def is_img(self) -> bool:
        """Whether it is an ``img`` of the page's own."""
        return self.declared is None

    @property
    def name(self) -> str:
        """As people would name it."""
        name = label(self.elements[0].etree_element)
        return f"{name}::{self.pseudo}" if self.pseudo else name


def sections_of(facts: Facts) -> tuple[Section, ...]:
    """The elements with pictures of style sheets that are wide enough, in the page's order."""
    groups: dict[tuple[object, ...], list[Element]] = {}
    for element in facts.pictured:
        if facts.page.is_inert(element.etree_element):
            continue
        for pseudo in _wide_parts(facts, element):
            urls = tuple(_urls(facts, element, pseudo))
            rule = _rule(facts, element, pseudo)
            at = id(element) if rule is None or rule.origin == INLINE else (rule.origin, rule.line)
            groups.setdefault((pseudo, urls, at), []).append(element)
    found = (_section(facts, tuple(elements), str(key[0])) for key, elements in groups.items())
    return tuple(one for one in found if one is not None)


def img_sections(facts: Facts, pictures: Iterable[LargePicture]) -> tuple[Section, ...]:
    """The ``img`` that lie behind content or fill a box, as far as the markup names their files.

    Args:
        facts: of the page.
        pictures: that a browser showed in a wide window.
    """
    nodes = {path_of(facts.page, node): node for node in facts.page.nodes("img")}
    found = []
    for one in pictures:
        node = nodes.get(one.path)
        if one.kind != IMG or node is None or not (one.fills or one.has_text):
            continue
        named = {picture_of(facts.page, node, each.viewer) or "" for each in facts.seen}
        if {facts.page.resolved(url) for url in named} & set(one.files):
            found.append(Section((facts.element(node),), "", one.files))
    return tuple(found)


def _section(facts: Facts, elements: tuple[Element, ...], pseudo: str) -> Section | None:
    urls, declared = tuple(_urls(facts, elements[0], pseudo)), _rule(facts, elements[0], pseudo)
    return Section(elements, pseudo, urls, declared) if urls and declared else None


def _wide_parts(facts: Facts, element: Element) -> Iterator[str]:
    """Which of an element and its pseudo-elements show a picture across much of a window."""
    found: dict[str, None] = {}
    for one in facts.seen:
        shown = [
            each
            for each in one.load.shown
            if each.node is element.etree_element and each.how == "background"
        ]
        is_wide = any(each.across >= LEAST_SHARE * one.viewer.width for each in shown)
        for pseudo in parts(facts.page, element, one.styles) if shown else ():
            if one.styles.backgrounds(element, pseudo) and (is_wide or pseudo):
                found[pseudo] = None
    yield from found


def _urls(facts: Facts, element: Element, pseudo: str) -> list[str]:
    """The files that are shown, those of the widest screens first."""
    listed = [
        url for one in reversed(facts.seen) for url in one.styles.backgrounds(element, pseudo)
    ]
    return list(dict.fromkeys(url for url in listed if url.startswith("http")))


def _rule(facts: Facts, element: Element, pseudo: str) -> Declared | None:
    for one in reversed(facts.seen):
        winner = one.styles.winner(element, pseudo)
        if winner and winner[1]:
            return winner[0]
    return None


@dataclass(frozen=True)
class Sources:
    """The files that pictures of a page can be made from."""

    facts: Facts
    _known: dict[str, tuple[SourceFacts, Size]] = field(default_factory=dict)

    def of(self, url: str) -> tuple[Path, Size]:
        """The largest file of a picture, and the size (px) of the one that is shown.

        Raises:
            KeptError: there is none here, or it is too small.
        """
        if url not in self._known:
            self._known[url] = self._found(url)
        source, shown = self._known[url]
        return source.path, shown

    def _found(self, url: str) -> tuple[SourceFacts, Size]:
        path = self.facts.page.folder.file(url)
        if path is None:
            is_here = self.facts.file_name(url) != url
            says = "isn't there" if is_here else "is on another host: save it beside the page"
            raise KeptError(f"its picture {self.facts.file_name(url)} {says}")
        shown = _survey(path)
        if shown is None:
            raise KeptError(f"{path.name} can't be read as a picture")
        if shown.kind.is_drawing:
            raise KeptError(f"{path.name} is a drawing: bright-canvas compress makes it lighter")
        if min(shown.size.width, shown.size.height) < LEAST_PX:
            raise KeptError(f"{path.name} has only {shown.size} px")
        largest = max(_with_siblings(shown), key=lambda one: one.size.width * one.size.height)
        return largest, shown.size


def _survey(path: Path) -> SourceFacts | None:
    try:
        return survey_of(load(path))
    except BrightCanvasError:
        return None


def _with_siblings(shown: SourceFacts) -> Sequence[SourceFacts]:
    """With files beside it that are other sizes of the same picture, by their names and shapes."""
    found = [shown]
    stem = _SIZE.sub("", shown.path.stem).lower()
    for path in sorted(shown.path.parent.iterdir()):
        is_size = path.suffix.lower() in PICTURES and _SIZE.sub("", path.stem).lower() == stem
        if is_size and path != shown.path and (other := _survey(path)):
            found += [other] if _is_same(shown, other) else []
    return found


ALIKE = 12.0
"""Codes of 255 by which two files of one picture may differ in the mean, looked at small."""


def _is_same(one: SourceFacts, other: SourceFacts) -> bool:
    """Whether two files are of one shape, and look alike."""
    if abs(other.size.aspect / one.size.aspect - 1) >= 0.02:
        return False
    small = [_means(read_picture(each.path, LOOKED_AT).pixels[..., :3]) for each in (one, other)]
    return float(np.abs(small[0] - small[1]).mean()) <= ALIKE


LOOKED_AT, CELLS = 256, 16
"""Px across at which files are compared, and the cells of them, each way."""


def _means(pixels: NDArray[np.uint8]) -> NDArray[np.float64]:
    height, width = pixels.shape[:2]
    rows = np.linspace(0, height, CELLS + 1).astype(int)
    columns = np.linspace(0, width, CELLS + 1).astype(int)
    return np.array([
        [pixels[top:bottom, left:right].mean((0, 1)) for left, right in pairwise(columns)]
        for top, bottom in pairwise(rows)
    ])  # fmt: skip
