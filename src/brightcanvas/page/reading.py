"""A page as a browser reads it: its tree, its style sheets, and what its markup mentions."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

import cssselect2
import webencodings

from brightcanvas.css.cascade import Cascade
from brightcanvas.css.selectors import Element, Names
from brightcanvas.css.sheets import RuleContext, SheetReading, read_sheet
from brightcanvas.html.tree import Node, line_at, line_of, parsed, written_tag
from brightcanvas.page.folder import LARGEST_TEXT, Folder
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_regular
from brightcanvas.values.page_text import joined

DEEPEST = 200
"""Elements within elements; a page that nests deeper is none that anybody wrote."""

OURS = "ours:"
"""Stands for the address of our own style sheet."""

LOOKED_AT = 4000
"""Bytes at a file's beginning, by which it is told whether it is a text."""

MOST_ELEMENTS = 20_000
"""Of a page; those behind them are told as left out."""

MOST_FRAMES, DEEPEST_FRAME = 40, 3
"""Pages within a page that are read, all together, and how deep within each other."""


@dataclass(frozen=True)
class Linked:
    """A style sheet of its own, in the order of the page."""

    url: str
    media: str
    place: float
    in_head: bool
    line: int = 0


@dataclass(frozen=True)
class Frame:
    """A page that another one shows in an ``iframe``."""

    node: Node
    page: Page
    is_inline: bool
    """Whether it stands in the other one's markup: ``srcdoc``."""


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
    frames: tuple[Frame, ...] = ()
    encoding: str = "utf-8"
    """By Python's name for it."""

    def nodes(self, *names: str) -> Iterator[Node]:
        """The elements of some names, in the order of the page; not those in templates."""
        found = [node for name in names for node in self._by_name.get(name, ())]
        yield from found if len(names) == 1 else sorted(found, key=self.order)

    @cached_property
    def _by_name(self) -> dict[str, list[Node]]:
        listed: dict[str, list[Node]] = {}
        for node in self.root.iter():
            if not self.is_inert(node):
                listed.setdefault(node.tag, []).append(node)
        return listed

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

    @cached_property
    def _elements(self) -> dict[int, Element]:
        return {id(one.etree_element): one for one in self.cascade.elements}

    def element(self, node: Node) -> Element:
        """The cascade's element of a node."""
        return self._elements[id(node)]

    @cached_property
    def _order(self) -> dict[int, int]:
        return {id(node): number for number, node in enumerate(self.root.iter())}

    def order(self, node: Node) -> int:
        """Which one it is in the page's order, from 0."""
        return self._order[id(node)]

    @property
    def has_scripts(self) -> bool:
        """Whether anything may be changed or fetched by a script: nobody runs it here."""
        return any(is_run(node) for node in self.nodes("script"))


def _sends_on(root: Node) -> str:
    """Where a page sends its readers by itself (HTML, section 4.2.5.3); empty: nowhere."""
    for node in root.iter("meta"):
        if node.get("http-equiv", "").strip().lower() == "refresh":
            found = re.search(r"url\s*=\s*['\"]?([^'\"]+)", node.get("content", ""), re.I)
            if found:
                return str(found[1]).strip()
    return ""


def is_run(script: Node) -> bool:
    """Whether a ``script`` is one of JavaScript that today's browsers run."""
    kind = script.get("type", "").split(";")[0].strip().lower()
    is_known = kind in ("", "module") or kind.endswith(("javascript", "ecmascript"))
    return is_known and "nomodule" not in script.attrib


def read_page(folder: Folder, ours: str = "") -> Page:
    """A page with all its style sheets, and the pages in its frames.

    Args:
        folder: of the page.
        ours: a further style sheet, as if it were linked after all others.

    Raises:
        BriefError: it is nested so deeply that no browser would show it.
    """
    content = _content(folder.page)
    is_markup = content.lstrip()[:1] == b"<" or content.startswith((b"\xff\xfe", b"\xfe\xff"))
    if b"\0" in content[:LOOKED_AT] and not is_markup:
        raise BriefError(f"{folder.page} is no HTML page: its content is no text.")
    return _read(folder, content, folder.address, ours, _Frames(iter(range(MOST_FRAMES)), 0))


@dataclass(frozen=True)
class _Frames:
    """The frames that may still be read, on all of a page, and how deep we are in them."""

    left: Iterator[int]
    depth: int

    @property
    def within(self) -> _Frames:
        """For the pages in the frames of a page."""
        return replace(self, depth=self.depth + 1)


def _read(folder: Folder, content: bytes, address: str, ours: str, frames: _Frames) -> Page:
    encoding = encoding_of(content)
    text = content.decode(encoding, "replace").removeprefix("\ufeff")
    _check_markup(folder.page, text)
    root = parsed(text)
    if _depth(root) > DEEPEST:
        raise BriefError(f"{folder.page}: elements are nested more than {DEEPEST} deep")
    parents = {id(inner): outer for outer in root.iter() for inner in outer}
    further = _cut_off(root, parents)
    named = root.find(".//base[@href]")
    base = joined(address, named.get("href", "")) if named is not None else address
    sheets = _Sheets(folder, base, text, SheetReading(names=_names(root)), [])
    for node in (one for one in root.iter() if one.tag in ("link", "style")):
        outer = parents.get(id(node))
        sheets.add(node, in_head=outer is not None and outer.tag == "head")
    if ours:
        everything = replace(sheets.reading, names=None)
        read_sheet(ours, RuleContext(OURS), folder.text, everything)
    if further:
        sheets.reading.leave(f"{further} elements beyond the first {MOST_ELEMENTS}")
    if onward := _sends_on(root):
        sheets.reading.leave(f"what is behind {onward}: the page sends its readers on to it")
    cascade = Cascade(cssselect2.ElementWrapper.from_html_root(root), sheets.reading, base)
    page = Page(
        folder, address, base, len(content), text, root, parents, tuple(sheets.linked),
        sheets.reading, cascade, encoding=encoding,
    )  # fmt: skip
    if frames.depth >= DEEPEST_FRAME:
        return page
    return replace(page, frames=tuple(_frames(page, frames)))


