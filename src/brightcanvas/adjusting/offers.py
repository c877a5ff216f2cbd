"""Ways out of what does not hold, as changes of the brief that one press of a button makes."""

from __future__ import annotations

from typing import Any

from brightcanvas.adjusting.proved import Proved
from brightcanvas.plan.model import View
from brightcanvas.plan.remedies import WayOut, found_ways
from brightcanvas.promises.verdict import State, Verdict

Json = dict[str, Any]


def offered(proved: Proved, verdict: Verdict) -> list[Json]:
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


def _of_way(proved: Proved, view: View, way: WayOut) -> Json | None:
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


def _readable(proved: Proved, view: View) -> list[Json]:
    found = proved.legibility.get(view)
    name = view.slot.breakpoint.whole.name
    written = proved.written[name]["scrim"]
    if found is None or found.least is None or (written.value or {}).get("least"):
        return []
    kept = {k: v for k, v in (written.value or {}).items() if k in ("colour", "side", "lines")}
    says = f"The least scrim that does, {found.least.strength:.0%}"
    at = written.at if written.at is not None else ""
    return [_offer(says, proved.plan.backdrop.name, at, "scrim", {"least": True, **kept})]


def _calm(proved: Proved, view: View) -> list[Json]:
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
