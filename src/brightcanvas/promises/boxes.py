"""The promise *boxes*: what is planned for are the boxes that the element has on the page."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict

NAME = "boxes"
AGAIN = "bright-canvas measure PAGE"


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """A verdict on each backdrop whose boxes were measured, or are nowhere stated."""
    for one in facts.plan.backdrops:
        slots = [view.slot for view in one.views if view.picture]
        if any(slot.is_stale for slot in slots):
            says = "measured before the page was changed"
            yield _told(one.backdrop.name, State.NOTE, says, f"measure them again: {AGAIN}")
        elif boxes := next((slot.boxes for slot in slots if slot.boxes), None):
            says = f"as the page has them, in {len(boxes.windows)} windows"
            yield _told(one.backdrop.name, State.HOLDS, says)
        elif any(not slot.height_is_stated for slot in slots):
            says = "no height is stated, so the element keeps its own; planned for 60svh"
            remedy = f"state height, or measured = 'boxes.json' and {AGAIN}"
            yield _told(one.backdrop.name, State.NOT_MEASURED, says, remedy)


def _told(backdrop: str, state: State, says: str, remedy: str = "") -> Verdict:
    return Verdict(NAME, backdrop, "every breakpoint", state, says, margin=0, remedy=remedy)
