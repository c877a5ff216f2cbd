"""HTML as browsers read it: a tree whose elements know where their tags are written."""

from __future__ import annotations

import re
from bisect import bisect_right
from functools import lru_cache
from typing import Any
from xml.etree.ElementTree import Comment, Element, SubElement

from brightcanvas.html.tags import Tag, tag_at

Node = Any
"""An element of the standard library's ElementTree."""

PLACE = "\x00place"
"""The attribute of the tree that holds the line and the offset of the element's tag: no page can
have one of that name."""

SVG, MATH = "{http://www.w3.org/2000/svg}", "{http://www.w3.org/1998/Math/MathML}"
"""Before the names of elements in drawings and formulas; those of HTML itself have nothing."""

SPACES = {"svg": SVG, "math": MATH}
"""By the parser's names."""

XLINK = "{http://www.w3.org/1999/xlink}"
"""Before the names of attributes in drawings that are written with ``xlink:``."""


def parsed(text: str) -> Node:
    """The root of a page's tree, as a browser without scripts has it.

    What stands in a ``template`` is none of the page's elements.

    Args:
        text: of the page.
    """
    from justhtml import JustHTML  # it takes long to load, and a build may not need it

    document = JustHTML(
        text, sanitize=False, scripting_enabled=False, track_node_locations=True
    ).root
    found = next(one for one in document.children or () if one.name == "html")
    lines = _line_starts(text)
    root = Element("html", _attributes(found, lines))
    _fill(root, found, lines)
    return root


def _fill(root: Node, found: Any, lines: tuple[int, ...]) -> None:  # noqa: ANN401 - the parser's
    """Without recursion: pages may be nested deeper than calls."""
    waiting = [(root, found)]
    while waiting:
        element, source = waiting.pop()
        last: Node | None = None
        for child in source.children or ():
            if child.name == "#text":
                _append(element, last, child.data)
            elif child.name == "#comment":
                last = Comment(child.data)
                element.append(last)
            elif not child.name.startswith("#"):
                last = SubElement(element, _name(child), _attributes(child, lines))
                waiting.append((last, child))


def _append(element: Node, last: Node | None, text: str) -> None:
    if last is None:
        element.text = (element.text or "") + text
    else:
        last.tail = (last.tail or "") + text


def _name(found: Any) -> str:  # noqa: ANN401
    return f"{SPACES.get(found.namespace, '')}{found.name}"


def _attributes(found: Any, lines: tuple[int, ...]) -> dict[str, str]:  # noqa: ANN401
    is_foreign = found.namespace in SPACES
    named = {
        re.sub("^xlink:", XLINK, name) if is_foreign else name: value or ""
        for name, value in found.attrs.items()
    }
    if (start := found.origin_offset) is not None:
        named[PLACE] = f"{bisect_right(lines, start)}:{start}"
    return named


def line_of(node: Node) -> int:
    """The line on which an element's tag begins; 0 for what the parser added by itself."""
    return int(node.get(PLACE, "0").partition(":")[0])


def written_tag(node: Node, text: str) -> Tag | None:
    """An element's opening tag; None: the parser added it.

    Args:
        node: of the page's tree.
        text: that the page was parsed from.
    """
    start = node.get(PLACE, "").partition(":")[2]
    tag = tag_at(text, int(start)) if start else None
    name = node.tag.rpartition("}")[2].lower()
    return tag if tag is not None and tag.name == name and not tag.closes else None


def line_at(text: str, place: int) -> int:
    """The line of a place in a text, from 1."""
    return bisect_right(_line_starts(text), place)


@lru_cache(maxsize=8)
def _line_starts(text: str) -> tuple[int, ...]:
    r"""As HTML counts lines: ``\r\n``, ``\r`` and ``\n`` end one."""
    return (0, *(found.end() for found in re.finditer(r"\r\n|\r|\n", text)))
