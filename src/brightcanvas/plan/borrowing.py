"""Parts that next to nobody is in take the cut and the sizes of another part, and so its files."""

from __future__ import annotations

from dataclasses import replace

from brightcanvas.framing.cuts import is_clear
from brightcanvas.framing.sizes import worst_excess
from brightcanvas.framing.stages import Stage
from brightcanvas.framing.windows import window_size
from brightcanvas.plan.model import Picture, View
from brightcanvas.values.geometry import Size


def borrowed(views: tuple[View, ...]) -> tuple[View, ...]:
    """The views, those without usual screens with another one's files where they serve as well."""
    return tuple(_served(view, views) for view in views)


def _served(view: View, views: tuple[View, ...]) -> View:
    picture = view.picture
    if picture is None or picture.demand.usual or picture.order is None:
        return view
    lenders = [one.picture for one in views if one.picture and _is_alike(view, one)]
    for lender in sorted(lenders, key=lambda one: one.rungs[-1].width):
        if found := _with_files_of(picture, lender):
            return View(view.slot, found)
    return view


def _is_alike(view: View, other: View) -> bool:
    """Whether files made for one would be made in the same way for the other."""
    slot = replace(other.slot, breakpoint=view.slot.breakpoint, height=view.slot.height)
    assert view.picture is not None
    return (
        other.picture is not None
        and bool(other.picture.demand.usual)
        and slot == view.slot
        and other.picture.offer == view.picture.offer
    )


def _with_files_of(picture: Picture, lender: Picture) -> Picture | None:
    """The picture with another one's cut and sizes; None where they don't serve it."""
    if not _keeps(lender, picture.stage):
        return None
    framed = replace(lender.framed, gave_way=picture.framed.gave_way)
    demand = replace(lender.demand, stage=picture.stage, usual=())
    if worst_excess(demand, lender.rungs)[0] > demand.bound:
        return None
    return replace(picture, framed=framed, demand=demand, sizes=lender.sizes, lender=lender)


def _keeps(lender: Picture, stage: Stage) -> bool:
    """Whether a cut shows all subjects, clear of the copy, in every box of a stage."""
    cut, order = lender.cut, lender.order
    if order is None or lender.framed.gave_way:
        return False
    aspects = stage.aspects
    ends = (cut.seen_at(aspect) for aspect in (aspects.low, aspects.high))
    in_view = all(window.contains(one, 0.01) for window in ends for one in lender.subjects)
    copy = order.wish.copy
    shows_enough = _least_shown(cut.area.size, stage) > LEAST_SHOWN
    return (
        in_view
        and shows_enough
        and (copy is None or is_clear(cut, copy, order.wish.subjects, aspects))
    )


LEAST_SHOWN = 0.25
"""Share of a cut's area that each box shows at least; less is a blow-up."""


def _least_shown(cut: Size, stage: Stage) -> float:
    windows = (window_size(cut, one) for one in (stage.aspects.low, stage.aspects.high))
    return min(one.width * one.height for one in windows) / (cut.width * cut.height)
