"""What each browser does beyond the standards while it loads a page."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from brightcanvas.values.environments import TOUCHED, Environment
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class EngineProfile:
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

    def environment(self, screen: Screen) -> Environment:
        """Somebody with this browser on a screen."""
        width = screen.viewport.width
        return Environment(
            float(math.floor(width)) if self.whole_widths else width,
            screen.viewport.height,
            screen.density,
            {**(TOUCHED if screen.touched else {}), **self.said},
            drawings_in_sets=self.drawings_in_sets,
            single_precision=self.single_precision,
        )


CHROMIUM = EngineProfile("Chromium", spare=1, low_while_held=1)
WEBKIT = EngineProfile(
    "WebKit",
    said={
        "display-mode": "", "scan": "", "prefers-reduced-transparency": None,
        "video-dynamic-range": None,
    },
    whole_widths=True,
    single_precision=True,
    conditional_headers_wait=True,
)  # fmt: skip
FIREFOX = EngineProfile("Firefox", pictures_wait=True, drawings_in_sets=True)
ENGINES = {"chromium": CHROMIUM, "firefox": FIREFOX, "webkit": WEBKIT}
"""By the words that people use."""
