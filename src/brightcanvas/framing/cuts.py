"""Cuts: the part of a source that is shipped for a stage, and the position that anchors it.

CSS Backgrounds 3, sections 3.6 (position) and 3.9 (size): the picture is scaled until it
fills the box, and what overhangs is shared out by the position's percentages.
``object-fit: cover`` with ``object-position`` is the same arithmetic.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum
from itertools import chain

from brightcanvas.framing.wishes import (
    HAIR,
    HEIGHT,
    WIDTH,
    Axis,
    Bounds,
    CopySide,
    CutSize,
    CutWish,
    Linear,
    Polygon,
    bounds_for,
    clipped,
    constant,
)
from brightcanvas.values.geometry import Point, Rect, Size, Span


def window_size(cut: Size, aspect: float) -> Size:
    """How much of ``cut`` a box of ``aspect`` shows, in the cut's own pixels."""
    return Size(min(cut.width, cut.height * aspect), min(cut.height, cut.width / aspect))


def visible_window(cut: Size, position: Point, aspect: float) -> Rect:
    """Which part of ``cut`` a box of ``aspect`` shows, in the cut's own pixels.

    For one position the windows of all aspects are nested: a narrower box (below the
    cut's own aspect) shows a part of what a wider one shows, and the other way round
    above it. So the narrowest and the widest box decide for all between them.
    """
    window = window_size(cut, aspect)
    left = position.x * (cut.width - window.width)
    top = position.y * (cut.height - window.height)
    return Rect(left, top, left + window.width, top + window.height)


CENTRE = Point(0.5, 0.5)

NEARNESS = (1.01, 1.05, 1.12, 1.25, 1.5, 2.0)
"""Factors within which a cut's aspect is looked for round the wanted one."""

LATTICE = 32
"""Cuts begin at multiples of this part of the source's sides where nothing speaks against it, so
that a subject that is moved a little leaves most cuts, and with them their files, as they are."""


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


class Closeness(Enum):
    """How much of the scene round the subject is shown."""

    WIDE = "wide"
    """As much of the scene as can be."""
    HALFWAY = "halfway"
    CLOSE = "close"
    """As close to the subject as its place in every window and the pixels allow."""


def whole(source: Size, position: Point = CENTRE) -> Cut:
    """The cut that leaves nothing out."""
    return Cut(Rect(0, 0, source.width, source.height), position)


def cut_at_position(source: Size, aspects: Span, position: Point) -> Cut:
    """The largest cut without waste, placed where ``position`` puts it, as CSS would."""
    size = window_size(source, aspects.clamp(source.aspect))
    left = position.x * (source.width - size.width)
    top = position.y * (source.height - size.height)
    return Cut(Rect(left, top, left + size.width, top + size.height), position)


def find_cut(
    wish: CutWish, closeness: Closeness, sharp: Size | None = None, aspect: float | None = None
) -> Cut | None:
    """A cut that holds to a wish in every box of its stage, or None where there is none.

    Its aspect lies within those of the boxes, so no pixel is shipped that no box shows. The
    subject keeps the place that the composition gave it (a third from the left stays a
    third from the left, in every window) unless it has to move.

    Args:
        wish: what has to hold.
        closeness: how much of the scene to show.
        sharp: the least size of a cut, in source px, at which no screen is short of pixels;
            coming closer stops there.
        aspect: the shape that serves most screens best; the cut comes as near to it as it can.
    """
    if wish.copy is not None:
        # Mostly the copy is in nobody's way: then the cut without it is the best one too.
        cut = find_cut(replace(wish, copy=None), closeness, sharp, aspect)
        if cut is None or is_clear(cut, wish.copy, wish.subjects, wish.aspects):
            return cut
    best: tuple[float, Bounds, CutSize] | None = None
    for bounds, sizes in _feasible(wish, (), _sizes_within(wish.source, wish.aspects)):
        size = _choose(_near(sizes, aspect), wish.source, closeness, sharp)
        scene = _scene(size, wish.source)
        if best is None or scene > best[0] + HAIR:
            best = (scene, bounds, size)
    return _placed(wish, best[1], best[2]) if best else None


def is_clear(cut: Cut, copy: Rect, subjects: Sequence[Rect], aspects: Span) -> bool:
    """Whether the copy lies beside every subject in every box of these aspects.

    Args:
        cut: what is shown.
        copy: its box, in fractions of the picture's box.
        subjects: in source px.
        aspects: of the boxes; the cut's own is among them.
    """
    narrow, whole_cut, wide = (
        copy_in(cut.seen_at(aspect), copy)
        for aspect in (aspects.low, cut.area.size.aspect, aspects.high)
    )
    return all(
        any(
            _lies(narrow, subject, side.value[0])
            and _lies(whole_cut, subject, side.value[0])
            and _lies(whole_cut, subject, side.value[1])
            and _lies(wide, subject, side.value[1])
            for side in CopySide
        )
        for subject in subjects
    )


