"""The style sheet: colour first, then the old format, then the newer ones above it."""

from __future__ import annotations

from textwrap import indent

from brightcanvas.delivery.conditions import breakpoint_condition
from brightcanvas.delivery.css_values import gradient
from brightcanvas.delivery.force import forced
from brightcanvas.delivery.forms import forms_of
from brightcanvas.delivery.forms.form import LAYER
from brightcanvas.delivery.sharing import INDENT, Line, Part, shared_rules
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord, Record, Shown
from brightcanvas.values.heights import AspectHeight, HeightRule
from brightcanvas.values.paddings import padding_lines


def stylesheet(record: Record, addresses: Addresses) -> str:
    """The whole style sheet; pictures are looked for at their addresses."""
    rules = "\n".join(backdrop_rules(one, addresses) for one in record.backdrops)
    return f"@layer {record.layer} {{\n{indent(rules, INDENT)}}}\n" if record.layer else rules


def backdrop_rules(record: BackdropRecord, addresses: Addresses) -> str:
    """The rules of one backdrop."""
    forms = forms_of(record)
    rules = [
        f"/* {record.name} */",
        *(rule for form in forms for rule in form.base(record)),
        *shared_rules([_part(record, one, addresses) for one in record.shown]),
        *(rule for one in record.shown for form in forms for rule in form.rules(record, one)),
    ]
    text = "\n".join(rules) + "\n"
    return forced(text) if record.backdrop.force else text


def _part(record: BackdropRecord, shown: Shown, addresses: Addresses) -> Part:
    """Everything that holds for one part."""
    slot, element = shown.view.slot, record.element
    lines = [
        *((element, one) for one in (*_height_lines(slot.height), *padding_lines(slot.padding))),
        (element, f"background-color: {shown.behind.css};"),
        *(line for form in forms_of(record) for line in form.lines(record, shown, addresses)),
        *_scrim_above(element, shown),
    ]
    condition = breakpoint_condition(slot.breakpoint)
    own = breakpoint_condition(slot.breakpoint.whole)
    return Part(condition, own, tuple(lines))


def _scrim_above(element: str, shown: Shown) -> list[Line]:
    """The scrim on a layer of its own, above all that covers the background."""
    picture = shown.view.picture
    if not (shown.is_covered and shown.scrim and picture and picture.copy):
        return []
    scrim = f"background-image: {gradient(shown.scrim, picture.copy)};"
    return [(f":is({element})::after", one) for one in ('content: "";', *LAYER, scrim)]


def _height_lines(height: HeightRule) -> list[str]:
    if isinstance(height, AspectHeight):
        return [f"aspect-ratio: {height.css(modern=True)};"]
    older, newer = height.css(modern=False), height.css(modern=True)
    lines = [f"min-height: {older};"]
    return lines if older == newer else [*lines, f"min-height: {newer};"]
