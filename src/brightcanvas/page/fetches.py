"""What one window makes a page fetch, and why."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import IntEnum

from brightcanvas.css.media_queries import matches
from brightcanvas.css.screens import Viewer
from brightcanvas.css.srcset import chosen, from_srcset, known_type
from brightcanvas.page.headers import HeaderHint
from brightcanvas.page.reading import Node, Page, label

NO_CONTENT = ("", "none", "normal")
CLIP_TYPES = ("video/mp4", "video/webm", "video/ogg")


class Urgency(IntEnum):
    """How soon browsers ask for something; the lower, the sooner."""

    FIRST = 0
    HIGH = 1
    MEDIUM = 2
    LOW = 3
    LAST = 4


@dataclass(frozen=True)
class Fetch:
    """One file that is asked for."""

    url: str
    kind: str
    """page, sheet, script, picture, clip or frame."""
    urgency: Urgency
    place: float = 1.0
    """Share of the page that has to be there before it is known."""
    after: tuple[str, ...] = ()
    """URLs of files that have to be there before."""
    holds_paint: bool = False
    """Whether nothing is shown before it is there."""
    is_hinted: bool = False
    is_late: bool = False
    """Whether it is fetched only when its element nears the view."""
    used_by: tuple[str, ...] = ()
    """The elements that show it, as people name them."""


@dataclass(frozen=True)
class ShownElement:
    """An element with the pictures that it shows, in one window."""

    element: str
    urls: tuple[str, ...]


@dataclass(frozen=True)
class PageLoad:
    """Everything that one window fetches, in the order in which it is known of."""

    fetches: tuple[Fetch, ...]
    shown: tuple[ShownElement, ...]
    """Backgrounds first, then elements of the markup."""

    @property
    def useless(self) -> tuple[Fetch, ...]:
        """Hinted, fetched, and shown by nothing."""
        return tuple(one for one in self.fetches if one.is_hinted and not one.used_by)

    @property
    def pictures(self) -> tuple[Fetch, ...]:
        """All pictures."""
        return tuple(one for one in self.fetches if one.kind == "picture")


def load(
    page: Page, viewer: Viewer, headers: tuple[HeaderHint, ...] = (), *, hints: bool = True
) -> PageLoad:
    """What a window fetches.

    Args:
        page: as read.
        viewer: the window.
        headers: hints that come with the page's answer.
        hints: False takes all hints away, to see what they are worth.
    """
    backgrounds, sheets = tuple(_backgrounds(page, viewer)), tuple(_sheets(page, viewer))
    shown = (*backgrounds, *_of_markup(page, viewer))
    styled = tuple(one.url for one in sheets if one.holds_paint)
    listed = [Fetch(page.address, "page", Urgency.FIRST)]
    listed += [one for one in _hints(page, viewer, headers) if hints]
    listed += [*sheets, *_scripts(page), *_pictures(page, viewer)]
    for one in backgrounds:
        for url in one.urls:
            listed.append(Fetch(url, "picture", Urgency.LOW, after=styled, used_by=(one.element,)))
    listed += [*_clips(page, viewer), *_frames(page)]
    return PageLoad(tuple(_merged(listed)), shown)


def _merged(listed: list[Fetch]) -> Iterator[Fetch]:
    """Each URL once: found where it is first known, used by all that show it."""
    found: dict[str, Fetch] = {}
    for one in listed:
        if one.url.startswith(("data:", "about:")):
            continue
        before = found.get(one.url)
        if before is None:
            found[one.url] = one
            continue
        used = tuple(dict.fromkeys((*before.used_by, *one.used_by)))
        found[one.url] = replace(
            before, used_by=used, is_late=before.is_late and one.is_late,
            holds_paint=before.holds_paint or one.holds_paint,
        )  # fmt: skip
    yield from found.values()


def _hints(page: Page, viewer: Viewer, headers: tuple[HeaderHint, ...]) -> Iterator[Fetch]:
    for one in headers:
        for fetch in _hint(page, viewer, one.attributes, one.url, 0.0):
            yield replace(fetch, urgency=Urgency.LAST) if one.waits else fetch
    for node in page.nodes("link"):
        if "preload" in node.get("rel", "").lower().split():
            url = node.get("href", "")
            place = page.place(url or node.get("imagesrcset"))
            yield from _hint(page, viewer, dict(node.attrib), url, place)


def _hint(
    page: Page, viewer: Viewer, said: dict[str, str], url: str, place: float
) -> Iterator[Fetch]:
    """What a hint fetches (HTML, section 4.6.7.11): a matching picture of a known type."""
    if said.get("as", "").lower() != "image" or not matches(said.get("media", ""), viewer):
        return
    if not (viewer.knows.hints and known_type(said.get("type", ""), viewer)):
        return
    if (srcset := said.get("imagesrcset", "")) and viewer.knows.hint_sets:
        offered = from_srcset(srcset, said.get("imagesizes", ""), "", viewer)
        url = chosen(offered, viewer.density) or url
    if url:
        urgency = _urgency(said.get("fetchpriority", ""), Urgency.LOW)
        yield Fetch(page.resolved(url), "picture", urgency, place, is_hinted=True)


def _urgency(said: str, usual: Urgency) -> Urgency:
    wanted = {"high": Urgency.HIGH, "low": Urgency.LOW}
    return wanted.get(said.strip().lower(), usual)


def _sheets(page: Page, viewer: Viewer) -> Iterator[Fetch]:
    for one in page.sheets:
        is_wanted = matches(one.media, viewer)
        urgency = Urgency.FIRST if is_wanted else Urgency.LAST
        yield Fetch(one.url, "sheet", urgency, one.place, holds_paint=is_wanted)
    for imported in page.reading.imports:
        if all(matches(media, viewer) for media in imported.media):
            after = () if imported.by == page.base else (imported.by,)
            yield Fetch(
                imported.url, "sheet", Urgency.FIRST, 0.0 if after else 1.0, after,
                holds_paint=True,
            )  # fmt: skip


def _scripts(page: Page) -> Iterator[Fetch]:
    for node in page.nodes("script"):
        url = node.get("src", "").strip()
        if not url:
            continue
        waits = any(name in node.attrib for name in ("async", "defer")) or (
            node.get("type", "").strip().lower() == "module"
        )
        holds = page.in_head(node) and not waits
        urgency = Urgency.LOW if waits else Urgency.HIGH
        yield Fetch(page.resolved(url), "script", urgency, page.place(url), holds_paint=holds)


def _backgrounds(page: Page, viewer: Viewer) -> Iterator[ShownElement]:
    """The elements, and their ``::before`` and ``::after``, that show a background."""
    cascade = page.cascade
    for element in cascade.elements:
        node = element.etree_element
        for pseudo in ("", "before", "after"):
            urls = cascade.backgrounds(element, viewer, pseudo)
            if not urls or page.is_inert(node) or not cascade.is_shown(element, viewer):
                continue
            if pseudo and cascade.word(element, "content", viewer, pseudo) in (
                "",
                "none",
                "normal",
            ):
                continue
            name = label(node) + (f"::{pseudo}" if pseudo else "")
            yield ShownElement(name, tuple(urls))


def picture_of(page: Page, node: Node, viewer: Viewer) -> str | None:
    """The file that an ``img`` takes, from its ``picture``'s sources or its own."""
    outer = page.parents.get(id(node))
    if outer is not None and outer.tag == "picture":
        for source in outer:
            if source is node:
                break
            if source.tag == "source" and _is_taken(source, viewer):
                offered = from_srcset(source.get("srcset", ""), source.get("sizes", ""), "", viewer)
                if offered:
                    return chosen(offered, viewer.density)
    offered = from_srcset(
        node.get("srcset", ""), node.get("sizes", ""), node.get("src", "").strip(), viewer
    )
    return chosen(offered, viewer.density)


