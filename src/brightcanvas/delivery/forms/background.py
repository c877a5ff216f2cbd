"""The usual form: a background picture of the style sheet."""

from __future__ import annotations

from textwrap import indent

from brightcanvas.brief.brief import Slot
from brightcanvas.delivery.candidates import is_newer, layers_of
from brightcanvas.delivery.forms.form import Form
from brightcanvas.delivery.rule_text import (
    INDENT,
    Declaration,
    block,
    css_string,
    declared,
    gradient,
    position_text,
    under,
)
from brightcanvas.ledger.record import Addresses, BackdropRecord, PublishedVariant
from brightcanvas.values.geometry import WHOLE, plain_number
from brightcanvas.values.layers import Exact, with_picture


def drifts(shown: PublishedVariant) -> bool:
    """Whether the picture is on a layer of its own that drifts while the page scrolls."""
    return shown.view.picture is not None and shown.view.slot.drift > 0


def layer_of(element: str) -> str:
    """The selector of the layer behind an element's content that a drifting picture is on."""
    return f":is({element})::before" if "," in element else f"{element}::before"


def _rules(record: BackdropRecord, shown: PublishedVariant) -> list[str]:
    """The layer that drifts at one part, and how it moves."""
    if not drifts(shown):
        return []
    slot = shown.view.slot
    name = f"drift-{record.name}-{slot.breakpoint.full_name}"
    rules = drift_rules(record.element, name, slot.drift)
    return [under(slot.breakpoint.when.media, rules), keyframes(name, slot.drift)]


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


def _lines(
    record: BackdropRecord, shown: PublishedVariant, addresses: Addresses
) -> list[Declaration]:
    return declared(_target(record, shown), layer_lines(shown, addresses))


def layer_lines(shown: PublishedVariant, addresses: Addresses) -> list[str]:
    """The picture, and how it lies in its box; for browsers of any age first."""
    slot, picture = shown.view.slot, shown.view.picture
    if picture is None or shown.oldest is None:
        return ["background-image: none;"]
    plain = [f"url({css_string(addresses.of(shown.oldest.file))})"]
    if not is_newer(shown):
        plain = list(dict.fromkeys([*plain, *layers_of(shown, addresses)]))
    position, repeat, size = position_text(picture.cut.position), _repeat(slot), slot.fit.css
    if slot.keeps_rule:
        return [*_images(shown, plain), *_stated_size(slot), *_stated_place(slot, position)]
    if shown.scrim and not shown.is_covered:  # a layer of its own, which always fills the box
        position, size, repeat = f"0 0, {position}", f"auto, {size}", f"no-repeat, {repeat}"
    return [
        *_images(shown, plain),
        f"background-position: {position};",
        f"background-size: {size};",
        f"background-repeat: {repeat};",
        *_attachment_lines(slot),
    ]


def _stated_size(slot: Slot) -> list[str]:
    """A picture that is drawn in its own px: they are stated, for ours has other ones."""
    if not isinstance(slot.fit, Exact):
        return []
    size = f"{slot.fit.css} auto"
    return [f"background-size: {with_picture(slot.layers, size, others='auto')};"]


def _stated_place(slot: Slot, position: str) -> list[str]:
    """A picture that lies otherwise than the page has it, so that its subject stays in view."""
    if not slot.places_picture:
        return []
    return [f"background-position: {with_picture(slot.layers, position, others='0% 0%')};"]


def newer_lines(shown: PublishedVariant, addresses: Addresses) -> list[str]:
    """The picture for browsers that read the newer formats."""
    return _images(shown, layers_of(shown, addresses)) if is_newer(shown) else []


def _images(shown: PublishedVariant, layers: list[str]) -> list[str]:
    return [f"background-image: {_layered(shown, one)};" for one in layers]


def _layered(shown: PublishedVariant, picture_layer: str) -> str:
    """The picture with its scrim above it, if there is one."""
    slot, picture = shown.view.slot, shown.view.picture
    if slot.keeps_rule:
        return with_picture(slot.layers, picture_layer)
    if shown.scrim is None or shown.is_covered or picture is None:
        return picture_layer
    return f"{gradient(shown.scrim, picture.copy or WHOLE)}, {picture_layer}"


def _repeat(slot: Slot) -> str:
    """Whole tiles along every axis on which the picture repeats."""
    if not slot.whole_motifs:
        return slot.repeat
    rounded = {"repeat": "round", "repeat-x": "round no-repeat", "repeat-y": "no-repeat round"}
    return rounded.get(slot.repeat, slot.repeat)


def _attachment_lines(slot: Slot) -> list[str]:
    """Said even where it is usual: a page's own ``fixed`` would size the picture to the window."""
    return [f"background-attachment: {slot.attachment};"]


def _newer(
    record: BackdropRecord, shown: PublishedVariant, addresses: Addresses
) -> list[Declaration]:
    return declared(_target(record, shown), newer_lines(shown, addresses))


def _target(record: BackdropRecord, shown: PublishedVariant) -> str:
    return layer_of(record.element) if drifts(shown) else record.element


BACKGROUND = Form(
    concerns=lambda record: record.backdrop.form == "background", lines=_lines, newer=_newer
)
