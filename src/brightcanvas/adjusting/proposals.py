"""What would be better than the page as it stands: proposals, each with what it changes.

A brief that was drafted from a page gives the page back as it looks. What goes beyond that is
proposed here, with what usual screens show before and after, and stands in the brief only once it
is taken by its name.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from brightcanvas.adjusting.scene import CheckedBackdrop
from brightcanvas.adjusting.session import Session
from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.brief.rewriting import Change
from brightcanvas.delivery.rule_text import gradient
from brightcanvas.framing.size_variants import exact_bytes
from brightcanvas.ledger.record import told_screens
from brightcanvas.plan.planned import Picture, PlannedVariant, lost_share
from brightcanvas.plan.planning import is_cut, usual_of
from brightcanvas.promises.in_view import MISSED, missed_most
from brightcanvas.promises.verdict import State
from brightcanvas.tasks.copy import letters_of
from brightcanvas.values.geometry import Size
from brightcanvas.values.layers import PICTURE
from brightcanvas.values.screens import Screen

SHOWN = 480
"""Px across of a proposal's pictures, at most."""


@dataclass(frozen=True)
class Shot:
    """What an element shows of its picture on one screen."""

    file: bytes
    media_type: str
    box: Size
    """Of the element, CSS px."""
    scrim: str
    """CSS gradient above it; empty: none."""
    bytes: float
    """Foretold of the file for that screen."""
    says: str
    """The figure that the proposal is about."""


@dataclass(frozen=True)
class OnScreen:
    """One screen before and after."""

    screen: Screen
    before: Shot
    after: Shot


@dataclass(frozen=True)
class Proposal:
    """One thing that would be better."""

    name: str
    """By which it is taken: the backdrop's, a point, and a word."""
    says: str
    changes: tuple[Change, ...]
    """Of the brief."""
    screens: tuple[OnScreen, ...]


def proposals_of(session: Session, backdrop: str) -> Iterator[Proposal]:
    """What would be better about one backdrop, most seen first; none where nothing would.

    Raises:
        BrightCanvasError: the brief can't be used.
    """
    now = session.proved(backdrop)
    if found := _subject(session, now):
        yield found
    if found := _scrim(session, now):
        yield found


# What stands out stays in view


def _subject(session: Session, now: CheckedBackdrop) -> Proposal | None:
    seen = {view: session.suggested(view) for view in now.plan.views if _is_nameless(view)}
    missed = {view: found for view, found in seen.items() if found and missed_most(view, found)}
    if not missed:
        return None
    changes = _kept_in_view(session, now, missed)
    then = session.proved(now.plan.backdrop.name, changes)
    if not _is_kept(session, then):
        return None

    def figure(_: CheckedBackdrop, view: PlannedVariant, aspect: float) -> str:
        found = seen.get(view) or session.suggested(view)
        return _lost(view, found, aspect) if found else ""

    says = "what stands out in the picture stays in view"
    name = f"{now.plan.backdrop.name}.subject"
    return Proposal(name, says, changes, tuple(_shots(session, now, then, figure)))


def _is_kept(session: Session, then: CheckedBackdrop) -> bool:
    """Whether it is in view on each screen then: else a change would only spoil the picture."""
    for screen in told_screens(usual_of(then.brief)):
        view = _view_on(then, screen)
        found = session.suggested(view)
        if found and view.picture and is_cut(view.slot):
            box = view.picture.stage.grown_box(screen.viewport)
            if _share_lost(view.picture, found, box.aspect) > MISSED:
                return False
    return True


def _is_nameless(view: PlannedVariant) -> bool:
    return view.picture is not None and not view.picture.subjects and is_cut(view.slot)


def _kept_in_view(
    session: Session, now: CheckedBackdrop, missed: dict[PlannedVariant, Suggestion]
) -> tuple[Change, ...]:
    """A subject where each missed source is written, in place of every position of it.

    A box where all of it can be kept in view; else its middle, which can always be.
    """
    name = now.plan.backdrop.name
    places: dict[str, Suggestion] = {}
    for view, found in missed.items():
        places.setdefault(_written_at(now, view, "source"), found)
    taken_out = tuple(Change(name, at, "position", None) for at in _positions(now, places))
    for value in (_box, _point):
        named = (Change(name, at, "subject", value(found)) for at, found in places.items())
        changes = (*taken_out, *named)
        verdicts = session.proved(name, changes).verdicts
        if not any(one.promise == "in view" and one.state is State.BROKEN for one in verdicts):
            break
    return changes


def _written_at(now: CheckedBackdrop, view: PlannedVariant, key: str) -> str:
    """The breakpoint at which a value is written that holds in a view; empty: on the widest."""
    return now.written[view.slot.breakpoint.whole.name][key].at or ""


