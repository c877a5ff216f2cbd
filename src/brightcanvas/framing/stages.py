"""Stages: all the boxes that an element can have within one breakpoint.

A stage is the breakpoint's range of viewport widths crossed with the viewport heights
that occur at those widths, seen through the element's height rule. Every height rule
(see basics.heights) is a sum, min or max of amounts that grow with the viewport's width
or height and never faster than in proportion; so the element's aspect never falls as the
viewport gets wider, and never rises as it gets higher. The extreme boxes of a region of
viewports therefore sit at its corners, and a stage is known exactly by a few of them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product

from brightcanvas.basics.heights import HeightRule, ViewportShare
from brightcanvas.basics.shapes import Size, Span

EDGE = 0.02
"""How far below its upper edge a breakpoint's condition ends, in CSS px.

``max-width: 639.98px`` against ``min-width: 640px`` leaves no width between that a browser
produces, and no width in both."""

DEFAULT_HEIGHT = ViewportShare(60, "svh")


@dataclass(frozen=True)
class ScreenClass:
    """A kind of screen, by the viewports (CSS px) that it gives a page."""

    name: str
    widths: Span
    heights: Span


@dataclass(frozen=True)
class Element:
    """How an element's box follows from the viewport."""

    height: HeightRule = DEFAULT_HEIGHT
    fixed: bool = False
    """With ``background-attachment: fixed`` the picture is sized to the viewport."""

    def box(self, viewport: Size) -> Size:
        """The box (CSS px) that the picture has to fill in ``viewport`` (CSS px)."""
        if self.fixed:
            return viewport
        return Size(viewport.width, self.height.pixels(viewport, viewport.width))


@dataclass(frozen=True)
class Sight:
    """One box of a stage (CSS px), with the viewport in which it occurs."""

    viewport: Size
    box: Size


@dataclass(frozen=True)
class Stage:
    """All boxes of an element within one breakpoint."""

    element: Element
    regions: tuple[ScreenClass, ...]

    @property
    def corners(self) -> tuple[Sight, ...]:
        """The boxes at the corners of the regions; among them are the extreme ones."""
        return tuple(self._corner_sights())

    def _corner_sights(self) -> Iterator[Sight]:
        for region in self.regions:
            widths, heights = region.widths, region.heights
            for corner in product((widths.low, widths.high), (heights.low, heights.high)):
                viewport = Size(*corner)
                yield Sight(viewport, self.element.box(viewport))

    @property
    def narrowest(self) -> Sight:
        """The box with the least aspect."""
        return min(self.corners, key=lambda sight: sight.box.aspect)

    @property
    def widest(self) -> Sight:
        """The box with the greatest aspect."""
        return max(self.corners, key=lambda sight: sight.box.aspect)

    @property
    def aspects(self) -> Span:
        """From the least to the greatest aspect."""
        return Span(self.narrowest.box.aspect, self.widest.box.aspect)


def standard_screens(widest: float) -> tuple[ScreenClass, ...]:
    """The screens a page meets, up to ``widest`` CSS px across.

    The heights are those of the viewport with the browser's own bars in view, from the
    smallest device of the class to the largest. People also drag windows about on a desk,
    so that class is the broadest one.
    """
    return (
        ScreenClass("phone upright", Span(320, 480), Span(440, 960)),
        ScreenClass("phone on its side", Span(480, 960), Span(260, 450)),
        ScreenClass("tablet upright", Span(600, 1100), Span(700, 1400)),
        ScreenClass("tablet on its side", Span(900, 1400), Span(500, 1100)),
        ScreenClass("window on a desk", Span(500, widest), Span(480, max(1440, widest * 9 / 16))),
    )


def stage_of(widths: Span, element: Element, screens: Sequence[ScreenClass]) -> Stage | None:
    """The stage of a breakpoint, or None where no screen has such a width.

    Args:
        widths: the breakpoint's viewport widths in CSS px, from its first width up to (not
            including) the next breakpoint's.
        element: how the box follows from the viewport.
        screens: the screens that occur.
    """
    closed = Span(widths.low, max(widths.low, widths.high - EDGE))
    regions = [
        ScreenClass(screen.name, shared, screen.heights)
        for screen in screens
        if (shared := screen.widths.overlap(closed))
    ]
    return Stage(element, tuple(regions)) if regions else None
