"""The pictures and fonts that a page's style sheets make a window fetch."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.css.declared import Element
from brightcanvas.css.styles import PAINTING, Styles
from brightcanvas.page.boxes import likely_width
from brightcanvas.page.fetch import FONT, Fetch, ShownElement, Urgency
from brightcanvas.page.fonts import asked_by, offered, texts
from brightcanvas.page.reading import Page, label

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
                across = 0.0 if pseudo else likely_width(page, element, styles.viewer)
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
