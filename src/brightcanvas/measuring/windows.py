"""In which windows a page is measured."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

from brightcanvas.page.reading import Page

USUAL_WIDTHS = (320, 360, 390, 430, 520, 640, 768, 844, 932, 1024, 1180, 1280, 1440, 1512, 1728,
                1920, 2560)  # fmt: skip
"""CSS px; from the narrowest phone to the widest monitor that many people have."""

USUAL_HEIGHTS = (360, 640, 844, 1080, 1440)
"""CSS px; a phone on its side, laptops, a phone upright, monitors, a tablet upright."""

MOST_WIDTHS = 60

_CUT = re.compile(
    r"(?:(?P<bound>min|max)-width\s*:|width\s*(?P<sign>[<>]=?))\s*"
    r"(?P<number>\d+(?:\.\d+)?)(?P<unit>px|r?em)\b", re.I
)  # fmt: skip


_HEIGHT = re.compile(r"height|aspect-ratio|orientation", re.I)


def cuts_of(page: Page) -> list[float]:
    """The widths at which a page's style sheets change something, CSS px, by how often they do."""
    counts: dict[float, int] = {}
    for rule in page.reading.rules:
        for media in rule.around.media:
            for found in _CUT.finditer(media):
                cut = _cut(found)
                counts[cut] = counts.get(cut, 0) + 1
    return sorted(counts, key=lambda one: (-counts[one], one))


def asks_for_heights(page: Page) -> bool:
    """Whether a style sheet of a page asks how high the window is, or of what shape."""
    medias = (media for rule in page.reading.rules for media in rule.around.media)
    return any(_HEIGHT.search(media) for media in medias)


def _cut(found: re.Match[str]) -> float:
    """The first width of what lies above: ``max-width: 767px`` ends before 768 px."""
    width = float(found["number"]) * (1.0 if found["unit"].lower() == "px" else 16.0)
    is_last = found["bound"] == "max" or found["sign"] == "<="
    return float(math.floor(width) + 1) if is_last else float(math.ceil(width - 0.03))


def widths_for(cuts: Iterable[float]) -> list[int]:
    """Widths to measure at: the usual ones, and on both sides of each cut."""
    wanted = dict.fromkeys(USUAL_WIDTHS)
    for cut in cuts:
        if 320 < cut < 2560 and len(wanted) < MOST_WIDTHS - 1:
            whole = round(cut)
            wanted |= dict.fromkeys((whole - 1, whole))
    return sorted(wanted)
