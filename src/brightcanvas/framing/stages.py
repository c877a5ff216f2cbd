"""Stages: all the boxes that an element can have within one breakpoint.

A stage is the breakpoint's range of viewport widths crossed with the viewport heights
that occur at those widths, seen through the element's height rule. Every height rule
(see ``values.element_boxes``) is a sum, min or max of amounts that grow with the viewport's width
or height and never faster than in proportion; so the element's aspect never falls as the
viewport gets wider, and never rises as it gets higher. (With a greatest width the element
stops growing at one viewport width; regions are parted there.) The extreme boxes of a region of
viewports therefore sit at its corners, and a stage is known exactly by a few of them. Boxes that
were measured on a page follow no rule: there all windows that were measured count too.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import pairwise, product

from brightcanvas.framing.wishes import Linear, clipped
from brightcanvas.values.conditions import EDGE
from brightcanvas.values.element_boxes import (
    DEFAULT_HEIGHT,
    FULL_WIDTH,
    NO_PADDING,
    ElementWidth,
    HeightRule,
    MeasuredBoxes,
    PaddingHeight,
)
from brightcanvas.values.geometry import Orientation, Size, Span


@dataclass(frozen=True)
class ScreenClass:
    """A kind of screen, by the viewports (CSS px) that it gives a page."""

    name: str
    widths: Span
    heights: Span
    orientation: Orientation | None = None
    """If given, only those of its viewports."""

    @property
    def corners(self) -> tuple[tuple[float, float], ...]:
        """The outermost viewports, width and height.

        Where an orientation cuts a corner off, the new edge runs through squares; along it
        an element's aspect never falls as they get larger, so its ends are extreme too.
        """
        widths, heights = self.widths, self.heights
        rectangle = (
            (widths.low, heights.low),
            (widths.high, heights.low),
            (widths.high, heights.high),
            (widths.low, heights.high),
        )
        if self.orientation is None:
            return rectangle
        sign = 1 if self.orientation is Orientation.LANDSCAPE else -1
        return clipped(rectangle, (Linear(sign, -sign, 0),), 0.0)

    def has(self, viewport: Size) -> bool:
        """Whether a viewport (CSS px) is one of its own."""
        is_wide = viewport.width > viewport.height
        shape = Orientation.LANDSCAPE if is_wide else Orientation.PORTRAIT
        is_in = self.widths.low <= viewport.width <= self.widths.high
        is_high = self.heights.low <= viewport.height <= self.heights.high
        return is_in and is_high and self.orientation in (None, shape)

    def within(self, widths: Span, orientation: Orientation | None) -> ScreenClass | None:
        """Those of its viewports with such widths and that orientation, if any."""
        shared = self.widths.overlap(widths)
        if shared is None:
            return None
        orientation = orientation or self.orientation
        if orientation is None:
            return ScreenClass(self.name, shared, self.heights)
        heights = self.heights
        if orientation is Orientation.PORTRAIT:
            sides = (
                shared.overlap(Span(0, heights.high)),
                heights.overlap(Span(shared.low, math.inf)),
            )
        else:
            sides = (
                shared.overlap(Span(heights.low, math.inf)),
                heights.overlap(Span(0, shared.high)),
            )
        if sides[0] is None or sides[1] is None:
            return None
        return ScreenClass(self.name, sides[0], sides[1], orientation)


@dataclass(frozen=True)
class Element:
    """How an element's box follows from the viewport."""

    height: HeightRule = DEFAULT_HEIGHT
    width: ElementWidth = FULL_WIDTH
    growth: float = 0.0
    """CSS px by which content may make it higher than its rule says."""
    padding: PaddingHeight = NO_PADDING
    """It counts into the height, but the height is no less than it."""
    drift: float = 0.0
    """CSS px that the picture travels against the page, so it has to be higher than the box."""
    fixed: bool = False
    """With ``background-attachment: fixed`` the picture is sized to the viewport."""
    measured: MeasuredBoxes | None = None
    """Its boxes on the page, which then follow from no rule."""

    def box(self, viewport: Size, *, grown: bool = False) -> Size:
        """What the picture has to fill in ``viewport``, both in CSS px."""
        if self.fixed:
            return viewport
        if self.measured:
            return self.measured.at(viewport)
        width = self.width.pixels(viewport.width)
        least = self.padding.pixels(viewport)
        height = max(self.height.pixels(viewport, width), least) + self.drift
        return Size(width, height + self.growth if grown else height)


@dataclass(frozen=True)
class ViewportBox:
    """One box of a stage (CSS px), with the viewport in which it occurs."""

    viewport: Size
    box: Size


