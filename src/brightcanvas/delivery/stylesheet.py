"""The style sheet: colour first, then the old format, then the newer ones above it."""

from __future__ import annotations

import math
from textwrap import indent

from brightcanvas.delivery.candidates import READS_NEWER
from brightcanvas.delivery.conditions import breakpoint_condition
from brightcanvas.delivery.css_values import gradient
from brightcanvas.delivery.force import forced
from brightcanvas.delivery.forms import forms_of
from brightcanvas.delivery.forms.form import LAYER
from brightcanvas.delivery.sharing import INDENT, Line, Part, block, shared_rules, under
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord, Record, Shown
from brightcanvas.values.geometry import WHOLE, plain_number
from brightcanvas.values.heights import AspectHeight, HeightRule
from brightcanvas.values.paddings import padding_lines
from brightcanvas.values.widths import ElementWidth


def stylesheet(record: Record, addresses: Addresses) -> str:
    """The whole style sheet; pictures are looked for at their addresses."""
    ruled = (one for one in record.backdrops if one.backdrop.form != "img")
    rules = "\n".join(backdrop_rules(one, addresses) for one in ruled)
    return f"@layer {record.layer} {{\n{indent(rules, INDENT)}}}\n" if record.layer else rules


def backdrop_rules(record: BackdropRecord, addresses: Addresses) -> str:
    """The rules of one backdrop."""
    forms = forms_of(record)
    rules = [
        f"/* {record.name} */",
        *(rule for form in forms for rule in form.base(record)),
        *shared_rules([_part(record, one, addresses) for one in record.shown]),
        *_for_newer(record, addresses),
        *(rule for one in record.shown for form in forms for rule in form.rules(record, one)),
        *_heights_without_aspects(record),
    ]
    text = "\n".join(rules) + "\n"
    return forced(text) if record.backdrop.force else text


def _for_newer(record: BackdropRecord, addresses: Addresses) -> list[str]:
    """What browsers are told that read the newer formats."""
    parts = [
        _of_part(
            one, [line for form in forms_of(record) for line in form.newer(record, one, addresses)]
        )
        for one in record.shown
    ]
    text = indent("\n".join(shared_rules(parts)), INDENT)
    return [f"@supports (width: {READS_NEWER}) {{\n{text}\n}}"] if text else []


def _of_part(shown: Shown, lines: list[Line]) -> Part:
    slot = shown.view.slot
    own = breakpoint_condition(slot.breakpoint.whole)
    return Part(breakpoint_condition(slot.breakpoint), own, tuple(lines))


def _part(record: BackdropRecord, shown: Shown, addresses: Addresses) -> Part:
    """Everything that holds for one part."""
    element = record.element
    lines = [
        *((element, one) for one in _box_lines(shown)),
        *(line for form in forms_of(record) for line in form.lines(record, shown, addresses)),
        *_scrim_above(element, shown),
    ]
    return _of_part(shown, lines)


def _box_lines(shown: Shown) -> list[str]:
    """The box and what stands behind the picture; none where the page's own rule stays."""
    slot = shown.view.slot
    if slot.keeps_rule:
        return []
    heights = _height_lines(slot.height) if slot.states_height else []
    return [*heights, *padding_lines(slot.padding), f"background-color: {shown.behind.css};"]


def _scrim_above(element: str, shown: Shown) -> list[Line]:
    """The scrim on a layer of its own, above all that covers the background."""
    picture = shown.view.picture
    if not (shown.is_covered and shown.scrim and picture):
        return []
    scrim = f"background-image: {gradient(shown.scrim, picture.copy or WHOLE)};"
    return [(f":is({element})::after", one) for one in ('content: "";', *LAYER, scrim)]


def _heights_without_aspects(record: BackdropRecord) -> list[str]:
    """For browsers without ``aspect-ratio``, where a box without content would have no height."""
    heights = {
        breakpoint_condition(one.view.slot.breakpoint): _share_of_width(height, one.view.slot.width)
        for one in record.shown
        if isinstance(height := one.view.slot.height, AspectHeight) and one.view.slot.states_height
    }
    if len(heights) == len(record.shown) and len(set(heights.values())) == 1:
        heights = {"": next(iter(heights.values()))}
    rules = [under(where, [block(record.element, [one])]) for where, one in heights.items()]
    text = indent("\n".join(rules), INDENT)
    return [f"@supports not (aspect-ratio: 1) {{\n{text}\n}}"] if rules else []


def _share_of_width(height: AspectHeight, width: ElementWidth) -> str:
    """The height that an aspect comes to: of the window's width, or of the widest element."""
    down = height.down / height.across
    share = f"{plain_number(round(width.share * down * 100, 2))}vw"
    if math.isinf(width.most):
        return f"min-height: {share};"
    return f"min-height: min({share}, {plain_number(round(width.most * down, 2))}px);"


def _height_lines(height: HeightRule) -> list[str]:
    if isinstance(height, AspectHeight):
        return [f"aspect-ratio: {height.css(modern=True)};"]
    older, newer = height.css(modern=False), height.css(modern=True)
    lines = [f"min-height: {older};"]
    return lines if older == newer else [*lines, f"min-height: {newer};"]
