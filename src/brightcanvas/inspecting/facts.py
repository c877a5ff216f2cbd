"""What findings are found by: a page, on every screen that is asked about."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from urllib.parse import unquote, urlsplit

from brightcanvas.css.selectors import INLINE, Declared, Element
from brightcanvas.css.styles import Styles
from brightcanvas.formats.kinds import FileKind
from brightcanvas.formats.loaded import load as load_file
from brightcanvas.formats.survey import survey_of
from brightcanvas.html.tree import Node, line_of
from brightcanvas.inspecting.finding import Confidence, Place
from brightcanvas.measuring.elements import ElementLayout, cuts_of
from brightcanvas.measuring.letters import ReadLine
from brightcanvas.page.fetch import PICTURE, ShownElement
from brightcanvas.page.folder import HOST
from brightcanvas.page.fonts import own_text
from brightcanvas.page.page_load import PageLoad, load
from brightcanvas.page.reading import Page, label
from brightcanvas.page.viewport import laid_out
from brightcanvas.rehearsal.engine_profiles import CHROMIUM, EngineProfile
from brightcanvas.rehearsal.timeline import waterfall_of
from brightcanvas.serving.network_profiles import LINES, NetworkProfile, Protocol
from brightcanvas.values.environments import Environment, environment_of
from brightcanvas.values.errors import BrightCanvasError
from brightcanvas.values.geometry import Size
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class PageSnapshot:
    """The page on one screen in a browser."""

    screen: Screen
    browser: str
    boxes: Mapping[int, ElementLayout]
    """By the identity of the nodes of the page's tree."""
    asked: frozenset[str]
    """The URLs that it asked the page's own host for."""
    lines: Mapping[int, tuple[ReadLine, ...]]
    """Copy above each element with a picture, in the first view."""


MOST_CUTS = 400
"""Widths at which a page's style sheets change something, that are looked at."""


@dataclass(frozen=True)
class PictureFile:
    """A picture of the page's own host."""

    url: str
    name: str
    bytes: int
    size: Size
    """Px."""
    kind: FileKind

    @property
    def is_drawing(self) -> bool:
        """Whether it has no px of its own."""
        return self.kind.is_drawing


@dataclass(frozen=True)
class SeenScreen:
    """A page on one screen."""

    screen: Screen
    device: Environment
    """The window, as wide as the screen."""
    environment: Environment
    """The window, as wide as the page is laid out in it."""
    styles: Styles
    load: PageLoad


class PageFacts:
    """A page, and all that can be asked about it; what is asked twice is worked out once."""

    def __init__(
        self, page: Page, screens: Sequence[Screen], lines: Sequence[NetworkProfile] = LINES,
        engine: EngineProfile = CHROMIUM,
    ) -> None:  # fmt: skip
        self.page, self.screens, self.lines, self.engine = page, tuple(screens), lines, engine
        self._files: dict[str, PictureFile | None] = {}
        self.looks: Mapping[Screen, PageSnapshot] = {}
        """What a browser showed, where one was asked."""

    @cached_property
    def seen(self) -> tuple[SeenScreen, ...]:
        """The page on every screen."""
        found = []
        for screen in self.screens:
            device = environment_of(screen)
            environment = laid_out(self.page, device)
            styles = self.page.cascade.styles(environment)
            found.append(SeenScreen(screen, device, environment, styles, load(self.page, device)))
        return tuple(found)

    @cached_property
    def at_thresholds(self) -> tuple[Environment, ...]:
        """Windows between every two widths at which the page's style sheets change something."""
        cuts = sorted({0.0, *cuts_of(self.page)})[:MOST_CUTS]
        ends = [*cuts[1:], cuts[-1] + 2000.0]
        middles = [(low + high) / 2 for low, high in zip(cuts, ends, strict=True)]
        return tuple(Environment(max(320.0, width), 900.0) for width in middles)

    @property
    def unless_scripts(self) -> Confidence:
        """How sure is what a script may have a hand in."""
        return Confidence.POSSIBLE if self.page.has_scripts else Confidence.CERTAIN

    def element(self, node: Node) -> Element:
        """The cascade's element of a node."""
        return self.page.element(node)

    @cached_property
    def pictured(self) -> tuple[Element, ...]:
        """The elements with a picture of a style sheet on some screen, in the page's order."""
        nodes = {id(shown.node) for one in self.seen for shown in one.load.shown
                 if shown.how == "background"}  # fmt: skip
        return tuple(one for one in self.page.cascade.elements if id(one.etree_element) in nodes)

    def own_text_within(self, element: Element) -> Iterator[Element]:
        """An element and those in it that have text of their own."""
        for one in element.iter_subtree():
            if own_text(one.etree_element):
                yield one

    def laid(self, screen: Screen, node: Node) -> ElementLayout | None:
        """An element's box on a screen, where a browser was asked and shows it."""
        look = self.looks.get(screen)
        found = look.boxes.get(id(node)) if look else None
        return found if found and found.box.width >= 1 and found.box.height >= 1 else None

    def file_name(self, url: str) -> str:
        """A URL's path below the host's root; of another host, all of it."""
        parts = urlsplit(url)
        here = f"{parts.scheme}://{parts.netloc}" == HOST
        return unquote(parts.path.lstrip("/")) if here else url

    @property
    def name(self) -> str:
        """The page's path below the host's root."""
        return self.file_name(self.page.address)

    def at(self, node: Node, told: str = "") -> Place:
        """Where an element of the markup stands."""
        return Place(self.name, line_of(node), told or label(node))

    def at_rule(self, declared: Declared, node: Node) -> Place:
        """Where a declaration stands."""
        if declared.origin == INLINE:
            return self.at(node)
        selector = " ".join(declared.selector.split())  # lists of them stand on several lines
        return Place(self.file_name(declared.origin), declared.line, selector)

    def bytes_of(self, url: str) -> int:
        """Of a file, as far as it is here."""
        return self.page.folder.bytes_of(url) or 0

    def picture(self, url: str) -> PictureFile | None:
        """A picture's head; None where it isn't here or is none."""
        if url not in self._files:
            self._files[url] = self._read(url)
        return self._files[url]

    def _read(self, url: str) -> PictureFile | None:
        path = self.page.folder.file(url)
        if path is None:
            return None
        try:
            facts = survey_of(load_file(path))
        except BrightCanvasError:
            return None
        return PictureFile(url, self.file_name(url), facts.bytes, facts.size, facts.kind)


def gains(facts: PageFacts, one: SeenScreen, hero: ShownElement) -> tuple[float, ...]:
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


def _wait(facts: PageFacts, one: SeenScreen, hero: ShownElement, line: NetworkProfile) -> float:
    size = facts.page.folder.bytes_of
    return waterfall_of(one.load, size, line, Protocol.HTTP1, facts.engine).at_hand(hero)
