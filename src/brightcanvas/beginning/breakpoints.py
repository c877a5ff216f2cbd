"""The breakpoints of a first brief: the site's own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from brightcanvas.measuring.windows import cuts_of
from brightcanvas.page.reading import Page

LOWEST, HIGHEST = 480.0, 1400.0
"""CSS px; between them a cut parts phones, tablets and desks."""

APART = 200.0
"""CSS px between two cuts, at least."""

MOST = 2
"""Cuts: three breakpoints."""

NAMES = {0: ("every",), 1: ("narrow", "wide"), 2: ("handheld", "midsize", "desk")}


@dataclass(frozen=True)
class Range:
    """A breakpoint of a first brief."""

    name: str
    below: float | None
    """CSS px; None: open upwards."""


def breakpoints_of(page: Page) -> tuple[Range, ...]:
    """The site's cuts that most rules have, a few of them; none where it has none."""
    chosen: list[float] = []
    for cut in cuts_of(page):
        is_apart = all(abs(cut - one) >= APART for one in chosen)
        if LOWEST <= cut <= HIGHEST and is_apart and len(chosen) < MOST:
            chosen.append(cut)
    return _named(sorted(chosen))


def _named(cuts: Sequence[float]) -> tuple[Range, ...]:
    if not cuts:
        return ()
    edges = [*cuts, None]
    return tuple(Range(name, below) for name, below in zip(NAMES[len(cuts)], edges, strict=True))
