"""The style sheet: colour first, then the old format, then the newer ones above it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import replace
from textwrap import indent

from brightcanvas.delivery.candidates import READS_NEWER
from brightcanvas.delivery.forms import forms_of
from brightcanvas.delivery.forms.form import LAYER
from brightcanvas.delivery.rule_text import (
    INDENT,
    Declaration,
    Part,
    block,
    declared,
    gradient,
    shared_rules,
    under,
)
from brightcanvas.ledger.record import Addresses, BackdropRecord, PublishedVariant, Record
from brightcanvas.values.element_boxes import AspectHeight, ElementWidth, HeightRule, padding_lines
from brightcanvas.values.geometry import WHOLE, plain_number

FOR_NEWER = f"@supports (width: {READS_NEWER})"
WHY_NEWER = "/* Browsers with mod() and lh read newer formats; others keep what is before. */\n"
"""Said where a reviewer will ask."""


def stylesheet(record: Record, addresses: Addresses) -> str:
    """The whole style sheet; pictures are looked for at their addresses."""
    ruled = (one for one in record.backdrops if one.backdrop.form != "img")
    rules = "\n".join(backdrop_rules(one, addresses) for one in ruled)
    rules = f"{WHY_NEWER}{rules}" if FOR_NEWER in rules else rules
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
    return "\n".join(rules) + "\n"


def _for_newer(record: BackdropRecord, addresses: Addresses) -> list[str]:
    """What browsers are told that read the newer formats."""
    parts = [
        _of_part(
            record,
            one,
            (each for form in forms_of(record) for each in form.newer(record, one, addresses)),
        )
        for one in record.shown
    ]
    text = indent("\n".join(shared_rules(parts)), INDENT)
    return [f"{FOR_NEWER} {{\n{text}\n}}"] if text else []


def _of_part(
    record: BackdropRecord, shown: PublishedVariant, declarations: Iterable[Declaration]
) -> Part:
    slot = shown.view.slot
    own = slot.breakpoint.whole.when.media
    return Part(slot.breakpoint.when.media, own, tuple(_forced(record, declarations)))


def _part(record: BackdropRecord, shown: PublishedVariant, addresses: Addresses) -> Part:
    """Everything that holds for one part."""
    element = record.element
    declarations = [
        *declared(element, _box_lines(shown)),
        *(one for form in forms_of(record) for one in form.lines(record, shown, addresses)),
        *_scrim_above(element, shown),
    ]
    return _of_part(record, shown, declarations)


def _box_lines(shown: PublishedVariant) -> list[str]:
    """The box and what stands behind the picture; none where the page's own rule stays."""
    slot = shown.view.slot
    if slot.keeps_rule:
        return []
    heights = _height_lines(slot.height) if slot.states_height else []
    return [*heights, *padding_lines(slot.padding), f"background-color: {shown.behind.css};"]


def _scrim_above(element: str, shown: PublishedVariant) -> list[Declaration]:
    """The scrim on a layer of its own, above all that covers the background."""
    picture = shown.view.picture
    if not (shown.is_covered and shown.scrim and picture):
        return []
    scrim = f"background-image: {gradient(shown.scrim, picture.copy or WHOLE)};"
    return declared(f":is({element})::after", ('content: "";', *LAYER, scrim))


def _heights_without_aspects(record: BackdropRecord) -> list[str]:
    """For browsers without ``aspect-ratio``, where a box without content would have no height."""
    heights = {
        one.view.slot.breakpoint.when.media: _share_of_width(height, one.view.slot.width)
        for one in record.shown
        if isinstance(height := one.view.slot.height, AspectHeight) and one.view.slot.states_height
    }
    if len(heights) == len(record.shown) and len(set(heights.values())) == 1:
        heights = {"": next(iter(heights.values()))}
    rules = [
        under(where, [block(record.element, [each.line for each in _forced(record, told)])])
        for where, one in heights.items()
        for told in (declared(record.element, [one]),)
    ]
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


_FORCED = ("background", "min-height", "aspect-ratio", "box-sizing", "padding")
"""How the names of properties begin that hosts write into elements themselves."""


def _forced(record: BackdropRecord, declarations: Iterable[Declaration]) -> Iterator[Declaration]:
    """Declarations that win against inline styles, where that is asked for.

    Only backgrounds and boxes are made important; what builds a layer of its own has no rival.
    """
    for one in declarations:
        is_rivalled = record.backdrop.force and one.name.startswith(_FORCED)
        yield replace(one, is_important=True) if is_rivalled else one
