"""Where copy lies in all the boxes of a stage.

Copy that was stated by hand has one box. Copy that was measured has other boxes in each window;
between four windows that were measured (two widths, two heights) it is taken to lie somewhere in
what it covers in any of them.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise, product

from brightcanvas.framing.cuts import Cut, copy_in
from brightcanvas.framing.stages import Stage
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.legible import CopyLine, Letters, MeasuredWindow

APART = 1.5
"""Heights of a line between two of them, from which on they are no paragraph."""


@dataclass(frozen=True)
class CopyPlace:
    """Where copy lies in boxes of some aspects."""

    aspects: Span
    box: Rect
    """In fractions of what the picture fills."""


@dataclass(frozen=True)
class CopyPart:
    """Copy of one kind of letters, in all boxes of a stage."""

    letters: Letters | None
    """None: where it lies is told, but not how it looks."""
    places: tuple[CopyPlace, ...]


def hull(boxes: Iterable[Rect]) -> Rect:
    """The least rectangle round some; there is at least one."""
    listed = list(boxes)
    return Rect(
        min(one.left for one in listed), min(one.top for one in listed),
        max(one.right for one in listed), max(one.bottom for one in listed),
    )  # fmt: skip


def measured_parts(windows: Sequence[MeasuredWindow], stage: Stage) -> tuple[CopyPart, ...]:
    """Measured copy in the boxes of a stage, by its letters; none where there is no text."""
    found: dict[Letters, set[CopyPlace]] = {}
    for corners in _cells(windows, stage):
        aspects = _aspects(corners, stage)
        for letters, boxes in _covered(corners):
            places = found.setdefault(letters, set())
            places.update(CopyPlace(aspects, box) for box in boxes)
    return tuple(
        CopyPart(letters, tuple(sorted(places, key=_order))) for letters, places in found.items()
    )


def _order(place: CopyPlace) -> tuple[float, ...]:
    box = place.box
    return (place.aspects.low, place.aspects.high, box.top, box.left, box.bottom, box.right)


def _cells(windows: Sequence[MeasuredWindow], stage: Stage) -> Iterator[tuple[MeasuredWindow, ...]]:
    """The measured windows round each stretch of windows that a stage has."""
    by_size = {one.viewport: one for one in windows}
    widths = _stretches({one.viewport.width for one in windows})
    heights = _stretches({one.viewport.height for one in windows})
    for across, down in product(widths, heights):
        if not any(
            region.widths.overlap(across) and region.heights.overlap(down)
            for region in stage.regions
        ):
            continue
        sizes = {Size(width, height) for width in _ends(across) for height in _ends(down)}
        corners = tuple(by_size[size] for size in sizes if size in by_size)
        if corners:
            yield corners


def _stretches(values: set[float]) -> list[Span]:
    """From each to the next; the ends reach out to all that was not measured."""
    listed = sorted(values)
    inner = [Span(low, high) for low, high in pairwise(listed)]
    return [Span(0, listed[0]), *inner, Span(listed[-1], 1e6)] if listed else []


def _ends(span: Span) -> tuple[float, ...]:
    return (span.low, span.high)


def _aspects(corners: Sequence[MeasuredWindow], stage: Stage) -> Span:
    """Of the boxes that were measured, as far as the stage has such."""
    found = [one.element.aspect for one in corners]
    return Span(stage.aspects.clamp(min(found)), stage.aspects.clamp(max(found)))


def _covered(corners: Sequence[MeasuredWindow]) -> Iterator[tuple[Letters, list[Rect]]]:
    """What copy of each kind of letters covers in any of some windows.

    Paragraphs go together in their order; where one window has more of them than another, all of
    them together are one.
    """
    kinds = dict.fromkeys(line.letters for one in corners for line in one.lines)
    for letters in kinds:
        each = [
            paragraphs([line for line in one.lines if line.letters == letters]) for one in corners
        ]
        having = [one for one in each if one]
        if len({len(one) for one in having}) == 1:
            yield letters, [hull(same) for same in zip(*having, strict=True)]
        else:
            yield letters, [hull(box for one in having for box in one)]


def paragraphs(lines: Sequence[CopyLine]) -> list[Rect]:
    """Lines that follow each other as one box each, from the top."""
    boxes: list[Rect] = []
    for line in sorted(lines, key=lambda one: (one.box.top, one.box.left)):
        before = boxes[-1] if boxes else None
        if before is not None and _follows(before, line.box):
            boxes[-1] = hull((before, line.box))
        else:
            boxes.append(line.box)
    return boxes


def _follows(before: Rect, box: Rect) -> bool:
    """Whether a line stands below others, or goes on with their last."""
    is_near = box.top - before.bottom < (APART - 1) * box.height
    return is_near and box.left < before.right and before.left < box.right


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
