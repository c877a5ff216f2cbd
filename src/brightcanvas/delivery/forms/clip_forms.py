"""Clips above the still, behind the content: our own, and those of other hosts in a frame.

The script starts and stops them. Without scripts only the still is there.

Sources carry the media condition of their breakpoint, so that a window in which the clip does
not play fetches none of it; ``preload="none"`` keeps every browser from fetching before the
script has looked at what people asked for.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from html import escape
from importlib.resources import files

from rjsmin import jsmin

from brightcanvas.brief.brief import HostedWish
from brightcanvas.delivery.forms.form import LAYER, Form
from brightcanvas.delivery.rule_text import (
    Declaration,
    block,
    declared,
    position_text,
)
from brightcanvas.ledger.record import Addresses, BackdropRecord, ClipShown, PublishedVariant
from brightcanvas.values.conditions import Condition
from brightcanvas.values.geometry import Size, Span

CALM = ("prefers-reduced-motion", "no-preference")
"""People did not ask for less motion."""

SCRIPT = "moving.js"


def moving_script() -> str:
    """The script, the same for every page: what visitors load, without what only we read."""
    text = files("brightcanvas.delivery").joinpath("pages", SCRIPT).read_text(encoding="utf-8")
    return str(jsmin(text, keep_bang_comments=True)) + "\n"


def moving_link(addresses: Addresses) -> str:
    """The line that loads it, at the page's end or in its head."""
    return f'<script src="{escape(addresses.of(SCRIPT))}" defer></script>'


def moving_base(element: str) -> list[str]:
    """The box of what moves behind the content, and the button that stops it."""
    box = ["position: relative;", "isolation: isolate;", "overflow: hidden;", "overflow: clip;"]
    button = [
        "position: absolute;", "right: 1rem;", "bottom: 1rem;", "z-index: 1;",
        "min-height: 44px;", "padding: 0 1rem;", "font: inherit;",
    ]  # fmt: skip
    return [
        block(element, box),
        block(f":is({element}) > [data-moving-button]:not([hidden])", button),
    ]


def button(pause: str, play: str) -> str:
    """The button; the script shows it."""
    return (
        f'  <button type="button" data-moving-button data-pause="{escape(pause)}"'
        f' data-play="{escape(play)}" hidden>{escape(pause)}</button>\n'
    )


def _video_markup(record: BackdropRecord, addresses: Addresses) -> str:
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


def clip_condition(shown: PublishedVariant) -> str:
    """When a part's clip plays: in its windows, unless people asked for less motion."""
    slot = shown.view.slot
    plays = slot.breakpoint.when.intersect(_moving_from(slot.moves_from))
    return plays.media if plays else NEVER


NEVER = "not all"
"""A condition that no window is in."""


def _moving_from(least: Size) -> Condition:
    """The windows from a least size on, of people who did not ask for less motion."""
    widths, heights = (Span(side, math.inf) for side in (least.width, least.height))
    return Condition(widths, heights=heights, words=(CALM,))


def _video_base(record: BackdropRecord) -> list[str]:
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


def _lines(record: BackdropRecord, shown: PublishedVariant, _: Addresses) -> list[Declaration]:
    """Where the clip lies in its box, as the still does."""
    picture = shown.view.picture
    if picture is None or shown.clip is None:
        return []
    return declared(
        _clip_of(record.element), [f"object-position: {position_text(picture.cut.position)};"]
    )


VIDEO = Form(
    concerns=lambda record: record.clip is not None,
    base=_video_base,
    lines=_lines,
    markup=_video_markup,
    moves=True,
)


def _frame_markup(record: BackdropRecord, _: Addresses) -> str:
    """Where the script puts the frame."""
    hosted = record.hosted
    if hosted is None:
        return ""
    media = _moving_from(hosted.shown_from).media
    return (
        f'  <div data-hosted="{escape(hosted.address)}" data-media="{escape(media)}"'
        f' data-title="{escape(hosted.title)}"></div>\n{button(hosted.pause, hosted.play)}'
    )


def _frame_base(record: BackdropRecord) -> list[str]:
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
    concerns=lambda record: record.hosted is not None,
    base=_frame_base,
    markup=_frame_markup,
    moves=True,
)