def _is_taken(source: Node, viewer: Viewer) -> bool:
    has_set = bool(source.get("srcset", "").strip())
    media, kind = source.get("media", ""), source.get("type", "").strip()
    return has_set and matches(media, viewer) and known_type(kind, viewer)


def _of_markup(page: Page, viewer: Viewer) -> Iterator[ShownElement]:
    for node in page.nodes("img"):
        url = picture_of(page, node, viewer)
        if url:
            yield ShownElement(_named(page, node), (page.resolved(url),))


def _named(page: Page, node: Node) -> str:
    """A picture is named after what it lies in, which is what people look for."""
    outer = next((one for one in page.above(node) if one.tag != "picture"), None)
    return f"{label(outer)} > {label(node)}" if outer is not None else label(node)


def _pictures(page: Page, viewer: Viewer) -> Iterator[Fetch]:
    for node in page.nodes("img"):
        url = picture_of(page, node, viewer)
        if url:
            urgency = _urgency(node.get("fetchpriority", ""), Urgency.LOW)
            yield Fetch(
                page.resolved(url), "picture", urgency, page.place(url),
                is_late=node.get("loading", "").lower() == "lazy",
                used_by=(_named(page, node),),
            )  # fmt: skip
    for node in page.nodes("video"):
        if poster := node.get("poster", "").strip():
            yield Fetch(
                page.resolved(poster), "picture", Urgency.LOW, page.place(poster),
                used_by=(label(node),),
            )  # fmt: skip


def _clips(page: Page, viewer: Viewer) -> Iterator[Fetch]:
    """Clips that are fetched by themselves; one that a script starts later is none."""
    for node in page.nodes("video"):
        if "autoplay" not in node.attrib and node.get("preload", "metadata") == "none":
            continue
        if url := _clip_of(node, viewer):
            yield Fetch(
                page.resolved(url), "clip", Urgency.LAST, page.place(url), used_by=(label(node),)
            )


def _clip_of(node: Node, viewer: Viewer) -> str | None:
    if url := node.get("src", "").strip():
        return str(url)
    for source in node.findall("source"):
        kind = source.get("type", "").split(";")[0].strip().lower()
        if matches(source.get("media", ""), viewer) and (not kind or kind in CLIP_TYPES):
            return str(source.get("src", "").strip()) or None
    return None


def _frames(page: Page) -> Iterator[Fetch]:
    for node in page.nodes("iframe"):
        if url := node.get("src", "").strip():
            is_late = node.get("loading", "").lower() == "lazy"
            yield Fetch(
                page.resolved(url), "frame", Urgency.FIRST, page.place(url), is_late=is_late,
                used_by=(label(node),),
            )  # fmt: skip