def copy_in(window: Rect, copy: Rect) -> Rect:
    """Where the copy (in fractions of the picture's box) lies in what the box shows."""
    part = copy.scaled(window.size)
    return Rect(
        window.left + part.left,
        window.top + part.top,
        window.left + part.right,
        window.top + part.bottom,
    )


def _lies(copy: Rect, subject: Rect, where: str) -> bool:
    if where == "left":
        return copy.right <= subject.left
    if where == "right":
        return copy.left >= subject.right
    return copy.bottom <= subject.top if where == "above" else copy.top >= subject.bottom


def _feasible(
    wish: CutWish, chosen: tuple[CopySide, ...], among: Polygon
) -> Iterator[tuple[Bounds, Polygon]]:
    """All ways to put the copy beside each subject, with the cut sizes that they leave."""
    bounds = bounds_for(wish, chosen)
    slack = HAIR * max(wish.source.width, wish.source.height)
    conditions = chain(bounds.across.conditions(), bounds.down.conditions())
    sizes = clipped(among, conditions, slack)
    if not sizes:
        return
    if wish.copy is None or len(chosen) == len(wish.subjects):
        yield bounds, sizes
        return
    for side in CopySide:
        yield from _feasible(wish, (*chosen, side), sizes)


def _sizes_within(source: Size, aspects: Span) -> Polygon:
    """The sizes of a cut that fit into the source and whose aspect some box has."""
    least = 1e-3 * min(1.0, source.width, source.height)
    widest, highest = window_size(source, aspects.high), window_size(source, aspects.low)
    is_between = aspects.low < source.aspect < aspects.high
    return (
        (aspects.low * least, least),
        (aspects.high * least, least),
        (widest.width, widest.height),
        *(((source.width, source.height),) if is_between else ()),
        (highest.width, highest.height),
    )


def _near(sizes: Polygon, aspect: float | None) -> Polygon:
    """Of the sizes those of about an aspect, or of the nearest to it that there are."""
    for factor in NEARNESS if aspect else ():
        low, high = aspect / factor, aspect * factor  # type: ignore[operator]
        band = (Linear(1, -low, 0), Linear(-1, high, 0))
        if found := clipped(sizes, band, 0.0):
            return found
    return sizes


def _scene(size: CutSize, source: Size) -> float:
    """How much of the scene a cut shows: its share of the source's width and height, added."""
    return size[0] / source.width + size[1] / source.height


def _choose(sizes: Polygon, source: Size, closeness: Closeness, sharp: Size | None) -> CutSize:
    largest = max(sizes, key=lambda size: _scene(size, source))
    if closeness is Closeness.WIDE:
        return largest
    if sharp:
        enough = (WIDTH - constant(sharp.width), HEIGHT - constant(sharp.height))
        sizes = clipped(sizes, enough, 0.0) or (largest,)
    smallest = min(sizes, key=lambda size: _scene(size, source))
    if closeness is Closeness.CLOSE:
        return smallest
    # Halfway between two sizes that hold lies a third that holds: the polygon is convex.
    return (largest[0] + smallest[0]) / 2, (largest[1] + smallest[1]) / 2


def _placed(wish: CutWish, bounds: Bounds, size: CutSize) -> Cut:
    width, height = size
    middle, source = wish.subject.centre, wish.source
    left, x = _anchored(bounds.across, size, middle.x / source.width, (source.width, width))
    top, y = _anchored(bounds.down, size, middle.y / source.height, (source.height, height))
    return Cut(Rect(left, top, left + width, top + height), Point(x, y))


def _anchored(
    axis: Axis, size: CutSize, share: float, lengths: tuple[float, float]
) -> tuple[float, float]:
    """Where the cut starts, and its position, with the subject at ``share`` if that can be."""
    source, cut = lengths
    spare = axis.spare.at(*size)
    smallest = cut - spare
    start, inner = axis.place(
        size, share * (source - cut), share * (source - smallest), source / LATTICE
    )
    start = min(max(start, 0.0), source - cut)
    position = (inner - start) / spare if spare > HAIR * source else share
    return start, min(max(position, 0.0), 1.0)


def scaled_wish(wish: CutWish, share: float) -> CutWish:
    """The same wish with the subjects ``share`` times as large, about their common middle."""
    middle = wish.subject.centre
    return replace(wish, subjects=tuple(_scaled_about(one, middle, share) for one in wish.subjects))


def _scaled_about(rect: Rect, middle: Point, share: float) -> Rect:
    return Rect(
        middle.x + (rect.left - middle.x) * share,
        middle.y + (rect.top - middle.y) * share,
        middle.x + (rect.right - middle.x) * share,
        middle.y + (rect.bottom - middle.y) * share,
    )