def _positions(now: CheckedBackdrop, sources: dict[str, Suggestion]) -> list[str]:
    """Where a position is written for one of the sources."""
    found = {
        at["position"].at: None
        for at in now.written.values()
        if at["position"].at is not None and (at["source"].at or "") in sources
    }
    return list(found)


def _box(found: Suggestion) -> dict[str, list[float]]:
    return {"box": [round(edge, 2) for edge in found.box.edges]}


def _point(found: Suggestion) -> dict[str, list[float]]:
    return {"point": [round(found.point.x, 2), round(found.point.y, 2)]}


def _lost(view: PlannedVariant, found: Suggestion, aspect: float) -> str:
    assert view.picture is not None
    share = _share_lost(view.picture, found, aspect)
    return f"{share:.0%} of what stands out is cut off" if share else "all that stands out is seen"


def _share_lost(picture: Picture, found: Suggestion, aspect: float) -> float:
    return lost_share(replace(picture, subjects=(found.box.scaled(picture.size),)), aspect)


# Copy that can be read


def _scrim(session: Session, now: CheckedBackdrop) -> Proposal | None:
    if not all(map(_may_be_veiled, now.plan.views)):
        return None
    copy = _copy_changes(now)
    told = session.proved(now.plan.backdrop.name, copy) if copy else now
    if any(map(_is_veiled, told.plan.views)) or all(
        _is_readable(told, view) for view in told.plan.views
    ):
        return None
    changes = (*copy, Change(now.plan.backdrop.name, "", "scrim", {"least": True}))
    then = session.proved(now.plan.backdrop.name, changes)
    if not all(_is_readable(then, view) for view in then.plan.views):
        return None
    says = "the weakest scrim with which the text above it can be read"
    name = f"{now.plan.backdrop.name}.scrim"
    return Proposal(name, says, changes, tuple(_shots(session, told, then, _contrast)))


def _contrast(proved: CheckedBackdrop, view: PlannedVariant, _: float) -> str:
    found = proved.legibility.get(view)
    return f"lowest contrast of the text {found.lowest:.2f}:1" if found else ""


def _is_veiled(view: PlannedVariant) -> bool:
    """Whether the page lays something above its picture: a second veil is proposed to nobody."""
    copy = view.slot.copy
    return copy is not None and any(one.is_veiled for one in copy.windows)


def _may_be_veiled(view: PlannedVariant) -> bool:
    """Whether nothing of ours lies above the picture yet, and it is cut as we know."""
    slot = view.slot
    return slot.layers == PICTURE and not slot.scrim and (view.picture is None or is_cut(slot))


def _copy_changes(now: CheckedBackdrop) -> tuple[Change, ...]:
    """Copy from the file that has the boxes, where the brief doesn't tell of any."""
    widest = next(iter(now.written.values()))
    if widest["copy"].value or not widest["measured"].value:
        return ()
    value = {"measured": widest["measured"].value}
    return (Change(now.plan.backdrop.name, "", "copy", value),)


def _is_readable(proved: CheckedBackdrop, view: PlannedVariant) -> bool:
    found = proved.legibility.get(view)
    letters = found.letters or letters_of(view) if found else None
    return found is None or letters is None or found.lowest >= letters.wanted_contrast


# What screens show


Figure = Callable[[CheckedBackdrop, PlannedVariant, float], str]
"""Of a view of what is known, in a box of that aspect."""


def _shots(
    session: Session, now: CheckedBackdrop, then: CheckedBackdrop, figure: Figure
) -> Iterator[OnScreen]:
    for screen in told_screens(usual_of(now.brief)):
        before, after = (_shot(session, one, screen, figure) for one in (now, then))
        if before and after:
            yield OnScreen(screen, before, after)


def _view_on(proved: CheckedBackdrop, screen: Screen) -> PlannedVariant:
    return next(v for v in proved.plan.views if v.slot.breakpoint.has(screen.viewport))


def _shot(session: Session, proved: CheckedBackdrop, screen: Screen, figure: Figure) -> Shot | None:
    view = _view_on(proved, screen)
    picture = view.picture
    if picture is None or not is_cut(view.slot):
        return None
    box = picture.stage.grown_box(screen.viewport)
    window = picture.cut.seen_at(box.aspect)
    across = min(SHOWN, round(box.width))
    file, media_type = session.looks.window(picture, window, across)
    return Shot(
        file, media_type, box, _scrim_css(proved, view, picture),
        exact_bytes(picture.demand, screen), figure(proved, view, box.aspect),
    )  # fmt: skip


def _scrim_css(proved: CheckedBackdrop, view: PlannedVariant, picture: Picture) -> str:
    found = proved.legibility.get(view)
    if found is None or found.scrim is None or picture.copy is None:
        return ""
    return gradient(found.scrim, picture.copy)
