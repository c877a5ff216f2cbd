"""A clip of our own above the still, behind the content.

Sources carry the media condition of their breakpoint, so that a window in which the clip does
not play fetches none of it; ``preload="none"`` keeps every browser from fetching before the
script has looked at what people asked for.
"""

from __future__ import annotations

from collections.abc import Iterator
from html import escape

from brightcanvas.delivery.conditions import both, breakpoint_condition
from brightcanvas.delivery.css_values import position_text
from brightcanvas.delivery.forms.form import LAYER, Form
from brightcanvas.delivery.moving import CALM, button, moving_base
from brightcanvas.delivery.sharing import Line, block
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord, ClipShown, Shown
from brightcanvas.values.geometry import plain_number


def _markup(record: BackdropRecord, addresses: Addresses) -> str:
    """The clip and its button."""
    clip = record.clip
    if clip is None:
        return ""
    best = clip.assets[0]
    round_ = " loop" if clip.loop.is_round else ""
    sources = "\n".join(_sources(record, addresses))
    return (
        f'  <video data-moving muted playsinline{round_} preload="none" width="{best.width}"'
        f' height="{best.height}" tabindex="-1" aria-hidden="true">\n'
        f"{sources}\n"
        f"  </video>\n"
        f"{button(clip.wish.pause, clip.wish.play)}"
    )


def _sources(record: BackdropRecord, addresses: Addresses) -> Iterator[str]:
    for shown in record.shown:
        for asset in shown.clip.assets if shown.clip else ():
            yield (
                f'    <source src="{escape(addresses.of(asset.file))}" type="{escape(asset.type)}"'
                f' media="{escape(clip_condition(shown))}">'
            )


def clip_condition(shown: Shown) -> str:
    """When a part's clip plays: in its windows, unless people asked for less motion."""
    slot, least = shown.view.slot, shown.view.slot.moves_from
    is_narrower = least.width > slot.breakpoint.widths.low
    wide = f"(min-width: {plain_number(least.width)}px)" if is_narrower else ""
    high = f"(min-height: {plain_number(least.height)}px)" if least.height else ""
    return both(breakpoint_condition(slot.breakpoint), wide, high, CALM)


def _base(record: BackdropRecord) -> list[str]:
    layer = _clip_layer(_clip_of(record.element), record.clip) if record.clip else []
    return [*moving_base(record.element), *layer]


def _clip_layer(video: str, clip: ClipShown) -> list[str]:
    fill = ["width: 100%;", "height: 100%;", "max-width: none;", "object-fit: cover;"]
    paused = {"dim": "filter: brightness(0.6);", "still": "visibility: hidden;"}
    blocks = [
        block(video, [*LAYER, *fill]),
        block(f"{video}:not([data-state])", ["visibility: hidden;"]),
    ]
    if line := paused.get(clip.wish.when_paused):
        blocks.append(block(f'{video}[data-state="paused"]', [line]))
    return blocks


def _clip_of(element: str) -> str:
    return f":is({element}) > video[data-moving]"


def _lines(record: BackdropRecord, shown: Shown, _: Addresses) -> list[Line]:
    """Where the clip lies in its box, as the still does."""
    picture = shown.view.picture
    if picture is None or shown.clip is None:
        return []
    return [(_clip_of(record.element), f"object-position: {position_text(picture.cut.position)};")]


VIDEO = Form(
    concerns=lambda record: record.clip is not None,
    base=_base,
    lines=_lines,
    markup=_markup,
    moves=True,
)
