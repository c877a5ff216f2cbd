"""A file that a page load asks for."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import IntEnum

from brightcanvas.html.tree import Node

PICTURE, FONT, CLIP, SHEET, SCRIPT, FRAME = "picture", "font", "clip", "sheet", "script", "frame"


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
    """page, sheet, script, picture, font, clip, frame or other."""
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
    is_partial: bool = False
    """Whether a browser fetches no more than a part of it until it is played."""


@dataclass(frozen=True)
class ShownElement:
    """An element with the pictures that it shows, in one window."""

    element: str
    urls: tuple[str, ...]
    node: Node = None
    how: str = "background"
    """background, picture, poster, or another."""
    across: float = 0.0
    """CSS px; how wide it is likely to be; 0: it isn't shown."""

    @property
    def files(self) -> tuple[str, ...]:
        """The URLs that are files: not what stands in the style sheet itself."""
        return tuple(url for url in self.urls if url.startswith(("http:", "https:")))


def merged(listed: list[Fetch]) -> tuple[Fetch, ...]:
    """Each URL once: found where it is first known, used by all that show it."""
    found: dict[str, Fetch] = {}
    for one in listed:
        if not one.url.startswith(("http:", "https:")):
            continue
        before = found.get(one.url)
        if before is None:
            found[one.url] = one
            continue
        used = tuple(dict.fromkeys((*before.used_by, *one.used_by)))
        found[one.url] = replace(
            before, used_by=used, is_late=before.is_late and one.is_late,
            holds_paint=before.holds_paint or one.holds_paint,
            is_partial=before.is_partial and one.is_partial,
        )  # fmt: skip
    return tuple(found.values())
