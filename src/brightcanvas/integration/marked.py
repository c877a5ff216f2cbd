"""A page's text with the rules in it, between marks; nothing else of it is changed."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from brightcanvas.html.tags import Tag, tags_of
from brightcanvas.html.tree import Node, written_tag
from brightcanvas.page.found_hints import hint_nodes
from brightcanvas.page.reading import Page
from brightcanvas.page.viewport import viewport_tag

BEGIN, END = "<!-- bright-canvas: begin -->", "<!-- bright-canvas: end -->"

_LINE = r"(?:\r\n|\r|\n)?"
_MARKED = re.compile(rf"{_LINE}{re.escape(BEGIN)}.*?{re.escape(END)}{_LINE}", re.DOTALL)


@dataclass(frozen=True)
class Snippets:
    """What goes into a page."""

    hints: str
    """For the top of the head."""
    sheet: str
    """URL of the style sheet, which comes last in the head."""
    children: tuple[tuple[str, str], ...] = ()
    """By the selector of an element, what becomes its first children."""
    filled: tuple[str, ...] = ()
    """The selectors of all elements whose background is ours now."""
    pictured: tuple[str, ...] = ()
    """The selectors of those that keep all of their background but its picture."""
    sources: tuple[tuple[str, str], ...] = ()
    """By the selector of an ``img`` of the page's own, the element round it with its sources."""
    script: str = ""
    """The element that loads the script of clips; empty: there are none."""


@dataclass(frozen=True)
class Edit:
    """Something put in at a place of a text, or taken out there."""

    at: int
    text: str = ""
    until: int | None = None
    """Up to where what stands there is taken out; None: nothing is."""


def without_marked(text: str) -> str:
    """A page's text as it was before anything was put in."""
    return _MARKED.sub("", text)


def inserted(
    page: Page,
    snippets: Snippets,
    elements: Mapping[str, Node],
    old: Iterable[str],
    filled: Sequence[Node],
    pictured: Sequence[Node],
) -> str:
    """The page's text with the snippets.

    Args:
        page: without anything of ours.
        snippets: to put in.
        elements: by selector, those that get children.
        old: URLs of pictures that nothing shows any more: hints for them are taken out.
        filled: elements whose background is ours: that of their style attributes is taken out.
        pictured: elements that keep theirs: the picture in their style attributes is taken out.
    """
    edits = [*_in_head(page, snippets), *_old_hints(page, set(old))]
    edits += [edit for node in filled for edit in _own_picture(page, node, _without_background)]
    edits += [edit for node in pictured for edit in _own_picture(page, node, _without_picture)]
    for selector, text in snippets.children:
        node = elements.get(selector)
        tag = written_tag(node, page.text) if node is not None else None
        if tag is not None:
            edits.append(Edit(tag.end, f"\n{BEGIN}\n{text}{END}\n"))
    for selector, text in snippets.sources:
        if selector in elements:
            edits += _round_img(page, elements[selector], text)
    return applied(page.text, [replace(one, text=_ending(one.text, page.text)) for one in edits])


def _ending(ours: str, text: str) -> str:
    """A text of ours with the line ends that the page has."""
    if "\r" not in text:
        return ours
    return ours.replace("\n", "\r\n" if "\r\n" in text else "\r")


def _round_img(page: Page, node: Node, text: str) -> list[Edit]:
    """Sources for an ``img``, in an element round it, or in the one that is there already."""
    tag = written_tag(node, page.text)
    if tag is None:
        return []
    opening, sources = text.removesuffix("</picture>").split(">", 1)
    outer = page.parents.get(id(node))
    if outer is not None and outer.tag == "picture":
        around = written_tag(outer, page.text)
        return [Edit(around.end, f"{BEGIN}{sources}{END}")] if around else []
    return [
        Edit(tag.start, f"{BEGIN}{opening}>{sources}{END}"),
        Edit(tag.end, f"{BEGIN}</picture>{END}"),
    ]  # fmt: skip


def applied(text: str, edits: Sequence[Edit]) -> str:
    """A text with edits that don't overlap."""
    for one in sorted(edits, key=lambda edit: edit.at, reverse=True):
        text = text[: one.at] + one.text + text[one.until if one.until is not None else one.at :]
    return text


