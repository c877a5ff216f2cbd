"""The usual form: a background picture of the style sheet."""

from __future__ import annotations

from brightcanvas.brief.model import Slot
from brightcanvas.delivery.candidates import is_newer, layers_of
from brightcanvas.delivery.css_values import gradient, position_text
from brightcanvas.delivery.escaping import css_string
from brightcanvas.delivery.forms.drift import drifts, layer_of
from brightcanvas.delivery.forms.form import Form
from brightcanvas.delivery.sharing import Line
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord, Shown
from brightcanvas.values.fits import Exact
from brightcanvas.values.geometry import WHOLE
from brightcanvas.values.layers import with_picture


def _lines(record: BackdropRecord, shown: Shown, addresses: Addresses) -> list[Line]:
    return [(_target(record, shown), one) for one in layer_lines(shown, addresses)]


def layer_lines(shown: Shown, addresses: Addresses) -> list[str]:
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


def newer_lines(shown: Shown, addresses: Addresses) -> list[str]:
    """The picture for browsers that read the newer formats."""
    return _images(shown, layers_of(shown, addresses)) if is_newer(shown) else []


def _images(shown: Shown, layers: list[str]) -> list[str]:
    return [f"background-image: {_layered(shown, one)};" for one in layers]


def _layered(shown: Shown, picture_layer: str) -> str:
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


def _newer(record: BackdropRecord, shown: Shown, addresses: Addresses) -> list[Line]:
    return [(_target(record, shown), one) for one in newer_lines(shown, addresses)]


def _target(record: BackdropRecord, shown: Shown) -> str:
    return layer_of(record.element) if drifts(shown) else record.element


BACKGROUND = Form(
    concerns=lambda record: record.backdrop.form == "background", lines=_lines, newer=_newer
)
