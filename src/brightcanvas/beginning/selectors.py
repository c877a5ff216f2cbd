"""The least selector that hits some elements alone, and is strong enough to win there."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from brightcanvas.css.declared import INLINE, Element
from brightcanvas.css.selectors import compiled
from brightcanvas.page.aim import hit
from brightcanvas.page.markup import Node
from brightcanvas.page.reading import Page, path_of

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
    return alone or path_of(page, elements[0].etree_element) + part, False


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
