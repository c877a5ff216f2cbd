"""The usual form: a background picture of the style sheet."""

from __future__ import annotations

from brightcanvas.brief.model import Slot
from brightcanvas.delivery.candidates import image_set
from brightcanvas.delivery.css_values import gradient, position_text
from brightcanvas.delivery.escaping import css_string
from brightcanvas.delivery.forms.drift import drifts, layer_of
from brightcanvas.delivery.forms.form import Form
from brightcanvas.delivery.sharing import Line
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import Asset, BackdropRecord, Shown


def _lines(record: BackdropRecord, shown: Shown, addresses: Addresses) -> list[Line]:
    target = layer_of(record.element) if drifts(shown) else record.element
    return [(target, one) for one in layer_lines(shown, addresses)]


def layer_lines(shown: Shown, addresses: Addresses) -> list[str]:
    """The picture, and how it lies in its box; for browsers of any age first."""
    slot, picture = shown.view.slot, shown.view.picture
    if picture is None or shown.oldest is None:
        return ["background-image: none;"]
    plain = f"background-image: {_layered(shown, _url(shown.oldest, addresses))};"
    newer = f"background-image: {_layered(shown, image_set(shown, addresses))};"
    position, repeat, size = position_text(picture.cut.position), _repeat(slot), slot.fit.css
    if shown.scrim and not shown.is_covered:  # a layer of its own, which always fills the box
        position, size, repeat = f"0 0, {position}", f"auto, {size}", f"no-repeat, {repeat}"
    return [
        plain,
        *([] if shown.is_single else [newer]),
        f"background-position: {position};",
        f"background-size: {size};",
        f"background-repeat: {repeat};",
        *_attachment_lines(slot),
    ]


def _url(asset: Asset, addresses: Addresses) -> str:
    return f"url({css_string(addresses.of(asset.file))})"


def _layered(shown: Shown, picture_layer: str) -> str:
    """The picture with its scrim above it, if there is one."""
    picture = shown.view.picture
    if shown.scrim is None or shown.is_covered or picture is None or picture.copy is None:
        return picture_layer
    return f"{gradient(shown.scrim, picture.copy)}, {picture_layer}"


def _repeat(slot: Slot) -> str:
    """Whole tiles along every axis on which the picture repeats."""
    if not slot.whole_motifs:
        return slot.repeat
    rounded = {"repeat": "round", "repeat-x": "round no-repeat", "repeat-y": "no-repeat round"}
    return rounded.get(slot.repeat, slot.repeat)


def _attachment_lines(slot: Slot) -> list[str]:
    if slot.attachment != "fixed":
        return []
    return ["background-attachment: fixed;"]


BACKGROUND = Form(concerns=lambda record: record.backdrop.form == "background", lines=_lines)
