"""What the page is told of one backdrop, as JSON: its geometry, what was proved, ways out.

Lengths of windows and boxes are CSS px, those of pictures source px, and places in them fractions,
as in the core; the page does the same arithmetic with them (``pages/geometry.js``).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from brightcanvas.adjusting.looks import PreviewCache
from brightcanvas.brief.brief import Brief, Copy, Slot
from brightcanvas.brief.by_breakpoint import Written
from brightcanvas.delivery.rule_text import gradient
from brightcanvas.framing.compromise import CutOrder
from brightcanvas.framing.size_variants import rung_for
from brightcanvas.framing.stages import Element, Stage, ViewportBox
from brightcanvas.framing.usual_screens import usual_in
from brightcanvas.framing.weights import UNTRIED
from brightcanvas.ledger.record import told_screens
from brightcanvas.plan.planned import BackdropPlan, Picture, PlannedVariant, lost_share
from brightcanvas.plan.planning import element_of, is_cut, usual_of
from brightcanvas.plan.remedies import WayOut, found_ways
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.serving.network_profiles import LINES
from brightcanvas.tasks.copy import Legibility
from brightcanvas.values.element_boxes import AspectHeight, HeightRule, MeasuredBoxes
from brightcanvas.values.geometry import Rect, Size, Span, plain_number
from brightcanvas.values.legible import Scrim
from brightcanvas.values.lengths import ABSOLUTE, Amount, Calculation, Combined
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class CheckedBackdrop:
    """One backdrop with all that is known of it."""

    brief: Brief
    plan: BackdropPlan
    written: Mapping[str, Mapping[str, Written]]
    legibility: Mapping[PlannedVariant, Legibility]
    verdicts: Sequence[Verdict]
    has_ways: bool = False
    """Whether ways out were looked for."""


def offered(proved: CheckedBackdrop, verdict: Verdict) -> list[Json]:
    """For a promise that doesn't hold: what a button would say, and the changes it makes."""
    if verdict.state not in (State.BROKEN, State.NOTE) or not proved.has_ways:
        return []
    views = (one for one in proved.plan.views)
    view = next((v for v in views if v.slot.breakpoint.full_name == verdict.breakpoint), None)
    if view is None or view.picture is None:
        return []
    if verdict.promise in ("in view", "clear of the subject"):
        ways = found_ways(view.picture)
        return [one for way in ways if (one := _of_way(proved, view, way))]
    if verdict.promise == "readable":
        return _readable(proved, view)
    return _calm(proved, view) if verdict.promise == "calm behind the copy" else []


def _of_way(proved: CheckedBackdrop, view: PlannedVariant, way: WayOut) -> Json | None:
    breakpoint_ = view.slot.breakpoint.whole
    if way.what == "breakpoint":
        taken = set(proved.written)
        names = [f"below-{way.amount:.0f}", *(f"below-{way.amount:.0f}-{n}" for n in range(2, 9))]
        name = next(one for one in names if one not in taken)
        value = {"name": name, "below": float(way.amount)}
        return _offer(f"A breakpoint at {way.amount:.0f} px", "", "", "breakpoint", value)
    written = proved.written[breakpoint_.name]["subject"]
    if way.what == "subject" and written.value and "point" not in written.value:
        smaller = _smaller(written.value, way.amount)
        says = f"The subject's box {way.amount:.0%} as large"
        return _offer(says, proved.plan.backdrop.name, written.at or "", "subject", smaller)
    return None


def _smaller(subject: Json, share: float) -> Json:
    """The boxes about their common middle."""
    boxes = subject.get("boxes") or [subject["box"]]
    x = (min(one[0] for one in boxes) + max(one[2] for one in boxes)) / 2
    y = (min(one[1] for one in boxes) + max(one[3] for one in boxes)) / 2
    share *= 0.999  # what is written is rounded
    scaled = [
        [round(m + (edge - m) * share, 4) for edge, m in zip(one, (x, y, x, y), strict=True)]
        for one in boxes
    ]
    return {**subject, **({"boxes": scaled} if "boxes" in subject else {"box": scaled[0]})}


def _readable(proved: CheckedBackdrop, view: PlannedVariant) -> list[Json]:
    found = proved.legibility.get(view)
    name = view.slot.breakpoint.whole.name
    written = proved.written[name]["scrim"]
    if found is None or found.least is None or (written.value or {}).get("least"):
        return []
    kept = {k: v for k, v in (written.value or {}).items() if k in ("colour", "side", "lines")}
    says = f"The least scrim that does, {found.least.strength:.0%}"
    at = written.at if written.at is not None else ""
    return [_offer(says, proved.plan.backdrop.name, at, "scrim", {"least": True, **kept})]