def _cut_off(root: Node, parents: Mapping[int, Node]) -> int:
    """Take what stands too far behind out of a tree; how many elements that were."""
    further = list(itertools.islice(root.iter(), MOST_ELEMENTS, None))
    taken = {id(one) for one in further}
    around = {id(outer): outer for one in further if id(outer := parents[id(one)]) not in taken}
    for outer in around.values():  # in the page's order, its last ones are those
        first = next(number for number, inner in enumerate(outer) if id(inner) in taken)
        del outer[first:]
    return len(further)


_CHARSET = re.compile(rb"<meta[^>]+charset\s*=\s*[\"']?\s*([\w:-]+)", re.I)


def encoding_of(content: bytes) -> str:
    """How a page's bytes are read (HTML, section 13.2.3): by their mark, else by what it says.

    What says UTF-16 without being marked as such is UTF-8.
    """
    marks = {b"\xef\xbb\xbf": "utf-8", b"\xff\xfe": "utf-16-le", b"\xfe\xff": "utf-16-be"}
    for mark, name in marks.items():
        if content.startswith(mark):
            return name
    found = _CHARSET.search(content[:1024])
    known = webencodings.lookup(found[1].decode("ascii")) if found else None
    name = known.codec_info.name if known else "utf-8"
    return "utf-8" if name.startswith("utf-16") else name


def _names(root: Node) -> Names:
    """What the elements are called; classes compare as they are written."""
    classes = {name for node in root.iter() for name in _words(node, "class")}
    ids = {name for node in root.iter() for name in _words(node, "id")}
    return Names(frozenset(classes), frozenset(ids))


def _words(node: Node, name: str) -> list[str]:
    value = node.get(name) if isinstance(node.tag, str) else None
    return str(value).split() if value else []


def _frames(page: Page, frames: _Frames) -> Iterator[Frame]:
    """The pages in frames that lie here; one that can't be read is left out."""
    for node in page.nodes("iframe"):
        if found := _framed(page, node):
            if next(frames.left, None) is None:
                page.reading.leave(f"frames beyond the first {MOST_FRAMES}")
                return
            content, address = found
            try:
                inner = _read(page.folder, content, address, "", frames.within)
            except BriefError as error:
                page.reading.leave(f"the frame on line {line_of(node)}: {error}")
                continue
            yield Frame(node, inner, "srcdoc" in node.attrib)


def _framed(page: Page, node: Node) -> tuple[bytes, str] | None:
    if "srcdoc" in node.attrib:
        return node.get("srcdoc", "").encode(), page.base
    url = page.resolved(node.get("src", ""))
    is_other = node.get("src", "").strip() and url != page.address
    text = page.folder.text(url) if is_other else None
    return (text.encode(), url) if text is not None else None


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


@dataclass(frozen=True)
class _Sheets:
    """The style sheets of a page, as they are found one after the other."""

    folder: Folder
    base: str
    text: str
    reading: SheetReading
    linked: list[Linked]

    def add(self, node: Node, *, in_head: bool) -> None:
        """Read what a ``link`` or a ``style`` brings in."""
        media = (node.get("media", ""),) if node.get("media", "").strip() else ()
        line = max(1, line_of(node))
        if node.tag == "style":
            tag = written_tag(node, self.text)
            begins = line_at(self.text, tag.end) if tag else line
            around = RuleContext(self.base, media, line=begins, file=self.base)
            read_sheet("".join(node.itertext()), around, self.folder.text, self.reading)
        elif is_sheet(node):
            url = joined(self.base, node.get("href", "").strip())
            share = self.text.find(node.get("href", "")) / max(len(self.text), 1)
            self.linked.append(Linked(url, media[0] if media else "", share, in_head, line))
            content = self.folder.text(url)
            if content is not None:
                read_sheet(content, RuleContext(url, media), self.folder.text, self.reading)


def is_sheet(node: Node) -> bool:
    """Whether a ``link`` brings in a style sheet."""
    words = node.get("rel", "").lower().split()
    is_css = node.get("type", "text/css").split(";")[0].strip().lower() in ("", "text/css")
    is_meant = "stylesheet" in words and "alternate" not in words and "disabled" not in node.attrib
    return bool(node.tag == "link" and is_meant and is_css and node.get("href", "").strip())


def label(node: Node) -> str:
    """An element as people would name it."""
    mark = f"#{node.get('id')}" if node.get("id") else ""
    names = "".join(f".{name}" for name in node.get("class", "").split())
    return f"{node.tag}{mark}{names}"


def path_of(page: Page, node: Node) -> str:
    """A selector for the very place at which an element stands, whatever it is called.

    The number stands there where it is the only one, too: a script may add another behind it.
    """
    parts: list[str] = []
    for one in (node, *page.above(node)):
        outer = page.parents.get(id(one))
        if outer is None:
            break
        if one.tag == "body":
            parts.append("body")
            break
        same = [each for each in outer if each.tag == one.tag]
        number = next(index for index, each in enumerate(same, 1) if each is one)
        parts.append(f"{one.tag}:nth-of-type({number})")
    return " > ".join(reversed(parts))