@dataclass(frozen=True)
class Stage:
    """All boxes of an element within one breakpoint."""

    element: Element
    regions: tuple[ScreenClass, ...]

    @cached_property
    def corners(self) -> tuple[ViewportBox, ...]:
        """The boxes at the corners of the regions; among them are the extreme ones."""
        return tuple(self._corner_sights())

    def _corner_sights(self) -> Iterator[ViewportBox]:
        states = (False, True) if self.element.growth else (False,)
        for region in self.regions:
            for (width, height), grown in product(region.corners, states):
                yield self.viewport_box(Size(width, height), grown=grown)
            yield from self._measured_sights(region)

    def _measured_sights(self, region: ScreenClass) -> Iterator[ViewportBox]:
        """The boxes that were measured in a region; of a fixed picture too, which iOS scrolls."""
        for viewport, box in self.element.measured.windows if self.element.measured else ():
            if region.has(viewport):
                yield ViewportBox(viewport, box)

    def viewport_box(self, viewport: Size, *, grown: bool = False) -> ViewportBox:
        """The box that the element has in one viewport."""
        return ViewportBox(viewport, self.element.box(viewport, grown=grown))

    @cached_property
    def _grown(self) -> dict[Size, Size]:
        """Boxes that were asked for, by viewport: the same few are, again and again."""
        return {}

    def grown_box(self, viewport: Size) -> Size:
        """The box that the element has in one viewport, grown as far as it may (CSS px)."""
        if viewport not in self._grown:
            self._grown[viewport] = self.element.box(viewport, grown=True)
        return self._grown[viewport]

    @cached_property
    def narrowest(self) -> ViewportBox:
        """The box with the least aspect."""
        return min(self.corners, key=lambda viewport_box: viewport_box.box.aspect)

    @cached_property
    def widest(self) -> ViewportBox:
        """The box with the greatest aspect."""
        return max(self.corners, key=lambda viewport_box: viewport_box.box.aspect)

    @cached_property
    def aspects(self) -> Span:
        """From the least to the greatest aspect."""
        return Span(self.narrowest.box.aspect, self.widest.box.aspect)

    @cached_property
    def hidden(self) -> float:
        """The largest share of the picture's height that drift moves out of the box."""
        return max(self.element.drift / viewport_box.box.height for viewport_box in self.corners)

    @cached_property
    def widths(self) -> Span:
        """The viewport widths that occur."""
        return Span(
            min(region.widths.low for region in self.regions),
            max(region.widths.high for region in self.regions),
        )

    @cached_property
    def largest(self) -> Size:
        """The greatest width and the greatest height of any box."""
        return Size(
            max(viewport_box.box.width for viewport_box in self.corners),
            max(viewport_box.box.height for viewport_box in self.corners),
        )

    def part(self, widths: Span) -> Stage | None:
        """The boxes in viewports of these widths only."""
        regions = tuple(part for region in self.regions if (part := region.within(widths, None)))
        return Stage(self.element, regions) if regions else None

    def sight_with(self, aspect: float) -> ViewportBox:
        """A box of about that aspect: on the way from the narrowest to the widest one.

        The way leads through the region that has the aspect, along its highest viewports
        and then down its widest ones; the aspect never falls on it.
        """
        for region in self.regions:
            grown = bool(self.element.growth)
            way = (
                Size(region.widths.low, region.heights.high),
                Size(region.widths.high, region.heights.high),
                Size(region.widths.high, region.heights.low),
            )
            for begin, end in pairwise(way):
                low, high = (
                    self.viewport_box(begin, grown=grown),
                    self.viewport_box(end, grown=grown),
                )
                if low.box.aspect <= aspect <= high.box.aspect:
                    return self._between(begin, end, aspect, grown=grown)
        return min(
            self.corners, key=lambda viewport_box: abs(math.log(viewport_box.box.aspect / aspect))
        )

    def _between(self, begin: Size, end: Size, aspect: float, *, grown: bool) -> ViewportBox:
        """The box of that aspect between two viewports, found by halving."""
        low, high = 0.0, 1.0
        for _ in range(40):
            middle = (low + high) / 2
            if self.viewport_box(_on_way(begin, end, middle), grown=grown).box.aspect < aspect:
                low = middle
            else:
                high = middle
        return self.viewport_box(_on_way(begin, end, high), grown=grown)


def _on_way(begin: Size, end: Size, share: float) -> Size:
    return Size(
        begin.width + (end.width - begin.width) * share,
        begin.height + (end.height - begin.height) * share,
    )


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


@lru_cache(maxsize=4096)
def stage_of(
    widths: Span,
    element: Element,
    screens: tuple[ScreenClass, ...],
    orientation: Orientation | None = None,
) -> Stage | None:
    """The stage of a breakpoint, or None where no screen has such a width.

    Args:
        widths: the breakpoint's viewport widths in CSS px, from its first width up to (not
            including) the next breakpoint's.
        element: how the box follows from the viewport.
        screens: the screens that occur.
        orientation: if given, only viewports of that one.
    """
    closed = Span(widths.low, max(widths.low, widths.high - EDGE))
    regions = [
        region
        for screen in screens
        for part in _parts(closed, element.width.capped_from)
        if (region := screen.within(part, orientation))
    ]
    return Stage(element, tuple(regions)) if regions else None


def _parts(widths: Span, capped_from: float) -> list[Span]:
    """The widths, parted where the element stops growing: there the aspect may turn round."""
    if widths.low < capped_from < widths.high:
        return [Span(widths.low, capped_from), Span(capped_from, widths.high)]
    return [widths]
