"""A page as a browser reads it: its tree, its style sheets, and what its markup mentions."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cssselect2
import html5lib

from brightcanvas.css.cascade import Cascade
from brightcanvas.css.sheets import Around, SheetReading, read_sheet
from brightcanvas.page.folder import LARGEST_TEXT, Folder
from brightcanvas.values.addresses import joined
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_regular

DEEPEST = 200
"""Elements within elements; a page that nests deeper is none that anybody wrote."""

OURS = "ours:"
"""Stands for the address of our own style sheet."""

Node = Any
"""An element of the standard library's ElementTree."""


@dataclass(frozen=True)
class Linked:
    """A style sheet of its own, in the order of the page."""

    url: str
    media: str
    place: float
    in_head: bool


@dataclass(frozen=True)
class Page:
    """Everything that is known of a page before it is known who looks at it."""

    folder: Folder
    address: str
    base: str
    bytes: int
    text: str
    root: Node
    parents: dict[int, Node]
    sheets: tuple[Linked, ...]
    reading: SheetReading
    cascade: Cascade

    def nodes(self, *names: str) -> Iterator[Node]:
        """The elements of some names, in the order of the page; not those in templates."""
        for node in self.root.iter():
            if node.tag in names and not self.is_inert(node):
                yield node

    def is_inert(self, node: Node) -> bool:
        """Whether it lies in a ``template`` or a ``noscript``, where nothing is fetched."""
        return any(one.tag in ("template", "noscript") for one in self.above(node))

    def above(self, node: Node) -> Iterator[Node]:
        """The elements round it, the nearest first."""
        while (outer := self.parents.get(id(node))) is not None:
            yield outer
            node = outer

    def in_head(self, node: Node) -> bool:
        """Whether it stands in the head."""
        return any(one.tag == "head" for one in self.above(node))

    def resolved(self, url: str) -> str:
        """A URL of the markup as an absolute one."""
        return joined(self.base, url.strip())

    def place(self, text: str | None) -> float:
        """Which share of the page has to arrive until something in its markup is known."""
        at = self.text.find(text) if text else -1
        return (at + len(text or "")) / max(len(self.text), 1) if at >= 0 else 1.0


def read_page(folder: Folder, ours: str = "") -> Page:
    """A page with all its style sheets.

    Args:
        folder: of the page.
        ours: a further style sheet, as if it were linked after all others.

    Raises:
        BriefError: it is nested so deeply that no browser would show it.
    """
    content = _content(folder.page)
    text = content.decode("utf-8", "replace")
    _check_markup(folder.page, text)
    root = html5lib.parse(text, treebuilder="etree", namespaceHTMLElements=False)
    parents = {id(inner): outer for outer in root.iter() for inner in outer}
    if _depth(root) > DEEPEST:
        raise BriefError(f"{folder.page}: elements are nested more than {DEEPEST} deep")
    base = folder.address
    named = root.find(".//base[@href]")
    if named is not None:
        base = joined(base, named.get("href", ""))
    reading = SheetReading([], [], [], [])
    sheets: list[Linked] = []
    for node in (one for one in root.iter() if one.tag in ("link", "style")):
        _read_styles(node, folder, base, text, reading, sheets, parents)
    read_sheet(ours, Around(OURS), folder.text, reading)
    wrapped = cssselect2.ElementWrapper.from_html_root(root)
    cascade = Cascade(wrapped, reading, base)
    return Page(
        folder, folder.address, base, len(content), text, root, parents,
        tuple(sheets), reading, cascade,
    )  # fmt: skip


def _content(page: Path) -> bytes:
    try:
        return read_regular(page, LARGEST_TEXT)
    except OSError as error:
        raise BriefError(f"{page} can't be read: {error.strerror or error}.") from error


def _check_markup(page: Path, text: str) -> None:
    """Refuse what would keep the parser busy for hours, and what nobody wrote.

    Raises:
        BriefError: saying what.
    """
    if any(len(tag[0].split(maxsplit=MOST_WORDS + 1)) > MOST_WORDS for tag in _TAG.finditer(text)):
        raise BriefError(f"{page}: an element has more than {MOST_WORDS} attributes.")
    deepest = depth = 0
    for sign in _OPENED.finditer(text):
        depth = max(0, depth - 1) if sign[1] else depth + 1
        deepest = max(deepest, depth)
    if deepest > MOST_OPEN:
        raise BriefError(f"{page}: more than {MOST_OPEN} elements are never closed.")


_TAG = re.compile(r"<[a-zA-Z][^>]*")
_OPENED = re.compile(
    r"<(/?)(?!(?:area|base|br|col|embed|hr|img|input|link|meta|source|track|wbr)\b)[a-zA-Z]", re.I
)
MOST_WORDS, MOST_OPEN = 4000, 5000
"""Of one element, and of elements within each other as far as can be seen without parsing."""


def _depth(root: Node) -> int:
    deepest, level = 0, [root]
    while level and deepest <= DEEPEST:
        level = [inner for outer in level for inner in outer]
        deepest += 1
    return deepest


def _read_styles(
    node: Node,
    folder: Folder,
    base: str,
    text: str,
    reading: SheetReading,
    sheets: list[Linked],
    parents: dict[int, Node],
) -> None:
    media = (node.get("media", ""),) if node.get("media", "").strip() else ()
    if node.tag == "style":
        read_sheet("".join(node.itertext()), Around(base, media), folder.text, reading)
    elif is_sheet(node):
        url = joined(base, node.get("href", "").strip())
        at = text.find(node.get("href", ""))
        outer = parents.get(id(node))
        in_head = outer is not None and outer.tag == "head"
        sheets.append(Linked(url, media[0] if media else "", at / max(len(text), 1), in_head))
        content = folder.text(url)
        if content is not None:
            read_sheet(content, Around(url, media), folder.text, reading)


def is_sheet(node: Node) -> bool:
    """Whether a ``link`` brings in a style sheet."""
    words = node.get("rel", "").lower().split()
    return node.tag == "link" and "stylesheet" in words and "alternate" not in words


def label(node: Node) -> str:
    """An element as people would name it."""
    mark = f"#{node.get('id')}" if node.get("id") else ""
    names = "".join(f".{name}" for name in node.get("class", "").split())
    return f"{node.tag}{mark}{names}"
