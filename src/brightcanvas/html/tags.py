"""Where tags and attributes stand in the text of a page.

Scripts, styles, titles, text areas and comments hold no tags, whatever is written in them, and an
attribute's value holds none either.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache


@dataclass(frozen=True)
class Attribute:
    """One attribute as it is written."""

    name: str
    """In small letters."""
    start: int
    """Behind the space before it."""
    end: int
    value: str
    """As it is written, without its quotes; references stay."""
    quote: str
    """Empty: it has none."""


@dataclass(frozen=True)
class Tag:
    """One tag as it is written."""

    start: int
    """Of its ``<``."""
    end: int
    """Behind its ``>``."""
    name: str
    """In small letters."""
    closes: bool
    attributes: tuple[Attribute, ...]

    def attribute(self, name: str) -> Attribute | None:
        """The first of a name: browsers pass over all others."""
        return next((one for one in self.attributes if one.name == name), None)


@lru_cache(maxsize=8)
def tags_of(text: str) -> tuple[Tag, ...]:
    """All tags of a page, in their order."""
    return tuple(_tags(text))


def tag_at(text: str, start: int) -> Tag | None:
    """The tag whose ``<`` stands at a place; None where no tag begins there."""
    return _by_start(text).get(start)


@lru_cache(maxsize=8)
def _by_start(text: str) -> dict[int, Tag]:
    return {one.start: one for one in tags_of(text)}


_NEXT = re.compile(
    r"<(?:(?P<comment>!--)|(?P<other>[!?]|/(?![a-zA-Z]))|(?P<closes>/?)(?=[a-zA-Z]))"
)
_COMMENT_END = re.compile(r"--!?>")
_NAME = re.compile(r"[^\s/>]+")
_ATTRIBUTE = re.compile(
    r"""[\s/]*(?P<whole>(?P<name>[^\s/>][^\s/>=]*)"""
    r"""(?:\s*=\s*(?:"(?P<double>[^"]*)"|'(?P<single>[^']*)'|(?P<open>["'])|(?P<plain>[^\s>]+)?))?)"""
)
_GAP = re.compile(r"[\s/]*")
_RAW = frozenset(
    ["script", "style", "title", "textarea", "xmp", "iframe", "noembed", "noframes"]
)  # fmt: skip
"""Elements whose content is text up to their own end tag."""


def _tags(text: str) -> Iterator[Tag]:
    at = 0
    while found := _NEXT.search(text, at):
        if found["comment"]:
            at = _behind_comment(text, found.end())
            continue
        if found["other"]:
            at = text.find(">", found.end()) + 1 or len(text)
            continue
        tag = _tag(text, found.start(), found.end(), closes=bool(found["closes"]))
        if tag is None:  # the text ends within it, so that browsers drop it
            return
        yield tag
        at = tag.end
        if tag.name == "plaintext":
            return
        if tag.name in _RAW and not tag.closes:
            at = _end_tag(text, tag.name, at)


def _behind_comment(text: str, at: int) -> int:
    """``<!-->`` and ``<!--->`` are whole comments too."""
    for short in (">", "->"):
        if text.startswith(short, at):
            return at + len(short)
    found = _COMMENT_END.search(text, at)
    return found.end() if found else len(text)


def _end_tag(text: str, name: str, at: int) -> int:
    found = re.compile(rf"</{name}(?=[\s/>])", re.I).search(text, at)
    return found.start() if found else len(text)


def _tag(text: str, start: int, at: int, *, closes: bool) -> Tag | None:
    named = _NAME.match(text, at)
    assert named is not None
    at = named.end()
    attributes: list[Attribute] = []
    while True:
        at = _gap(text, at)
        if at >= len(text):
            return None
        if text[at] == ">":
            return Tag(start, at + 1, named[0].lower(), closes, tuple(attributes))
        found = _ATTRIBUTE.match(text, at)
        if found is None or found["open"]:  # a quote that nothing closes takes in all the rest
            return None
        attributes.append(_attribute(found))
        at = found.end()


def _gap(text: str, at: int) -> int:
    found = _GAP.match(text, at)
    return found.end() if found else at


def _attribute(found: re.Match[str]) -> Attribute:
    quotes = {"double": '"', "single": "'", "plain": ""}
    group = next((one for one in quotes if found[one] is not None), "plain")
    value, quote = found[group] or "", quotes[group]
    return Attribute(found["name"].lower(), found.start("whole"), found.end("whole"), value, quote)
