"""Lines to a host, told by their figures."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import Enum

from brightcanvas.css.screens import TOUCHED, Viewer
from brightcanvas.values.geometry import plain_number
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class Line:
    """A line without losses, and without the slow start of its connections."""

    rate: float
    """Bits a second, from the host."""
    round_trip: float
    """Seconds from asking to the first byte of the answer, on an open connection."""

    @property
    def name(self) -> str:
        """By its figures."""
        mega = self.rate >= 1e6
        amount = plain_number(round(self.rate / (1e6 if mega else 1e3), 2))
        unit = "Mbit/s" if mega else "kbit/s"
        return f"{amount} {unit}, {plain_number(round(self.round_trip * 1000, 1))} ms"

    def seconds(self, amount: float) -> float:
        """How long so many bytes take when nothing else is on the line."""
        return amount * 8 / self.rate


LINES = (Line(400e3, 0.4), Line(1.6e6, 0.15), Line(10e6, 0.04))
"""A poor one, a middling one and a good one."""

_LINE = re.compile(r"([\d.]+) ?(k|m)bit(?:/s)?, ?([\d.]+) ?ms", re.IGNORECASE)


def line_of(text: str) -> Line | None:
    """A line from figures such as ``1.6Mbit/s,150ms``; None where they are none."""
    match = _LINE.fullmatch(text.strip())
    if match is None or match[1].count(".") > 1 or match[3].count(".") > 1:
        return None
    rate = float(match[1]) * (1e6 if match[2].lower() == "m" else 1e3)
    trip = float(match[3]) / 1000
    return Line(rate, trip) if 1e3 <= rate <= 1e11 and trip <= 60 else None


class Protocol(Enum):
    """How pages and files come."""

    HTTP1 = "HTTP/1.1"
    HTTP2 = "HTTP/2"


PROTOCOLS = {"1.1": Protocol.HTTP1, "2": Protocol.HTTP2}
"""By the numbers that people use."""


@dataclass(frozen=True)
class Habits:
    """What a browser does beyond the standards, as measured."""

    name: str
    connections: int = 6
    """To one host, over HTTP/1.1."""
    spare: int = 0
    """Connections that are opened beside the first one at once, over HTTP/1.1."""
    low_while_held: int | None = None
    """Over HTTP/1.1, how many requests of low urgency are open while sheets or scripts that hold
    the first paint are on their way; None: any number."""
    pictures_wait: bool = False
    """Over HTTP/1.1, whether no picture is asked for before the head's sheets are there."""
    drawings_in_sets: bool = False
    """Whether a drawing that says its type in an ``image-set`` is taken."""
    said: Mapping[str, str | None] = field(default_factory=dict)
    """Media features of words to which it says something unusual; None: it knows none such."""
    whole_widths: bool = False
    """Whether media conditions never see a fraction of a px."""
    single_precision: bool = False
    """Whether shares of the window's width are calculated with 24 bits."""
    conditional_headers_wait: bool = False
    """Whether hints with conditions or several candidates in a ``Link`` header start only behind
    everything that the page's markup names."""

    def viewer(self, screen: Screen) -> Viewer:
        """Somebody with this browser on a screen."""
        width = screen.viewport.width
        return Viewer(
            float(math.floor(width)) if self.whole_widths else width,
            screen.viewport.height,
            screen.density,
            {**(TOUCHED if screen.touched else {}), **self.said},
            drawings_in_sets=self.drawings_in_sets,
            single_precision=self.single_precision,
        )


CHROMIUM = Habits("Chromium", spare=1, low_while_held=1)
WEBKIT = Habits(
    "WebKit",
    said={
        "display-mode": "", "scan": "", "prefers-reduced-transparency": None,
        "video-dynamic-range": None,
    },
    whole_widths=True,
    single_precision=True,
    conditional_headers_wait=True,
)  # fmt: skip
FIREFOX = Habits("Firefox", pictures_wait=True, drawings_in_sets=True)
HABITS = {"chromium": CHROMIUM, "firefox": FIREFOX, "webkit": WEBKIT}
"""By the words that people use."""
