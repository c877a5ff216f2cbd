"""Clips behind the content: the markup, and the script that starts and stops them.

Sources carry the media condition of their breakpoint, so that a window in which the clip does
not play fetches none of it; ``preload="none"`` keeps every browser from fetching before the
script has looked at what people asked for. Without scripts only the still is there.
"""

from __future__ import annotations

from collections.abc import Iterator
from html import escape
from importlib.resources import files

from brightcanvas.brief.model import HostedWish
from brightcanvas.delivery.conditions import both, breakpoint_condition
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord, Shown
from brightcanvas.values.geometry import plain_number

CALM = "(prefers-reduced-motion: no-preference)"
SCRIPT = "moving.js"


def moving_script() -> str:
    """The script, the same for every page."""
    return files("brightcanvas.delivery").joinpath("pages", SCRIPT).read_text(encoding="utf-8")


def moving_link(addresses: Addresses) -> str:
    """The line that loads it, at the page's end or in its head."""
    return f'<script src="{escape(addresses.of(SCRIPT))}" defer></script>'


def clip_markup(record: BackdropRecord, addresses: Addresses) -> str:
    """The clip and its button, to be the first children of the element; empty without a clip."""
    clip, hosted = record.clip, record.hosted
    if hosted:
        return _frame(hosted)
    if clip is None:
        return ""
    best = clip.assets[0]
    round_ = " loop" if clip.wish.is_round else ""
    sources = "\n".join(_sources(record, addresses))
    return (
        f'  <video data-moving muted playsinline{round_} preload="none" width="{best.width}"'
        f' height="{best.height}" tabindex="-1" aria-hidden="true">\n'
        f"{sources}\n"
        f"  </video>\n"
        f"{_button(clip.wish.pause, clip.wish.play)}"
    )


def _button(pause: str, play: str) -> str:
    return (
        f'  <button type="button" data-moving-button data-pause="{escape(pause)}"'
        f' data-play="{escape(play)}" aria-pressed="false" hidden>{escape(pause)}</button>\n'
    )


def _frame(hosted: HostedWish) -> str:
    """Where the script puts the other host's frame, after load and only where it is wanted."""
    media = both(f"(min-width: {plain_number(hosted.above)}px)", CALM)
    return (
        f'  <div data-hosted="{escape(hosted.address)}" data-media="{escape(media)}"'
        f' data-title="{escape(hosted.title)}"></div>\n{_button(hosted.pause, hosted.play)}'
    )


def _sources(record: BackdropRecord, addresses: Addresses) -> Iterator[str]:
    for shown in record.shown:
        for asset in shown.clip.assets if shown.clip else ():
            yield (
                f'    <source src="{escape(addresses.of(asset.file))}" type="{escape(asset.type)}"'
                f' media="{escape(clip_condition(shown))}">'
            )


def clip_condition(shown: Shown) -> str:
    """When a breakpoint's clip plays: in its windows, unless people asked for less motion."""
    return both(breakpoint_condition(shown.view.slot.breakpoint), CALM)
