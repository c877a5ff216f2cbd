"""What one window makes a page fetch, and why."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from brightcanvas.css.screens import Viewer
from brightcanvas.page.boxes import frame_of
from brightcanvas.page.embedded import (
    clips,
    further,
    is_late,
    pictures,
    scripts,
    sheets,
    shown_by_markup,
)
from brightcanvas.page.fetch import CLIP, FONT, PICTURE, Fetch, ShownElement, Urgency, merged
from brightcanvas.page.headers import HeaderHint
from brightcanvas.page.hints import hints
from brightcanvas.page.painted import fonts, painted
from brightcanvas.page.reading import Frame, Page
from brightcanvas.page.viewport import as_framed, laid_out

MARKED = ("picture", "poster")
"""What is fetched though its element isn't shown."""


@dataclass(frozen=True)
class PageLoad:
    """Everything that one window fetches, in the order in which it is known of."""

    fetches: tuple[Fetch, ...]
    shown: tuple[ShownElement, ...]
    """In the page's order."""
    width: float = 0.0
    """Of the window, CSS px."""

    @property
    def useless(self) -> tuple[Fetch, ...]:
        """Hinted, fetched, and shown by nothing: pictures, and fonts of no text."""
        return tuple(
            one
            for one in self.fetches
            if one.is_hinted and not one.used_by and one.kind in (PICTURE, FONT)
        )

    @property
    def hidden(self) -> tuple[Fetch, ...]:
        """Pictures of elements that aren't shown, fetched all the same, and shown by no other."""
        gone = {
            url for one in self.shown if not one.across and one.how in MARKED for url in one.urls
        }
        seen = {
            url for one in self.shown if one.across or one.how not in MARKED for url in one.urls
        }
        return tuple(one for one in self.pictures if one.url in gone - seen and not one.is_late)

    @property
    def clips(self) -> tuple[Fetch, ...]:
        """All clips and sounds that are fetched whole."""
        return tuple(one for one in self.fetches if one.kind == CLIP and not one.is_partial)

    @property
    def pictures(self) -> tuple[Fetch, ...]:
        """All pictures."""
        return tuple(one for one in self.fetches if one.kind == PICTURE)


def load(
    page: Page, viewer: Viewer, headers: tuple[HeaderHint, ...] = (), *, with_hints: bool = True
) -> PageLoad:
    """What a window fetches.

    Args:
        page: as read.
        viewer: the window, as wide as the screen.
        headers: hints that come with the page's answer.
        with_hints: False takes all hints away, to see what they are worth.
    """
    hinted = list(hints(page, viewer, headers)) if with_hints else []
    return _load(page, laid_out(page, viewer), hinted)


def _load(page: Page, viewer: Viewer, hinted: list[Fetch]) -> PageLoad:
    """What a window fetches, as wide as the page is laid out in it."""
    styles = page.cascade.styles(viewer)
    from_sheets, linked = tuple(painted(page, styles)), tuple(sheets(page, viewer))
    styled = tuple(one.url for one in linked if one.holds_paint)
    listed = [Fetch(page.address, "page", Urgency.FIRST)]
    listed += [*hinted, *linked, *scripts(page), *pictures(page, viewer)]
    for one in from_sheets:
        for url in one.urls:
            listed.append(Fetch(url, PICTURE, Urgency.LOW, after=styled, used_by=(one.element,)))
    listed += [*fonts(page, styles, styled), *clips(page, viewer), *further(page)]
    for frame in page.frames:
        listed += _in_frame(page, frame, viewer)
    shown = [*from_sheets, *shown_by_markup(page, viewer)]
    in_order = sorted(shown, key=lambda one: page.order(one.node))
    return PageLoad(merged(listed), tuple(in_order), viewer.width)


def _in_frame(page: Page, frame: Frame, viewer: Viewer) -> Iterator[Fetch]:
    """What the page in a frame fetches; of one that isn't shown, what its markup names alone."""
    box = frame_of(page, frame, viewer)
    own = box or replace(viewer, width=0, height=0)
    inner = _load(frame.page, own, list(hints(frame.page, as_framed(own), ())))
    place = page.place(frame.node.get("srcdoc", "")[:200] or frame.node.get("src"))
    for one in inner.fetches:
        is_styled = bool(one.after) and one.kind in (PICTURE, FONT)
        if one.kind == "page" or (box is None and (is_styled or is_late(frame.node))):
            continue
        after = one.after if frame.is_inline else (*one.after, frame.page.address)
        yield replace(
            one, after=after, place=place if frame.is_inline else 0.0, holds_paint=False,
            is_late=one.is_late or is_late(frame.node),
        )  # fmt: skip
