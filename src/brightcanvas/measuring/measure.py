"""A page measured in a real browser, in many windows."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from itertools import pairwise
from typing import Any

from brightcanvas.browsers.window import Window
from brightcanvas.css.backgrounds import Layer, layers_of
from brightcanvas.css.screens import Viewer
from brightcanvas.measuring.windows import (
    USUAL_HEIGHTS,
    asks_for_heights,
    cuts_of,
    widths_for,
)
from brightcanvas.page.reading import Page
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import Letters
from brightcanvas.values.measured import CopyLine, MeasuredWindow

FINEST = 16
"""CSS px between two widths, below which nothing more is measured between them."""

MOST_FURTHER = 24
"""Widths that are measured because text wraps otherwise there."""


@dataclass(frozen=True)
class Laid:
    """An element as it lies in one window."""

    viewport: Size
    box: Rect
    """In which its background is placed; of the page, CSS px."""
    is_shown: bool
    layers: tuple[Layer, ...]
    """Of its background, as they were computed."""
    colour: Colour
    """Behind them."""
    lines: tuple[CopyLine, ...]
    is_veiled: bool
    """Whether the page lays a layer of its own over its background."""

    @property
    def window(self) -> MeasuredWindow:
        """What is kept of it."""
        return MeasuredWindow(self.viewport, self.box.size, self.lines, self.is_veiled)


@cache
def _script(name: str) -> str:
    return files("brightcanvas.measuring").joinpath(name).read_text("utf-8")


def settle(window: Window) -> None:
    """Wait until a page looks as it will stay."""
    window.evaluate(f"({_script('settle.js')})()")


def laid(window: Window, selectors: Sequence[str], viewport: Size) -> list[Laid | None]:
    """The elements of some selectors, settled; None where there is none.

    Args:
        window: with the page open, and of that viewport.
        selectors: of the elements.
        viewport: CSS px.
    """
    settle(window)
    found = window.evaluate(f"({_script('layout.js')})({json.dumps(list(selectors))})")
    return [_laid(viewport, one) if one else None for one in found]


def _laid(viewport: Size, found: Mapping[str, Any]) -> Laid:
    return Laid(
        viewport,
        Rect(*found["box"]),
        found["shown"],
        layers_of(found["background"]),
        _colour(found["colour"]),
        tuple(_line(one) for one in found["lines"]),
        found["veiled"],
    )


def _colour(found: Sequence[float]) -> Colour:
    return Colour(found[0] / 255, found[1] / 255, found[2] / 255, found[3])


def _line(found: Mapping[str, Any]) -> CopyLine:
    left, top, right, bottom = (min(1.0, max(0.0, edge)) for edge in found["box"])
    letters = Letters(_colour(found["colour"]), round(found["size"], 2), found["bold"])
    return CopyLine(Rect(left, top, right, bottom), letters, found["words"])


def measured(window: Window, selectors: Sequence[str], page: Page) -> Iterator[list[Laid | None]]:
    """The elements at all widths and heights, and where text begins to wrap otherwise.

    Args:
        window: with the page open.
        selectors: of the elements.
        page: as it was read: at some widths its style sheets change something.
    """
    widths, every = widths_for(cuts_of(page)), asks_for_heights(page)
    rows: dict[int, list[list[Laid | None]]] = {}
    for width in widths:
        rows[width] = _row(window, selectors, width, every=every)
        yield from rows[width]
    further = 0
    gaps = list(pairwise(widths))
    while gaps and further < MOST_FURTHER:
        low, high = gaps.pop(0)
        if high - low <= FINEST or _wraps(rows[low]) == _wraps(rows[high]):
            continue
        middle = (low + high) // 2
        rows[middle] = _row(window, selectors, middle, every=every)
        yield from rows[middle]
        further += 1
        gaps += [(low, middle), (middle, high)]


def _row(
    window: Window, selectors: Sequence[str], width: int, *, every: bool
) -> list[list[Laid | None]]:
    """One width at all heights.

    What grows with the window's height grows all the way: where the lowest window and the highest
    show the same, those between do too, unless a style sheet asks for heights.
    """
    ends = {
        height: _in_window(window, selectors, Size(width, height))
        for height in (USUAL_HEIGHTS[0], USUAL_HEIGHTS[-1])
    }
    lowest, highest = ends.values()
    if not every and lowest == _moved(highest, USUAL_HEIGHTS[0]):
        return [_moved(lowest, height) for height in USUAL_HEIGHTS]
    return [
        ends.get(height) or _in_window(window, selectors, Size(width, height))
        for height in USUAL_HEIGHTS
    ]


def _moved(found: Sequence[Laid | None], height: int) -> list[Laid | None]:
    """The same in a window of another height."""
    return [one and replace(one, viewport=Size(one.viewport.width, height)) for one in found]


def _in_window(window: Window, selectors: Sequence[str], viewport: Size) -> list[Laid | None]:
    window.resize(Viewer(viewport.width, viewport.height))
    return laid(window, selectors, viewport)


def _wraps(row: Sequence[Sequence[Laid | None]]) -> list[int]:
    """How many lines each element has, by which it is told whether text wraps otherwise."""
    return [len(one.lines) if one else -1 for each in row for one in each]
