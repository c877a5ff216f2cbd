"""A clip that another host shows in a frame above the still, after load and where it is wanted."""

from __future__ import annotations

from html import escape

from brightcanvas.brief.model import HostedWish
from brightcanvas.delivery.conditions import both
from brightcanvas.delivery.forms.form import LAYER, Form
from brightcanvas.delivery.moving import CALM, button, moving_base
from brightcanvas.delivery.sharing import block
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord
from brightcanvas.values.geometry import plain_number


def _markup(record: BackdropRecord, _: Addresses) -> str:
    """Where the script puts the frame."""
    hosted = record.hosted
    if hosted is None:
        return ""
    least = hosted.shown_from
    high = f"(min-height: {plain_number(least.height)}px)" if least.height else ""
    media = both(f"(min-width: {plain_number(least.width)}px)", high, CALM)
    return (
        f'  <div data-hosted="{escape(hosted.address)}" data-media="{escape(media)}"'
        f' data-title="{escape(hosted.title)}"></div>\n{button(hosted.pause, hosted.play)}'
    )


def _base(record: BackdropRecord) -> list[str]:
    holder = f":is({record.element}) > [data-hosted]"
    frame = _frame_layer(holder, record.hosted) if record.hosted else []
    return [*moving_base(record.element), *frame]


def _frame_layer(holder: str, hosted: HostedWish) -> list[str]:
    """A frame of a clip's shape, as large as covers the box (CSS Containment 3, section 4)."""
    width, height = hosted.shape
    frame = [
        "position: absolute;", "left: 50%;", "top: 50%;", "border: 0;", "max-width: none;",
        "width: 100%;", "height: 100%;",
        f"width: max(100cqw, calc(100cqh * {width} / {height}));",
        f"height: max(100cqh, calc(100cqw * {height} / {width}));",
        "transform: translate(-50%, -50%);",
    ]  # fmt: skip
    return [
        block(holder, [*LAYER, "overflow: hidden;", "container-type: size;"]),
        block(f"{holder} > iframe", frame),
    ]


HOSTED = Form(
    concerns=lambda record: record.hosted is not None, base=_base, markup=_markup, moves=True
)
