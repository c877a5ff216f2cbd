"""What one window makes a page fetch, and why."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from brightcanvas.css.selectors import Element
from brightcanvas.css.styles import PAINTING, Styles
from brightcanvas.page.embedded import (
    clips,
    further,
    is_late,
    pictures,
    scripts,
    sheets,
    shown_by_markup,
)
from brightcanvas.page.fetch import CLIP, FONT, PICTURE, Fetch, ShownElement, Urgency, merged
from brightcanvas.page.fonts import asked_by, offered, texts
from brightcanvas.page.found_hints import HeaderHint, hints
from brightcanvas.page.likely_boxes import frame_of, likely_width
from brightcanvas.page.reading import Frame, Page, label
from brightcanvas.page.viewport import as_framed, laid_out
from brightcanvas.values.environments import Environment

ITEMS = ("li", "summary")
"""What is an item of a list unless a style sheet says otherwise."""

OF_BOXES = ("before", "after")


def painted(page: Page, styles: Styles) -> Iterator[ShownElement]:
    """The elements, and their ``::before`` and ``::after``, that show pictures of style sheets."""
    cascade = page.cascade
    for element in cascade.elements:
        node = element.etree_element
        paints, is_item = bool(cascade.names(element) & PAINTING), node.tag in ITEMS
        may = paints or is_item or "display" in cascade.names(element)
        if not may or not styles.is_shown(element) or page.is_inert(node):
            continue
        for pseudo in parts(page, element, styles) if paints else ():
            name = label(node) + (f"::{pseudo}" if pseudo else "")
            if urls := styles.backgrounds(element, pseudo):
                across = 0.0 if pseudo else likely_width(page, element, styles.environment)
                yield ShownElement(name, tuple(urls), node, across=across)
            if urls := styles.further_pictures(element, pseudo):
                yield ShownElement(name, tuple(urls), node, "decoration")
        if _is_item(element, styles) and (url := styles.list_picture(element)):
            yield ShownElement(label(node), (url,), node, "list")


def parts(page: Page, element: Element, styles: Styles) -> Iterator[str]:
    """An element itself, and the pseudo-elements of it that are shown."""
    yield ""
    for pseudo in page.cascade.pseudos(element):
        is_box = pseudo in OF_BOXES and styles.word(element, "display", pseudo) != "none"
        if is_box and styles.has_content(element, pseudo):
            yield pseudo


def _is_item(element: Element, styles: Styles) -> bool:
    said = styles.word(element, "display")
    return said == "list-item" or (not said and element.etree_element.tag in ITEMS)


def fonts(page: Page, styles: Styles, after: tuple[str, ...]) -> Iterator[Fetch]:
    """The fonts that the texts of a window ask for."""
    known = offered(page.reading.faces, styles)
    users: dict[str, str] = {}
    for text in texts(page.cascade.elements, styles) if known else ():
        for url in asked_by(text.text, text.typeface, known):
            users.setdefault(url, label(text.element.etree_element))
    for url, user in users.items():
        yield Fetch(url, FONT, Urgency.MEDIUM, after=after, used_by=(user,))


MARKED = ("picture", "poster")
"""What is fetched though its element isn't shown."""


@dataclass(frozen=True)
class PageLoad:
    """Everything that one window fetches, in the order in which it is known of."""

    fetches: tuple[Fetch, ...]
    shown: tuple[ShownElement, ...]
    """In the page's order."""
    width: float = 0.0
    """Of the window, CSS px."""

    @property
    def useless(self) -> tuple[Fetch, ...]:
        """Hinted, fetched, and shown by nothing: pictures, and fonts of no text."""
        return tuple(
            one
            for one in self.fetches
            if one.is_hinted and not one.used_by and one.kind in (PICTURE, FONT)
        )

    @property
    def hidden(self) -> tuple[Fetch, ...]:
        """Pictures of elements that aren't shown, fetched all the same, and shown by no other."""
        gone = {
            url for one in self.shown if not one.across and one.how in MARKED for url in one.urls
        }
        seen = {
            url for one in self.shown if one.across or one.how not in MARKED for url in one.urls
        }
        return tuple(one for one in self.pictures if one.url in gone - seen and not one.is_late)

    @property
    def clips(self) -> tuple[Fetch, ...]:
        """All clips and sounds that are fetched whole."""
        return tuple(one for one in self.fetches if one.kind == CLIP and not one.is_partial)

    @property
    def pictures(self) -> tuple[Fetch, ...]:
        """All pictures."""
        return tuple(one for one in self.fetches if one.kind == PICTURE)


def load(
    page: Page,
    environment: Environment,
    headers: tuple[HeaderHint, ...] = (),
    *,
    with_hints: bool = True,
) -> PageLoad:
    """What a window fetches.

    Args:
        page: as read.
        environment: the window, as wide as the screen.
        headers: hints that come with the page's answer.
        with_hints: False takes all hints away, to see what they are worth.
    """
    hinted = list(hints(page, environment, headers)) if with_hints else []
    return _load(page, laid_out(page, environment), hinted)


def _load(page: Page, environment: Environment, hinted: list[Fetch]) -> PageLoad:
    """What a window fetches, as wide as the page is laid out in it."""
    styles = page.cascade.styles(environment)
    from_sheets, linked = tuple(painted(page, styles)), tuple(sheets(page, environment))
    styled = tuple(one.url for one in linked if one.holds_paint)
    listed = [Fetch(page.address, "page", Urgency.FIRST)]
    listed += [*hinted, *linked, *scripts(page), *pictures(page, environment)]
    for one in from_sheets:
        for url in one.urls:
            listed.append(Fetch(url, PICTURE, Urgency.LOW, after=styled, used_by=(one.element,)))
    listed += [*fonts(page, styles, styled), *clips(page, environment), *further(page)]
    for frame in page.frames:
        listed += _in_frame(page, frame, environment)
    shown = [*from_sheets, *shown_by_markup(page, environment)]
    in_order = sorted(shown, key=lambda one: page.order(one.node))
    return PageLoad(merged(listed), tuple(in_order), environment.width)


def _in_frame(page: Page, frame: Frame, environment: Environment) -> Iterator[Fetch]:
    """What the page in a frame fetches; of one that isn't shown, what its markup names alone."""
    box = frame_of(page, frame, environment)
    own = box or replace(environment, width=0, height=0)
    inner = _load(frame.page, own, list(hints(frame.page, as_framed(own), ())))
    place = page.place(frame.node.get("srcdoc", "")[:200] or frame.node.get("src"))
    for one in inner.fetches:
        is_styled = bool(one.after) and one.kind in (PICTURE, FONT)
        if one.kind == "page" or (box is None and (is_styled or is_late(frame.node))):
            continue
        after = one.after if frame.is_inline else (*one.after, frame.page.address)
        yield replace(
            one, after=after, place=place if frame.is_inline else 0.0, holds_paint=False,
            is_late=one.is_late or is_late(frame.node),
        )  # fmt: skip