def _in_head(page: Page, snippets: Snippets) -> list[Edit]:
    """Hints at the top, behind the viewport tag; the sheet behind all others."""
    top, bottom = _top(page), _bottom(page)
    link = f'<link rel="stylesheet" href="{snippets.sheet}">\n{snippets.script}'
    edits = [Edit(bottom, f"{BEGIN}\n{link}{END}\n")]
    if snippets.hints:
        edits.append(Edit(top, f"\n{BEGIN}\n{snippets.hints}{END}\n"))
    return edits


def _top(page: Page) -> int:
    """Behind the viewport tag, by which phones judge hints, and what tells the text's encoding.

    Without either, behind the head's tag, else where the text begins.
    """
    told = [node for node in page.nodes("meta") if "charset" in node.attrib]
    tag = viewport_tag(page)
    found = [written_tag(one, page.text) for one in (*told[:1], tag) if one is not None]
    if ends := [_behind(one, page.text) for one in found if one]:
        return max(ends)
    head = page.root.find("head")
    written = written_tag(head, page.text) if head is not None else None
    return written.end if written else _behind_doctype(page.text)


def _behind_doctype(text: str) -> int:
    """Behind the doctype and the tag of ``html``, as far as they are written."""
    doctype = re.match(r"\s*(<!doctype[^>]*>)?\s*", text, re.I)
    at = doctype.end() if doctype else 0
    first = next(iter(tags_of(text)), None)
    return first.end if first and first.start == at and first.name == "html" else at


def _behind(tag: Tag, text: str) -> int:
    """Behind a tag, or behind the script that it opens."""
    if tag.name != "script":
        return tag.end
    closing = (one.end for one in tags_of(text) if one.start >= tag.end and one.closes)
    return next(closing, tag.end)


def _bottom(page: Page) -> int:
    """Before the head's end; in a page that writes none, before its body or behind its top."""
    for tag in tags_of(page.text):
        if (tag.name, tag.closes) in (("head", True), ("body", False)):
            return tag.start
    return _top(page)


def _old_hints(page: Page, old: set[str]) -> list[Edit]:
    """The hints for pictures that nothing shows any more, taken out."""
    edits = []
    for node in hint_nodes(page):
        tag = written_tag(node, page.text)
        if tag is not None and page.resolved(node.get("href", "")) in old:
            edits.append(Edit(tag.start, until=tag.end))
    return edits


_PICTURE = re.compile(r"background(-image)?\s*:(?=[^;]*(url|image-set)\()", re.I)


def _without_background(declaration: str) -> str:
    return "" if _PICTURE.match(declaration.strip()) else declaration


_FILE = re.compile(
    r"""(?:-webkit-)?image-set\((?:[^()]|\([^)]*\))*\)|url\((?:"[^"]*"|'[^']*'|[^)"'])*\)""", re.I
)


def _without_picture(declaration: str) -> str:
    """A layer without a picture in its place, so that the others stay where they are."""
    return _FILE.sub("none", declaration) if _PICTURE.match(declaration.strip()) else declaration


def _own_picture(page: Page, node: Node, changed: Callable[[str], str]) -> list[Edit]:
    """The picture in an element's style attribute, taken out; all else that it says stays."""
    tag = written_tag(node, page.text)
    style = tag.attribute("style") if tag else None
    if style is None:
        return []
    quote, listed = style.quote or '"', _declarations(style.value)
    kept = [new for one in listed if (new := changed(one))]
    if kept == listed:
        return []
    text = f"style={quote}{';'.join(kept)}{quote}" if any(one.strip() for one in kept) else ""
    space = 0 if text else 1  # goes with what it parts
    return [Edit(style.start - space, text, style.end)]


def _declarations(style: str) -> list[str]:
    """The declarations of a style attribute: those in brackets and entities hold semicolons too."""
    parts = re.findall(r"(?:\([^)]*\)|&#?\w+;|[^;(])+", style)
    return [one for one in parts if one.strip()]
