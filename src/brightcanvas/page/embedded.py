"""What a page's markup makes a window fetch by itself: pictures, clips, sheets, scripts, frames."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from brightcanvas.css.media_queries import matches
from brightcanvas.css.srcset import chosen, from_srcset, known_type
from brightcanvas.html.tree import SVG, XLINK, Node
from brightcanvas.page.fetch import (
    CLIP,
    FRAME,
    PICTURE,
    SCRIPT,
    SHEET,
    Fetch,
    ShownElement,
    Urgency,
)
from brightcanvas.page.likely_boxes import across_of
from brightcanvas.page.reading import Page, is_run, label
from brightcanvas.values.environments import Environment

CLIP_TYPES = ("video/mp4", "video/webm", "video/ogg")
SOUND_TYPES = ("audio/mpeg", "audio/mp4", "audio/ogg", "audio/wav", "audio/webm", "audio/aac",
               "audio/flac", "audio/x-wav")  # fmt: skip


OTHERS = (("input", "src"), ("object", "data"), ("embed", "src"), (f"{SVG}image", "href"),
          ("body", "background"), ("table", "background"), ("td", "background"))  # fmt: skip
"""Further elements that fetch what an attribute names."""

ASIDE = frozenset(("alternate", "apple-touch-icon", "icon", "manifest", "mask-icon", "next"))
"""What a ``link`` names beside the page; which of several icons is taken, and whether the
next page is fetched while nothing else is, browsers decide."""


def urgency_said(node_or_word: str, usual: Urgency) -> Urgency:
    """What ``fetchpriority`` makes of an urgency."""
    wanted = {"high": Urgency.HIGH, "low": Urgency.LOW}
    return wanted.get(node_or_word.strip().lower(), usual)


def is_late(node: Node) -> bool:
    """Whether it waits until it nears the view."""
    return bool(node.get("loading", "").strip().lower() == "lazy")


def named(page: Page, node: Node) -> str:
    """A picture is named after what it lies in, which is what people look for."""
    outer = next((one for one in page.above(node) if one.tag != "picture"), None)
    return f"{label(outer)} > {label(node)}" if outer is not None else label(node)


def picture_of(page: Page, node: Node, environment: Environment) -> str | None:
    """The file that an ``img`` takes, from its ``picture``'s sources or its own."""
    outer = page.parents.get(id(node))
    if outer is not None and outer.tag == "picture":
        for source in outer:
            if source is node:
                break
            if source.tag == "source" and _is_taken(source, environment):
                offered = from_srcset(
                    source.get("srcset", ""), source.get("sizes", ""), "", environment
                )
                if offered:
                    return chosen(offered, environment.density)
    offered = from_srcset(
        node.get("srcset", ""), node.get("sizes", ""), node.get("src", "").strip(), environment
    )
    return chosen(offered, environment.density)


def _is_taken(source: Node, environment: Environment) -> bool:
    has_set = bool(source.get("srcset", "").strip())
    media, kind = source.get("media", ""), source.get("type", "").strip()
    return has_set and matches(media, environment) and known_type(kind, environment)


def shown_by_markup(page: Page, environment: Environment) -> Iterator[ShownElement]:
    """The elements of the markup that show pictures."""
    for node in page.nodes("img"):
        if url := picture_of(page, node, environment):
            across = across_of(page, node, environment)
            yield ShownElement(named(page, node), (page.resolved(url),), node, "picture", across)
    for node in page.nodes("video"):
        if poster := node.get("poster", "").strip():
            across = across_of(page, node, environment)
            yield ShownElement(label(node), (page.resolved(poster),), node, "poster", across)


def pictures(page: Page, environment: Environment) -> Iterator[Fetch]:
    """Of ``img``, of posters, and of what else names a picture in an attribute."""
    for node in page.nodes("img"):
        if url := picture_of(page, node, environment):
            urgency = urgency_said(node.get("fetchpriority", ""), Urgency.LOW)
            yield Fetch(
                page.resolved(url), PICTURE, urgency, page.place(url), is_late=is_late(node),
                used_by=(named(page, node),),
            )  # fmt: skip
    for node in page.nodes("video"):
        if poster := node.get("poster", "").strip():
            yield Fetch(
                page.resolved(poster), PICTURE, Urgency.LOW, page.place(poster),
                used_by=(label(node),),
            )  # fmt: skip
    yield from _of_attributes(page)


