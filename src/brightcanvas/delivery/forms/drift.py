"""A background on a layer of its own, which drifts while the page scrolls."""

from __future__ import annotations

from textwrap import indent

from brightcanvas.delivery.conditions import breakpoint_condition
from brightcanvas.delivery.forms.form import Form
from brightcanvas.delivery.sharing import INDENT, block, under
from brightcanvas.ledger.model import BackdropRecord, Shown
from brightcanvas.values.geometry import plain_number


def drifts(shown: Shown) -> bool:
    """Whether the picture is on a layer of its own that drifts while the page scrolls."""
    return shown.view.picture is not None and shown.view.slot.drift > 0


def layer_of(element: str) -> str:
    """The selector of the layer behind an element's content that a drifting picture is on."""
    return f":is({element})::before" if "," in element else f"{element}::before"


def _rules(record: BackdropRecord, shown: Shown) -> list[str]:
    """The layer that drifts at one part, and how it moves."""
    if not drifts(shown):
        return []
    slot = shown.view.slot
    name = f"drift-{record.name}-{slot.breakpoint.full_name}"
    rules = drift_rules(record.element, name, slot.drift)
    return [under(breakpoint_condition(slot.breakpoint), rules), keyframes(name, slot.drift)]


def drift_rules(element: str, name: str, travel: float) -> list[str]:
    """A layer higher than its element by the travel, which scrolling moves.

    The movement is a scroll-driven animation (Scroll-driven Animations 1, section 3);
    browsers without it, and people who asked for less motion, see the layer held still in
    the middle of its way.
    """
    distance = f"{plain_number(travel)}px"
    box = ["position: relative;", "isolation: isolate;", "overflow: hidden;", "overflow: clip;"]
    placed = [
        'content: "";',
        "position: absolute;",
        "z-index: -1;",
        "inset: 0 0 auto;",
        f"height: calc(100% + {distance});",
        f"transform: translateY(calc({distance} / -2));",
    ]
    moving = [f"animation: {name} linear both;", "animation-timeline: view();"]
    still = under("(prefers-reduced-motion: no-preference)", [block(layer_of(element), moving)])
    return [
        block(element, box),
        block(layer_of(element), placed),
        f"@supports (animation-timeline: view()) {{\n{indent(still, INDENT)}\n}}",
    ]


def keyframes(name: str, travel: float) -> str:
    """From the layer's lower end to its upper one while the element crosses the window."""
    distance = f"{plain_number(travel)}px"
    begin = f"from {{ transform: translateY(-{distance}); }}"
    return f"@keyframes {name} {{\n  {begin}\n  to {{ transform: none; }}\n}}"


DRIFT = Form(concerns=lambda record: any(map(drifts, record.shown)), rules=_rules)
