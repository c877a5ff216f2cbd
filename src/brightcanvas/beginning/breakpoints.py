"""The breakpoints of a first brief: the site's own."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from brightcanvas.measuring.windows import cuts_of
from brightcanvas.page.reading import Page

LOWEST, HIGHEST = 480.0, 1400.0
"""CSS px; between them a cut parts phones, tablets and desks."""

APART = 200.0
"""CSS px between two cuts, at least, unless a background changes at both."""

MOST = 2
"""Cuts that are looked for: three breakpoints."""

NAMES = {0: ("every",), 1: ("narrow", "wide"), 2: ("handheld", "midsize", "desk")}


@dataclass(frozen=True)
class Range:
    """A breakpoint of a first brief."""

    name: str
    low: float
    """CSS px; its first width."""
    below: float | None
    """CSS px; None: open upwards."""


def breakpoints_of(page: Page, needed: Iterable[float]) -> tuple[Range, ...]:
    """The widths at which backgrounds change, and the site's cuts that most rules have.

    Args:
        page: as read.
        needed: first widths at which some background is another one, CSS px.
    """
    chosen = sorted(set(needed))
    for cut in cuts_of(page):
        is_apart = all(abs(cut - one) >= APART for one in chosen)
        if LOWEST <= cut <= HIGHEST and is_apart and len(chosen) < MOST:
            chosen.append(cut)
    return _named(sorted(chosen) or [640.0, 1100.0])


def _named(cuts: Sequence[float]) -> tuple[Range, ...]:
    lows, edges = [0.0, *cuts], [*cuts, None]
    names = NAMES.get(len(cuts)) or [f"from-{low:g}" for low in lows]
    return tuple(
        Range(name, low, below) for name, low, below in zip(names, lows, edges, strict=True)
    )
