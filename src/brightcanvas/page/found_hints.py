"""What a page's preload hints make a window fetch (HTML, section 4.6.7.11)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from brightcanvas.css.media_queries import matches
from brightcanvas.css.srcset import chosen, from_srcset, known_type
from brightcanvas.html.tree import Node
from brightcanvas.page.embedded import urgency_said
from brightcanvas.page.fetch import FONT, PICTURE, SCRIPT, SHEET, Fetch, Urgency
from brightcanvas.page.reading import Page
from brightcanvas.page.viewport import judged_by, laid_out
from brightcanvas.values.environments import Environment

_LINK = re.compile(
    r"\s*<([^>]*)>((?:\s*;\s*[\w*!-]+(?:\s*=\s*(?:\"(?:[^\"\\]|\\.)*\"|[^\s;,\"]+))?)*)"
)
_PARAMETER = re.compile(r";\s*([\w*!-]+)(?:\s*=\s*(?:\"((?:[^\"\\]|\\.)*)\"|([^\s;,\"]+)))?")


@dataclass(frozen=True)
class HeaderHint:
    """One link of a header."""

    url: str
    attributes: dict[str, str]
    """As a ``link`` element would have them."""
    waits: bool = False
    """Whether it starts behind everything that the page's markup names."""

    @property
    def is_conditional(self) -> bool:
        """Whether it is for some windows only, or leaves a choice."""
        return bool({"media", "imagesrcset"} & set(self.attributes))


def header_hints(text: str) -> tuple[HeaderHint, ...]:
    """The preload links of header lines such as ``Link: </a.avif>; rel=preload; as=image``."""
    return tuple(
        one
        for line in text.splitlines()
        if line.lower().startswith("link:")
        for one in _links(line.partition(":")[2])
        if "preload" in one.attributes.get("rel", "").lower().split()
    )


def _links(value: str) -> Iterator[HeaderHint]:
    at = 0
    while match := _LINK.match(value, at):
        said: dict[str, str] = {}
        for name, quoted, plain in _PARAMETER.findall(match[2]):
            said.setdefault(name.lower(), re.sub(r"\\(.)", r"\1", quoted) or plain)
        yield HeaderHint(match[1], said)
        comma = re.compile(r"\s*,").match(value, match.end())
        if not comma:
            return
        at = comma.end()


KINDS = {"image": PICTURE, "font": FONT, "style": SHEET, "script": SCRIPT, "fetch": "other",
         "track": "other"}  # fmt: skip
"""By what ``as`` says; a hint that says anything else is passed over."""

FONT_TYPES = (
    "font/woff2", "font/woff", "font/ttf", "font/otf", "font/collection",
    "application/font-woff", "application/font-woff2", "application/x-font-ttf",
)  # fmt: skip


def hint_nodes(page: Page) -> Iterator[Node]:
    """The page's ``link rel=preload``."""
    for node in page.nodes("link"):
        if "preload" in node.get("rel", "").lower().split():
            yield node


def hints(page: Page, device: Environment, headers: tuple[HeaderHint, ...]) -> Iterator[Fetch]:
    """What the hints of the page, and of its answer's headers, fetch.

    Args:
        page: as read.
        device: the window, as wide as the screen.
        headers: hints that come with the page's answer.
    """
    for one in headers:
        for fetch in hinted(page, laid_out(page, device), one.attributes, one.url, 0.0):
            yield replace(fetch, urgency=Urgency.LAST) if one.waits else fetch
    for node in hint_nodes(page):
        yield from hinted_by_markup(page, device, node)
    for node in page.nodes("link"):
        words = node.get("rel", "").lower().split()
        if "modulepreload" in words and (url := node.get("href", "").strip()):
            yield Fetch(page.resolved(url), SCRIPT, Urgency.HIGH, page.place(url))
        if "prefetch" in words and (url := node.get("href", "").strip()):
            yield Fetch(page.resolved(url), "other", Urgency.LAST, page.place(url))


def hinted_by_markup(page: Page, device: Environment, node: Node) -> Iterator[Fetch]:
    """What one hint of the markup fetches, by the window that it is judged by."""
    url = node.get("href", "")
    place = page.place(url or node.get("imagesrcset"))
    found = (
        one for environment in judged_by(page, node, device)
        for one in hinted(page, environment, node.attrib, url, place)
    )  # fmt: skip
    yield from {one.url: one for one in found}.values()


def hinted(
    page: Page, environment: Environment, said: Mapping[str, str], url: str, place: float
) -> Iterator[Fetch]:
    """What one hint fetches: what matches, and is of a known type; ``place`` as in ``Fetch``."""
    kind = KINDS.get(said.get("as", "").strip().lower())
    if (
        kind is None
        or not environment.knows.hints
        or not matches(said.get("media", ""), environment)
    ):
        return
    if not _is_known(kind, said.get("type", ""), environment):
        return
    srcset = said.get("imagesrcset", "")
    if srcset and kind == PICTURE and environment.knows.hint_sets:
        offered = from_srcset(srcset, said.get("imagesizes", ""), "", environment)
        url = chosen(offered, environment.density) or url
    if url.strip():
        urgency = urgency_said(said.get("fetchpriority", ""), Urgency.LOW)
        yield Fetch(page.resolved(url), kind, urgency, place, is_hinted=True)


def _is_known(kind: str, said: str, environment: Environment) -> bool:
    if kind == PICTURE:
        return known_type(said, environment)
    return kind != FONT or not said.strip() or said.strip().lower() in FONT_TYPES
