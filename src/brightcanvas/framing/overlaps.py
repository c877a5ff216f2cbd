"""Where the copy lies in the source, and in which boxes it meets a subject."""

from __future__ import annotations

from collections.abc import Sequence

from brightcanvas.framing.cuts import Cut, copy_in
from brightcanvas.values.geometry import Rect, Span

STEPS = 64


def shared_area(first: Rect, second: Rect) -> float:
    """The area that two rectangles share."""
    across = min(first.right, second.right) - max(first.left, second.left)
    down = min(first.bottom, second.bottom) - max(first.top, second.top)
    return max(0.0, across) * max(0.0, down)


def covered_share(cut: Cut, copy: Rect, subjects: Sequence[Rect], aspect: float) -> float:
    """The largest share (0..1) of any subject that the copy covers in a box of ``aspect``."""
    under = copy_in(cut.seen_at(aspect), copy)
    return max(shared_area(under, one) / max(one.width * one.height, 1e-9) for one in subjects)


def worst_overlap(
    cut: Cut, copy: Rect, subjects: Sequence[Rect], aspects: Span
) -> tuple[float, float]:
    """The aspect at which the copy covers most of a subject, and that share (0..1).

    Between the ends and the cut's own aspect the copy's edges move evenly, so the shares at
    ``STEPS`` aspects and at these three tell the worst to within a step.
    """
    ratio = aspects.high / aspects.low
    steps = [aspects.low * ratio ** (step / STEPS) for step in range(STEPS + 1)]
    tried = [*steps, aspects.clamp(cut.area.size.aspect)]
    worst = max(tried, key=lambda aspect: covered_share(cut, copy, subjects, aspect))
    return worst, covered_share(cut, copy, subjects, worst)


def swept_by_copy(cut: Cut, copy: Rect, aspects: Span) -> tuple[Rect, ...]:
    """Everything of the source (source px) that lies under the copy in some box.

    In boxes narrower than the cut only the columns under the copy change with the box, in
    wider ones only the rows; the copy moves over them without a gap. So it sweeps over two
    rectangles that cross. They are returned as one of them and what the other has above and
    below it, with a seam of a hundredth of its height that they share.
    """
    middle = copy_in(cut.seen_at(aspects.clamp(cut.area.size.aspect)), copy)
    across = _around_both(copy_in(cut.seen_at(aspects.low), copy), middle)
    down = _around_both(copy_in(cut.seen_at(aspects.high), copy), middle)
    seam = across.height / 100
    above = Rect(down.left, down.top, down.right, across.top + seam)
    below = Rect(down.left, across.bottom - seam, down.right, down.bottom)
    strips = tuple(one for one in (above, below) if one.height > 1.01 * seam)
    return (across, *strips)


def _around_both(one: Rect, other: Rect) -> Rect:
    return Rect(
        min(one.left, other.left),
        min(one.top, other.top),
        max(one.right, other.right),
        max(one.bottom, other.bottom),
    )
