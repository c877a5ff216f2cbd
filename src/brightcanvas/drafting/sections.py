"""The elements of a page that a brief may be for, and the least selectors that hit them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from brightcanvas.css.selectors import INLINE, Declared, Element, compiled
from brightcanvas.drafting.own_rules import KeptError
from brightcanvas.formats.loaded import load
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.formats.survey import SourceFacts, survey_of
from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.measuring.elements import IMG, LargePicture
from brightcanvas.page.aim import hit
from brightcanvas.page.embedded import picture_of
from brightcanvas.page.page_load import parts
from brightcanvas.page.reading import Page, label, path_of
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


def sections_of(facts: PageFacts) -> tuple[Section, ...]:
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


def img_sections(facts: PageFacts, pictures: Iterable[LargePicture]) -> tuple[Section, ...]:
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
        named = {picture_of(facts.page, node, each.environment) or "" for each in facts.seen}
        if {facts.page.resolved(url) for url in named} & set(one.files):
            found.append(Section((facts.element(node),), "", one.files))
    return tuple(found)


def _section(facts: PageFacts, elements: tuple[Element, ...], pseudo: str) -> Section | None:
    urls, declared = tuple(_urls(facts, elements[0], pseudo)), _rule(facts, elements[0], pseudo)
    return Section(elements, pseudo, urls, declared) if urls and declared else None


def _wide_parts(facts: PageFacts, element: Element) -> Iterator[str]:
    """Which of an element and its pseudo-elements show a picture across much of a window."""
    found: dict[str, None] = {}
    for one in facts.seen:
        shown = [
            each
            for each in one.load.shown
            if each.node is element.etree_element and each.how == "background"
        ]
        is_wide = any(each.across >= LEAST_SHARE * one.environment.width for each in shown)
        for pseudo in parts(facts.page, element, one.styles) if shown else ():
            if one.styles.backgrounds(element, pseudo) and (is_wide or pseudo):
                found[pseudo] = None
    yield from found


def _urls(facts: PageFacts, element: Element, pseudo: str) -> list[str]:
    """The files that are shown, those of the widest screens first."""
    listed = [
        url for one in reversed(facts.seen) for url in one.styles.backgrounds(element, pseudo)
    ]
    return list(dict.fromkeys(url for url in listed if url.startswith("http")))


def _rule(facts: PageFacts, element: Element, pseudo: str) -> Declared | None:
    for one in reversed(facts.seen):
        winner = one.styles.winner(element, pseudo)
        if winner and winner[1]:
            return winner[0]
    return None


@dataclass(frozen=True)
class Sources:
    """The files that pictures of a page can be made from."""

    facts: PageFacts
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


Strength = tuple[int, int, int]

_NAME = re.compile(r"-?[a-zA-Z_][\w-]*")
_PASSING = re.compile(r"(^|-|_)(active|show|shown|open|visible|loaded|in|fade|current|is-|js-)")
"""Names that come and go while a page is used."""


def strength_of(selector: str) -> Strength:
    """The specificity of the strongest in a list (Selectors 4, section 17)."""
    return max((one.specificity for one in compiled(selector) or ()), default=(0, 0, 0))


def needed_strength(page: Page, element: Element, pseudo: str) -> tuple[Strength, bool]:
    """What it takes to win over the page's own background, and whether only force does."""
    declared = page.cascade.declared(element, pseudo)
    own = [one for one in declared if one.name.startswith("background")]
    strengths = [strength_of(one.selector) for one in own if one.origin != INLINE]
    is_forced = any(one.origin == INLINE or one.rank[0] for one in own)
    return max(strengths, default=(0, 0, 0)), is_forced


def least_selector(
    page: Page, elements: Sequence[Element], strength: Strength, pseudo: str
) -> tuple[str, bool]:
    """A selector that hits these elements and no others, and whether it is as strong as needed.

    Args:
        page: as read.
        elements: of the page; at least one.
        strength: specificity that it needs at least.
        pseudo: whose background it is, ``before`` or ``after``; empty: the elements' own.
    """
    part = f"::{pseudo}" if pseudo else ""
    wanted = {id(one.etree_element) for one in elements}
    alone = None
    for selector in _tried(page, elements[0]):
        is_strong = strength_of(selector + part) >= strength
        if not is_strong and alone:
            continue
        if {id(one.etree_element) for one in hit(page, selector)} == wanted:
            alone = alone or selector + part
            if is_strong:
                return selector + part, True
    return alone or _place(page, elements[0].etree_element) + part, False


def _place(page: Page, node: Node) -> str:
    """The way to an element from the nearest one round it that has a selector for itself."""
    steps = path_of(page, node).split(" > ")
    for depth, outer in enumerate(page.above(node), 1):
        for around in _own(outer):
            if [one.etree_element for one in hit(page, around)] == [outer]:
                return " > ".join((around, *steps[-depth:]))
    return " > ".join(steps)


def _tried(page: Page, element: Element) -> Iterator[str]:
    """Selectors from the plainest on: an id, a class, two, and then with what is round it."""
    node = element.etree_element
    own = list(_own(node))
    yield from own
    for outer in page.above(node):
        if outer.tag == "html":
            break
        for around in _own(outer):
            yield from (f"{around} {one}" for one in (*own, *_pairs(node)))
            yield f"{around} > {node.tag}"
    yield from (f"body {one}" for one in own)


def _own(node: Node) -> Iterator[str]:
    names = [name for name in node.get("class", "").split() if _is_lasting(name)]
    mark = node.get("id", "")
    if mark and _is_lasting(mark):
        yield f"#{mark}"
    yield from (f".{name}" for name in names)
    yield from (f"{node.tag}.{name}" for name in names)
    yield from _pairs(node)
    yield node.tag
    if mark and _is_lasting(mark):
        yield f"{node.tag}#{mark}"
        yield from (f"#{mark}.{name}" for name in names)


def _pairs(node: Node) -> list[str]:
    """Two of its classes together."""
    names = [name for name in node.get("class", "").split() if _is_lasting(name)]
    return [f".{one}.{other}" for one in names for other in names if one < other]


def _is_lasting(name: str) -> bool:
    return bool(_NAME.fullmatch(name)) and not _PASSING.search(name)
