"""The best cut there is, when not everything that is wished for can hold, and the ways out."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from brightcanvas.framing.cuts import Closeness, Cut, find_cut, scaled_wish
from brightcanvas.framing.wishes import CutWish
from brightcanvas.values.geometry import Rect, Size, Span

HALVINGS = 10
"""Steps of the searches by halving: they end within a thousandth of their range."""

LARGEST_CANVAS = 6.0
"""How many times as long a side of another source is tried at most."""


@dataclass(frozen=True)
class CutOrder:
    """What is wished of a cut, and what may give way."""

    wish: CutWish
    """With the subjects as they are, without a margin."""
    margin: float = 0.0
    """Source px that should stay free round the subjects."""
    closeness: Closeness = Closeness.WIDE
    sharp: Size | None = None
    """See find_cut."""
    aspect: float | None = None
    """See find_cut."""
    usual: Span | None = None
    """Aspects of the usual screens' boxes: where not all windows can be served, these are."""


@dataclass(frozen=True)
class Framed:
    """A cut, and how much of the order it keeps."""

    cut: Cut
    gave_way: tuple[str, ...] = ()
    """Of ``margin``, ``copy`` and ``subject``, what does not hold in every box."""
    share: float = 1.0
    """How large a part of the subject, about its middle, is in view in every box.

    0 where one of several subjects is lost."""


def frame(order: CutOrder) -> Framed:
    """The cut that keeps most of an order.

    The margin gives way first, then windows that next to nobody has, then the copy's place beside
    the subject, then the last named of several subjects, and the first one at last.
    """
    for wish, gave_way in _tries(order):
        if cut := find_cut(wish, order.closeness, order.sharp, order.aspect):
            return Framed(cut, gave_way)
    wish = replace(_for_usual(order.wish, order), copy=None)
    lost: tuple[str, ...] = ("windows",) if wish.aspects != order.wish.aspects else ()
    lost += ("subject", "copy") if order.wish.copy else ("subject",)
    for count in range(len(wish.subjects) - 1, 0, -1):
        fewer = replace(wish, subjects=wish.subjects[:count])
        if cut := find_cut(fewer, order.closeness, order.sharp, order.aspect):
            return Framed(cut, lost, 0.0)
    first = replace(wish, subjects=wish.subjects[:1])
    cut, share = _largest_part(first)
    return Framed(cut, lost, share if len(wish.subjects) == 1 else 0.0)


def _tries(order: CutOrder) -> Iterator[tuple[CutWish, tuple[str, ...]]]:
    """What is tried in turn, with what gives way in it."""
    margins = (order.margin, 0.0) if order.margin else (0.0,)
    everywhere = order.wish
    at_usual = _for_usual(everywhere, order)
    for copy in (everywhere.copy, None) if everywhere.copy else (None,):
        for wish in (everywhere, at_usual) if at_usual != everywhere else (everywhere,):
            for margin in margins:
                lost = (
                    *(["margin"] if margin != order.margin else []),
                    *(["windows"] if wish is not everywhere else []),
                    *(["copy"] if copy is None and everywhere.copy else []),
                )
                yield replace(_with_margin(wish, margin), copy=copy), lost


def _for_usual(wish: CutWish, order: CutOrder) -> CutWish:
    return replace(wish, aspects=order.usual) if order.usual else wish


def _with_margin(wish: CutWish, margin: float) -> CutWish:
    """The subjects with the margin round them, as far as the source reaches."""
    if not margin:
        return wish
    source = wish.source
    wider = (
        Rect(
            max(0.0, one.left - margin),
            max(0.0, one.top - margin),
            min(source.width, one.right + margin),
            min(source.height, one.bottom + margin),
        )
        for one in wish.subjects
    )
    return replace(wish, subjects=tuple(wider))


def _largest_part(wish: CutWish) -> tuple[Cut, float]:
    """A cut that shows as large a part of the subject as can be, and how large that is.

    A single point can always be shown, so halving has a place to start from.
    """
    cut = find_cut(scaled_wish(wish, 0.0), Closeness.WIDE)
    assert cut is not None
    holds, fails = 0.0, 1.0
    for _ in range(HALVINGS):
        share = (holds + fails) / 2
        if better := find_cut(scaled_wish(wish, share), Closeness.WIDE):
            cut, holds = better, share
        else:
            fails = share
    return cut, holds


def smaller_subject(order: CutOrder) -> float | None:
    """How large the subject's box may be (1 is as it is) for the whole order to hold."""
    holds, fails = 0.0, 1.0
    if find_cut(scaled_wish(order.wish, 0.0), Closeness.WIDE) is None:
        return None
    for _ in range(HALVINGS):
        share = (holds + fails) / 2
        if find_cut(scaled_wish(order.wish, share), Closeness.WIDE):
            holds = share
        else:
            fails = share
    return holds


def other_source(order: CutOrder) -> Size | None:
    """The least larger source, with more scene round the same subject, that would do.

    More height above and below and more width left and right are tried, each shared out as
    the scene lies now; the one that needs fewer pixels is taken.
    """
    found = [
        size
        for across in (True, False)
        if (size := _least_canvas(order.wish, across=across)) is not None
    ]
    return min(found, key=lambda size: size.width * size.height, default=None)


def _least_canvas(wish: CutWish, *, across: bool) -> Size | None:
    holds, fails = LARGEST_CANVAS, 1.0
    if find_cut(_on_canvas(wish, holds, across=across), Closeness.WIDE) is None:
        return None
    for _ in range(HALVINGS):
        factor = (holds + fails) / 2
        if find_cut(_on_canvas(wish, factor, across=across), Closeness.WIDE):
            holds = factor
        else:
            fails = factor
    return _on_canvas(wish, holds, across=across).source


def _on_canvas(wish: CutWish, factor: float, *, across: bool) -> CutWish:
    """The same scene with more round it: one side of the source ``factor`` times as long."""
    source, middle = wish.source, wish.subject.centre
    wide, high = (factor, 1.0) if across else (1.0, factor)
    right = (wide - 1) * middle.x
    down = (high - 1) * middle.y
    moved = tuple(
        Rect(one.left + right, one.top + down, one.right + right, one.bottom + down)
        for one in wish.subjects
    )
    return replace(wish, source=Size(source.width * wide, source.height * high), subjects=moved)


def other_breakpoint(
    order: CutOrder, widths: Span, aspects_of: Sequence[tuple[float, Span, Span]]
) -> float | None:
    """The width at which one more breakpoint would let both sides hold.

    Args:
        order: what does not hold over the whole breakpoint.
        widths: of the breakpoint, CSS px.
        aspects_of: for each width to try, the aspects of the boxes below and from it on.
    """
    for width, below, above in sorted(aspects_of, key=lambda one: abs(one[0] - _middle(widths))):
        sides = (replace(order.wish, aspects=part) for part in (below, above))
        if all(find_cut(wish, Closeness.WIDE) for wish in sides):
            return width
    return None


def _middle(widths: Span) -> float:
    return (widths.low + widths.high) / 2