def _calm(proved: CheckedBackdrop, view: PlannedVariant) -> list[Json]:
    found = proved.legibility.get(view)
    if found is None or found.calming_blur is None:
        return []
    written = proved.written[view.slot.breakpoint.whole.name]["tone"]
    value = {**(written.value or {}), "soften": found.calming_blur}
    says = f"Soften by {found.calming_blur:g} px"
    at = written.at if written.at is not None else ""
    return [_offer(says, proved.plan.backdrop.name, at, "tone", value)]


def _offer(says: str, backdrop: str, at: str, key: str, value: Any) -> Json:  # noqa: ANN401
    change = {"backdrop": backdrop, "breakpoint": at, "key": key, "value": value}
    return {"says": says, "changes": [change]}


Json = dict[str, Any]

SLOW = LINES[1]
"""The line over which loads are played through."""


def scene_of(proved: CheckedBackdrop, looks: PreviewCache) -> Json:
    """One backdrop for the page."""
    plan = proved.plan
    return {
        "name": plan.backdrop.name,
        "element": plan.backdrop.element,
        "plays": bool(plan.backdrop.clip),
        "views": [_view(proved, view, looks) for view in plan.views],
        "written": {
            name: {key: [one.value, one.at] for key, one in keys.items()}
            for name, keys in proved.written.items()
        },
        "verdicts": [
            {**asdict(one), "state": one.state.value, "offers": offered(proved, one)}
            for one in proved.verdicts
        ],
        "loads": list(_loads(proved)),
        "line": SLOW.name,
    }


def _view(proved: CheckedBackdrop, view: PlannedVariant, looks: PreviewCache) -> Json:
    slot, picture = view.slot, view.picture
    part = slot.breakpoint
    found = proved.legibility.get(view)
    behind = slot.behind or (looks.behind(picture) if picture else None)
    return {
        "name": part.full_name,
        "breakpoint": part.whole.name,
        "low": part.widths.low,
        "high": _finite(part.widths.high),
        "orientation": part.orientation.value if part.orientation else None,
        "element": element_facts(element_of(slot)),
        "picture": _picture(view, picture, looks) if picture else None,
        "behind": behind.css if behind else "#ffffff",
        "copy": _copy(slot.copy, picture) if slot.copy else None,
        "scrim": _scrim(found.scrim, slot.copy.box) if found and slot.copy else None,
        "spot": _spot(picture, found, slot) if picture and found else None,
        "screens": [_screen(one) for one in _screens(proved.brief, view)],
        "worst": list(_worst(picture)) if picture and is_cut(slot) else [],
    }