def _of_attributes(page: Page) -> Iterator[Fetch]:
    for tag, attribute in OTHERS:
        for node in page.nodes(tag):
            url = (node.get(attribute) or node.get(f"{XLINK}href") or "").strip()
            is_button = tag == "input" and node.get("type", "").strip().lower() != "image"
            if url and not is_button:
                yield Fetch(
                    page.resolved(url), PICTURE, Urgency.LOW, page.place(url),
                    used_by=(label(node),),
                )  # fmt: skip


def clips(page: Page, environment: Environment) -> Iterator[Fetch]:
    """Clips and sounds that are fetched by themselves; what a script starts later is none."""
    for node in page.nodes("video", "audio"):
        plays = "autoplay" in node.attrib
        preload = node.get("preload", "metadata").strip().lower()
        if preload == "none" and not plays:
            continue
        if url := clip_of(node, environment):
            yield Fetch(
                page.resolved(url), CLIP, Urgency.LAST, page.place(url), used_by=(label(node),),
                is_partial=not plays and preload != "auto",
            )  # fmt: skip


def clip_of(node: Node, environment: Environment) -> str | None:
    """The file that a ``video`` or an ``audio`` takes."""
    if url := node.get("src", "").strip():
        return str(url)
    for source in node.findall("source"):
        kind = source.get("type", "").split(";")[0].strip().lower()
        is_known = not kind or kind in (*CLIP_TYPES, *SOUND_TYPES)
        if matches(source.get("media", ""), environment) and is_known:
            return str(source.get("src", "").strip()) or None
    return None


def sheets(page: Page, environment: Environment) -> Iterator[Fetch]:
    """Style sheets; one whose condition doesn't hold is fetched too, but holds nothing up."""
    for one in page.sheets:
        is_wanted = matches(one.media, environment)
        urgency = Urgency.FIRST if is_wanted else Urgency.LAST
        yield Fetch(one.url, SHEET, urgency, one.place, holds_paint=is_wanted)
    for imported in page.reading.imports:
        is_wanted = all(matches(media, environment) for media in imported.media)
        urgency = Urgency.FIRST if is_wanted else Urgency.LAST
        after = () if imported.by == page.base else (imported.by,)
        place = 0.0 if after else 1.0
        yield Fetch(imported.url, SHEET, urgency, place, after, holds_paint=is_wanted)


def scripts(page: Page) -> Iterator[Fetch]:
    """Scripts that today's browsers run."""
    for node in page.nodes("script"):
        url = node.get("src", "").strip()
        if not url or not is_run(node):
            continue
        waits = any(name in node.attrib for name in ("async", "defer")) or (
            node.get("type", "").strip().lower() == "module"
        )
        holds = page.in_head(node) and not waits
        urgency = Urgency.LOW if waits else Urgency.HIGH
        yield Fetch(page.resolved(url), SCRIPT, urgency, page.place(url), holds_paint=holds)


def _is_at_will(words: Sequence[str]) -> bool:
    return any(word.endswith("icon") or word == "next" for word in words)


def further(page: Page) -> Iterator[Fetch]:
    """The pages of frames, what is named beside the page, and captions.

    What the page in a frame fetches in turn is told by ``load``.
    """
    for node in page.nodes("iframe"):
        if (url := node.get("src", "").strip()) and "srcdoc" not in node.attrib:
            yield Fetch(
                page.resolved(url), FRAME, Urgency.FIRST, page.place(url), is_late=is_late(node),
                used_by=(label(node),),
            )  # fmt: skip
    for node in page.nodes("link"):
        words = node.get("rel", "").lower().split()
        if (url := node.get("href", "").strip()) and ASIDE & set(words):
            if "alternate" in words and "stylesheet" not in words:
                continue  # another form of the page: nobody fetches it
            kind = SHEET if "stylesheet" in words else "other"
            yield Fetch(
                page.resolved(url), kind, Urgency.LAST, page.place(url), is_late=_is_at_will(words)
            )
    for node in page.nodes("track"):
        if "default" in node.attrib and (url := node.get("src", "").strip()):
            yield Fetch(page.resolved(url), "other", Urgency.LAST, page.place(url))
