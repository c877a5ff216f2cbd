"""Tiles joined where they lie side by side, so that fewer conditions tell of the same screens."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from brightcanvas.basics.shapes import Span
from brightcanvas.framing.rungs import Tile

Spans = tuple[Span, Span, Span]
"""A tile's widths, heights and densities."""


def joined(tiles: Sequence[Tile]) -> list[Tile]:
    """The same screens in as few tiles as joining neighbours gives, narrow ones first."""
    found = [(one.widths, one.heights, one.densities) for one in tiles]
    count = len(found) + 1
    while len(found) < count:
        count = len(found)
        for side in (2, 1, 0):
            found = _joined_along(found, side)
    return [Tile(*spans) for spans in sorted(found, key=_order)]


def _joined_along(tiles: Iterable[Spans], side: int) -> list[Spans]:
    """Neighbours along one side that are alike in the two others become one."""
    rows: dict[tuple[Span, ...], list[Spans]] = {}
    for one in sorted(tiles, key=_order):
        row = rows.setdefault((*one[:side], *one[side + 1 :]), [])
        if row and row[-1][side].high == one[side].low:
            row[-1] = _reaching(row[-1], side, one[side].high)
        else:
            row.append(one)
    return [one for row in rows.values() for one in row]


def _reaching(spans: Spans, side: int, high: float) -> Spans:
    """The spans with one of them reaching further."""
    widths, heights, densities = (
        Span(span.low, high) if number == side else span for number, span in enumerate(spans)
    )
    return widths, heights, densities


def _order(spans: Spans) -> tuple[float, ...]:
    return tuple(span.low for span in spans)
