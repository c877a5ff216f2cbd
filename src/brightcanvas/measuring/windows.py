"""In which windows a page is measured."""

from __future__ import annotations

import re
from collections.abc import Iterable

from brightcanvas.page.reading import Page

USUAL_WIDTHS = (320, 360, 390, 430, 520, 640, 768, 844, 932, 1024, 1180, 1280, 1440, 1512, 1728,
                1920, 2560)  # fmt: skip
"""CSS px; from the narrowest phone to the widest monitor that many people have."""

USUAL_HEIGHTS = (360, 640, 844, 1080, 1440)
"""CSS px; a phone on its side, laptops, a phone upright, monitors, a tablet upright."""

MOST_WIDTHS = 60

_CUT = re.compile(r"(?<![\w.])(\d+(?:\.\d+)?)(px|r?em)\b")
_WIDE = re.compile(r"width", re.I)


def cuts_of(page: Page) -> list[float]:
    """The widths at which a page's style sheets change something, CSS px, by how often they do."""
    counts: dict[float, int] = {}
    for rule in page.reading.rules:
        for media in rule.around.media:
            for number, unit in _CUT.findall(media) if _WIDE.search(media) else ():
                cut = float(number) * (1.0 if unit == "px" else 16.0)
                whole = round(cut + 0.02) if cut % 1 > 0.9 else cut
                counts[whole] = counts.get(whole, 0) + 1
    return sorted(counts, key=lambda one: (-counts[one], one))


def widths_for(cuts: Iterable[float]) -> list[int]:
    """Widths to measure at: the usual ones, and on both sides of each cut."""
    wanted = dict.fromkeys(USUAL_WIDTHS)
    for cut in cuts:
        if 320 < cut < 2560 and len(wanted) < MOST_WIDTHS - 1:
            whole = round(cut)
            wanted |= dict.fromkeys((whole - 1, whole))
    return sorted(wanted)
