"""Cuts: the part of a source that is shipped for a stage, and the position that anchors it.

Both axes are decided alone. On each, a box shows a window between a smallest and a
largest length, and the windows are nested (see windows). So the subject is in view in
every box of the stage exactly when it lies in the smallest window.
"""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.basics.shapes import Point, Rect, Size, Span
from brightcanvas.framing.windows import visible_window, window_size

CENTRE = Point(0.5, 0.5)


@dataclass(frozen=True)
class Cut:
    """A crop of the source (source px) and the position (fractions) at which it is anchored."""

    area: Rect
    position: Point

    def seen_at(self, aspect: float) -> Rect:
        """The part of the source (source px) that a box of ``aspect`` shows."""
        window = visible_window(self.area.size, self.position, aspect)
        return Rect(
            self.area.left + window.left,
            self.area.top + window.top,
            self.area.left + window.right,
            self.area.top + window.bottom,
        )


def whole(source: Size, position: Point = CENTRE) -> Cut:
    """The cut that leaves nothing out."""
    return Cut(Rect(0, 0, source.width, source.height), position)


def cut_for_cover(source: Size, aspects: Span, subject: Rect) -> Cut:
    """The largest cut without waste that keeps ``subject`` in view as far as can be.

    The cut's aspect lies within ``aspects``, so every pixel of it is shown in some box.
    The subject keeps the place that the composition gave it (a third from the left stays
    a third from the left, in every window) unless it has to move to stay in view.

    Args:
        source: size in source px.
        aspects: of the boxes, from the narrowest to the widest.
        subject: what must be seen, in source px; a point is a rectangle of no size.
    """
    size = largest_with_aspect(source, aspects.clamp(source.aspect))
    smallest = Size(window_size(size, aspects.low).width, window_size(size, aspects.high).height)
    left, x = _anchor(source.width, size.width, smallest.width, Span(subject.left, subject.right))
    top, y = _anchor(source.height, size.height, smallest.height, Span(subject.top, subject.bottom))
    return Cut(Rect(left, top, left + size.width, top + size.height), Point(x, y))


def cut_at_position(source: Size, aspects: Span, position: Point) -> Cut:
    """The largest cut without waste, placed where ``position`` puts it, as CSS would."""
    size = largest_with_aspect(source, aspects.clamp(source.aspect))
    left = position.x * (source.width - size.width)
    top = position.y * (source.height - size.height)
    return Cut(Rect(left, top, left + size.width, top + size.height), position)


def largest_with_aspect(source: Size, aspect: float) -> Size:
    """The largest size of ``aspect`` that fits into ``source``."""
    return window_size(source, aspect)


def _anchor(source: float, cut: float, smallest: float, subject: Span) -> tuple[float, float]:
    """Where a cut starts on one axis, and its position (a fraction).

    All lengths in source px: of the source, of the cut, of the smallest window.
    """
    middle = (subject.low + subject.high) / 2
    share = middle / source
    start = _in_view(share * (source - cut), cut, subject, Span(0, source - cut))
    window = _in_view(
        share * (source - smallest), smallest, subject, Span(start, start + cut - smallest)
    )
    spare = cut - smallest
    position = (window - start) / spare if spare > 1e-9 * cut else share
    return start, min(max(position, 0.0), 1.0)


def _in_view(wanted: float, length: float, subject: Span, allowed: Span) -> float:
    """The start of a window nearest to ``wanted`` that holds the subject, or its middle."""
    if subject.high - subject.low <= length:
        wanted = Span(subject.high - length, subject.low).clamp(wanted)
    else:
        wanted = (subject.low + subject.high - length) / 2
    return allowed.clamp(wanted)
