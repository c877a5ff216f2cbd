"""What findings are found by: a page, on every screen that is asked about."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from urllib.parse import unquote, urlsplit

from brightcanvas.css.declared import INLINE, Declared, Element
from brightcanvas.css.screens import Viewer, viewer_of
from brightcanvas.css.styles import Styles
from brightcanvas.formats.kinds import Kind
from brightcanvas.formats.loaded import load as load_file
from brightcanvas.formats.survey import survey_of
from brightcanvas.inspecting.finding import Place, Sure
from brightcanvas.inspecting.seen import Look
from brightcanvas.measuring.measure import Laid
from brightcanvas.measuring.windows import cuts_of
from brightcanvas.page.fetches import PageLoad, load
from brightcanvas.page.folder import HOST
from brightcanvas.page.fonts import own_text
from brightcanvas.page.markup import Node, line_of
from brightcanvas.page.reading import Page, label
from brightcanvas.page.viewport import laid_out
from brightcanvas.rehearsal.lines import CHROMIUM, LINES, Habits, Line
from brightcanvas.values.errors import BrightCanvasError
from brightcanvas.values.geometry import Size
from brightcanvas.values.screens import Screen

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
    kind: Kind

    @property
    def is_drawing(self) -> bool:
        """Whether it has no px of its own."""
        return self.kind.is_drawing


@dataclass(frozen=True)
class Seen:
    """A page on one screen."""

    screen: Screen
    device: Viewer
    """The window, as wide as the screen."""
    viewer: Viewer
    """The window, as wide as the page is laid out in it."""
    styles: Styles
    load: PageLoad


class Facts:
    """A page, and all that can be asked about it; what is asked twice is worked out once."""

    def __init__(
        self, page: Page, screens: Sequence[Screen], lines: Sequence[Line] = LINES,
        habits: Habits = CHROMIUM,
    ) -> None:  # fmt: skip
        self.page, self.screens, self.lines, self.habits = page, tuple(screens), lines, habits
        self._files: dict[str, PictureFile | None] = {}
        self.looks: Mapping[Screen, Look] = {}
        """What a browser showed, where one was asked."""

    @cached_property
    def seen(self) -> tuple[Seen, ...]:
        """The page on every screen."""
        found = []
        for screen in self.screens:
            device = viewer_of(screen)
            viewer = laid_out(self.page, device)
            styles = self.page.cascade.styles(viewer)
            found.append(Seen(screen, device, viewer, styles, load(self.page, device)))
        return tuple(found)

    @cached_property
    def at_thresholds(self) -> tuple[Viewer, ...]:
        """Windows between every two widths at which the page's style sheets change something."""
        cuts = sorted({0.0, *cuts_of(self.page)})[:MOST_CUTS]
        ends = [*cuts[1:], cuts[-1] + 2000.0]
        middles = [(low + high) / 2 for low, high in zip(cuts, ends, strict=True)]
        return tuple(Viewer(max(320.0, width), 900.0) for width in middles)

    @property
    def unless_scripts(self) -> Sure:
        """How sure is what a script may have a hand in."""
        return Sure.POSSIBLE if self.page.has_scripts else Sure.CERTAIN

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

    def laid(self, screen: Screen, node: Node) -> Laid | None:
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
