"""What clips of our own and of other hosts share: the script, the button, when they play.

The script starts and stops them. Without scripts only the still is there.
"""

from __future__ import annotations

from html import escape
from importlib.resources import files

from brightcanvas.delivery.sharing import block
from brightcanvas.ledger.addresses import Addresses

CALM = "(prefers-reduced-motion: no-preference)"
"""People did not ask for less motion."""

SCRIPT = "moving.js"


def moving_script() -> str:
    """The script, the same for every page."""
    return files("brightcanvas.delivery").joinpath("pages", SCRIPT).read_text(encoding="utf-8")


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
