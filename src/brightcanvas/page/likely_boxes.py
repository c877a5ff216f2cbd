"""How large boxes are likely to be, by what style sheets and markup say: nothing is laid out."""

from __future__ import annotations

from dataclasses import replace

from brightcanvas.css.computed_lengths import length
from brightcanvas.css.selectors import Element
from brightcanvas.html.tree import Node
from brightcanvas.page.reading import Frame, Page
from brightcanvas.values.environments import Environment
from brightcanvas.values.lengths import NotALengthError
from brightcanvas.values.page_text import component_values

FRAME_WIDTH, FRAME_HEIGHT = 300.0, 150.0
"""CSS px; of an ``iframe`` that says nothing (CSS 2.2, section 10.3.2)."""


LONGEST = 4.0
"""Of a picture of a stated height, how many times as wide as high it is at most, mostly."""


def likely_width(page: Page, element: Element, environment: Environment) -> float:
    """CSS px: what an element and those round it say of their width, and the window's at most."""
    across = environment.width
    styles = page.cascade.styles(environment)
    for one in (*element.ancestors, element):
        within = replace(environment, width=across)
        for name in ("width", "max-width"):
            found = _length(styles.word(one, name), within, environment)
            across = min(across, found) if found is not None else across
    return across


def stated_width(page: Page, element: Element, environment: Environment) -> float:
    """CSS px: what an element says of its own width, however wide the window; 0: nothing."""
    return (
        _length(page.cascade.styles(environment).word(element, "width"), environment, environment)
        or 0.0
    )


def across_of(page: Page, node: Node, environment: Environment) -> float:
    """The same of a picture in the markup, by its attribute too; 0 where it isn't shown."""
    element = page.element(node)
    styles = page.cascade.styles(environment)
    if not styles.is_shown(element):
        return 0.0
    across = likely_width(page, element, environment)
    height = likely_height(page, element, environment)
    if height is not None and not styles.word(element, "width"):
        across = min(across, LONGEST * height)
    stated = _attribute(node.get("width"), across)
    return across if stated is None or styles.word(element, "width") else min(across, stated)


def likely_height(page: Page, element: Element, environment: Environment) -> float | None:
    """CSS px, by the element's own height; None where its content decides."""
    styles = page.cascade.styles(environment)
    said = [styles.word(element, name) for name in ("height", "min-height")]
    found = [_length(one, environment, environment) for one in said if not one.endswith("%")]
    known = [one for one in found if one is not None]
    return max(known) if known else None


def _length(said: str, within: Environment, environment: Environment) -> float | None:
    """A width in CSS px; percentages are of what it lies in."""
    if not said:
        return None
    if said.endswith("%"):
        said = f"calc({said[:-1]} * {within.width / 100}px)"
    tokens = component_values(said)
    if len(tokens) != 1:
        return None
    try:
        return length(tokens[0], environment)
    except NotALengthError:
        return None


def frame_of(page: Page, frame: Frame, environment: Environment) -> Environment | None:
    """The window that a page in a frame has, as far as can be told; None: it isn't shown."""
    element = page.element(frame.node)
    styles = page.cascade.styles(environment)
    if not styles.is_shown(element):
        return None
    width = _attribute(frame.node.get("width"), environment.width) or FRAME_WIDTH
    height = _attribute(frame.node.get("height"), environment.height) or FRAME_HEIGHT
    if styles.word(element, "width"):
        width = likely_width(page, element, environment)
    return replace(
        environment, width=width, height=likely_height(page, element, environment) or height
    )


def _attribute(said: str | None, whole: float) -> float | None:
    text = (said or "").strip()
    try:
        return float(text[:-1]) / 100 * whole if text.endswith("%") else float(text)
    except ValueError:
        return None