def _finite(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _screens(brief: Brief, view: PlannedVariant) -> Sequence[Screen]:
    part = view.slot.breakpoint
    return usual_in(usual_of(brief), part.widths, part.orientation)


def _screen(one: Screen) -> Json:
    viewport = one.viewport
    return {
        "name": one.name, "width": viewport.width, "height": viewport.height,
        "density": one.density,
    }  # fmt: skip


def element_facts(element: Element) -> Json:
    """How a box follows from the viewport."""
    return {
        "height": _height(element.height),
        "share": element.width.share,
        "most": _finite(element.width.most),
        "growth": element.growth,
        "padding": [_length(element.padding.above), _length(element.padding.below)],
        "drift": element.drift,
        "fixed": element.fixed,
        "boxes": _boxes(element.measured) if element.measured else None,
    }


def _boxes(boxes: MeasuredBoxes) -> list[Any]:
    """By the window's width, and by its height there, the box."""
    return [
        [width, [[height, _sides(box)] for height, box in column]]
        for width, column in boxes.columns
    ]


def _height(rule: HeightRule) -> Json:
    if isinstance(rule, AspectHeight):
        return {"aspect": [rule.across, rule.down]}
    return _length(rule.length)


def _length(length: Calculation) -> Json:
    """A calculation as a tree: numbers and units (none: CSS px), and what is done with them."""
    if isinstance(length, Amount):
        px = ABSOLUTE.get(length.unit)
        number, unit = (length.number * px, "") if px else (length.number, length.unit)
        return {"number": number, "unit": unit}
    if isinstance(length, Combined):
        return {"does": length.function, "parts": [_length(one) for one in length.parts]}
    does = "divide" if length.divides else "multiply"
    return {"does": does, "parts": [_length(length.first), _length(length.second)]}


def _picture(view: PlannedVariant, picture: Picture, looks: PreviewCache) -> Json:
    slot, facts = view.slot, picture.facts
    return {
        "look": looks.look_of(picture).name,
        "source": facts.path.name,
        "size": _sides(picture.size),
        "second": picture.offer.poster_at,
        "seconds": facts.seconds,
        "cut": _edges(picture.cut.area),
        "position": [picture.cut.position.x, picture.cut.position.y],
        "subjects": [_edges(one) for one in picture.subjects],
        "covers": is_cut(slot),
        "fit": slot.fit.css,
        "repeat": slot.repeat,
        "order": order_facts(picture.order, picture.stage) if picture.order else None,
    }


def order_facts(order: CutOrder, stage: Stage) -> Json:
    """What is wished of a cut, so that the page can make it again for another subject."""
    wish = order.wish
    return {
        "source": _sides(wish.source),
        "aspects": _ends(wish.aspects),
        "subjects": [_edges(one) for one in wish.subjects],
        "copy": _edges(wish.copy) if wish.copy else None,
        "hidden": wish.hidden,
        "drifts": stage.hidden,
        "margin": order.margin,
        "closeness": order.closeness.value,
        "sharp": _sides(order.sharp) if order.sharp else None,
        "aspect": order.aspect,
        "usual": _ends(order.usual) if order.usual else None,
    }


def _edges(area: Rect) -> list[float]:
    return list(area.edges)


def _sides(size: Size) -> list[float]:
    return [size.width, size.height]


def _ends(span: Span) -> list[float]:
    return [span.low, span.high]


def _copy(copy: Copy, picture: Picture | None) -> Json:
    letters = copy.letters
    return {
        "box": _edges(copy.box),
        "places": list(_places(picture)) if copy.windows and picture else [],
        "clear": copy.clear_of_subject,
        "colour": letters.colour.css if letters else None,
        "size": letters.size if letters else 16,
        "bold": bool(letters and letters.bold),
    }


def _places(picture: Picture) -> Iterator[list[Any]]:
    """Where measured copy lies in boxes of some aspects: each from, to, and its edges."""
    is_still = not picture.stage.hidden
    for place in (place for part in picture.copies for place in part.places if is_still):
        yield [*_ends(place.aspects), [round(edge, 4) for edge in place.box.edges]]


def _scrim(scrim: Scrim | None, copy: Rect) -> Json | None:
    if scrim is None:
        return None
    return {"css": gradient(scrim, copy), "strength": scrim.strength}


def _spot(picture: Picture, found: Legibility, slot: Slot) -> Json:
    """Where the copy is hardest to read: a window, and a place in source px."""
    area, (x, y) = picture.cut.area, found.place
    letters = slot.copy.letters if slot.copy else None
    wanted = letters.wanted_contrast if letters else 1.0
    return {
        "window": _window(picture.stage.sight_with(found.aspect)),
        "place": [area.left + x * area.width, area.top + y * area.height],
        "contrast": found.lowest,
        "plain": found.plain,
        "wanted": wanted,
    }


def _window(viewport_box: ViewportBox) -> list[int]:
    return [math.floor(viewport_box.viewport.width), math.floor(viewport_box.viewport.height)]


def _worst(picture: Picture) -> Iterator[Json]:
    """The windows at both ends, the one that loses most of the subject first."""
    ends = {"narrowest": picture.stage.narrowest, "widest": picture.stage.widest}
    lost = {name: _lost(picture, viewport_box) for name, viewport_box in ends.items()}
    for name in sorted(ends, key=lambda one: -lost[one]):
        yield {"says": name, "window": _window(ends[name])}


def _lost(picture: Picture, viewport_box: ViewportBox) -> float:
    return lost_share(picture, viewport_box.box.aspect) if picture.subjects else 0.0


def _loads(proved: CheckedBackdrop) -> Iterator[Json]:
    """What a phone, a tablet and a laptop load, foretold; and what the source as it is costs."""
    for screen in told_screens(usual_of(proved.brief)):
        views = proved.plan.views
        view = next((one for one in views if one.slot.breakpoint.has(screen.viewport)), None)
        picture = view.picture if view else None
        size_variant = rung_for(picture.size_variants, screen.density) if picture else None
        after = (
            picture.demand.bytes(size_variant.width, size_variant.density)
            if picture and size_variant
            else 0.0
        )
        before = max((one.picture.facts.bytes for one in views if one.picture), default=0)
        yield {
            "screen": f"{screen.name} {plain_number(screen.viewport.width)}@{screen.density:g}x",
            "window": _sides(screen.viewport),
            "before": before,
            "after": round(after),
            "before_seconds": SLOW.seconds(before) + SLOW.round_trip,
            "after_seconds": SLOW.seconds(after) + SLOW.round_trip if after else 0.0,
            "tried": bool(picture) and picture.tried != UNTRIED,  # type: ignore[union-attr]
        }
