"""The windows that many people have, each with its share.

Promises are decided for every window that can occur (see ``stages``); these say which of them
matter most: files are chosen for them, and where something has to give way, it gives way first
where none of them is.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from brightcanvas.values.geometry import Orientation, Size, Span
from brightcanvas.values.screens import Screen


def _screen(name: str, width: float, height: float, density: float, percent: float) -> Screen:
    return Screen(name, Size(width, height), density, percent / 100)


USUAL_SCREENS = (
    _screen("phone", 360, 664, 3, 14),
    _screen("phone", 375, 635, 3, 4),
    _screen("phone", 375, 553, 2, 2),
    _screen("phone", 384, 700, 2.8125, 3),
    _screen("phone", 390, 664, 3, 6),
    _screen("phone", 390, 770, 3, 4),
    _screen("phone", 390, 844, 3, 4),
    _screen("phone", 393, 735, 2.75, 9),
    _screen("phone", 412, 770, 2.625, 9),
    _screen("phone", 430, 739, 3, 5),
    _screen("phone on its side", 740, 320, 3, 1),
    _screen("phone on its side", 844, 340, 3, 2),
    _screen("tablet", 768, 954, 2, 0.8),
    _screen("tablet", 800, 1180, 1.5, 0.6),
    _screen("tablet", 820, 1106, 2, 1.2),
    _screen("tablet", 820, 1180, 2, 0.4),
    _screen("tablet on its side", 1024, 698, 2, 0.5),
    _screen("tablet on its side", 1180, 746, 2, 0.5),
    _screen("laptop", 1280, 665, 1, 2),
    _screen("laptop", 1280, 665, 1.5, 2),
    _screen("laptop", 1366, 641, 1, 4),
    _screen("laptop", 1440, 789, 1, 1),
    _screen("laptop", 1440, 900, 1, 1),
    _screen("laptop", 1440, 789, 2, 3),
    _screen("laptop", 1512, 860, 2, 2),
    _screen("laptop", 1536, 738, 1.25, 6),
    _screen("desk", 1707, 850, 1.5, 1),
    _screen("desk", 1920, 953, 1, 9),
    _screen("desk", 2560, 1305, 1, 2),
)
"""What people have, worked out as follows; ``[[screen]]`` with a share replaces it.

Three fifths of all visits come from phones held upright, three in a hundred from phones on their
side, four from tablets, the rest from laptops and desks: the round middle of what public counts
of page views have said for years, which differ from site to site by more than from each other.
Within a class the widths are those of the best-sold devices. Heights are what the browser's bars
leave of the screen: about 90 px less on a phone with bars at one end, 180 with bars at both, 120
to 150 on a desk; a small share of windows has none (pages kept on the home screen, full screen).
The figures are estimates: a site that counts its visits knows better."""

LEAST_SHARE = 1e-6


def usual_in(
    screens: Iterable[Screen], widths: Span, orientation: Orientation | None
) -> tuple[Screen, ...]:
    """Those with such viewport widths (from ``low`` up to, not including, ``high``)."""
    return tuple(
        one
        for one in screens
        if widths.low <= one.viewport.width < widths.high and orientation in (None, one.orientation)
    )


def quantile(pairs: Sequence[tuple[float, float]], part: float) -> float:
    """The least value that at least a part (0..1) of the shares does not exceed.

    Args:
        pairs: value and share each; at least one.
        part: of the sum of the shares.
    """
    ranked = sorted(pairs)
    total, passed = sum(share for _, share in ranked), 0.0
    for value, share in ranked:
        passed += share
        if passed >= part * total - LEAST_SHARE:
            return value
    return ranked[-1][0]
