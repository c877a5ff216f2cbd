"""A page measured in a real browser, in many windows."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from itertools import pairwise
from pathlib import Path
from typing import Any

from brightcanvas.browsers.window import Window
from brightcanvas.css.backgrounds import Layer, layers_of
from brightcanvas.page.folder import Folder
from brightcanvas.page.reading import Page, read_page
from brightcanvas.page.site import FetchedFolder
from brightcanvas.serving.opened_page import opened
from brightcanvas.values.colours import Colour
from brightcanvas.values.environments import Environment
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import CopyLine, Letters, MeasuredWindow

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


FINEST = 16
"""CSS px between two widths, below which nothing more is measured between them."""

DRAWN = 0.5
"""How large windows are drawn in which nobody looks at px: that saves a third of the time."""

MOST_FURTHER = 24
"""Widths that are measured because text wraps otherwise there."""


@dataclass(frozen=True)
class ElementLayout:
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


def laid(window: Window, selectors: Sequence[str], viewport: Size) -> list[ElementLayout | None]:
    """The elements of some selectors, settled; None where there is none.

    Args:
        window: with the page open, and of that viewport.
        selectors: of the elements.
        viewport: CSS px.
    """
    # In one: between two scripts the page may load itself again.
    settled, layout = _script("settle.js"), _script("layout.js")
    found = window.evaluate(f"({settled})().then(() => ({layout})({json.dumps(list(selectors))}))")
    return [_laid(viewport, one) if one else None for one in found]


def _laid(viewport: Size, found: Mapping[str, Any]) -> ElementLayout:
    return ElementLayout(
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


def measured(
    window: Window, selectors: Sequence[str], page: Page
) -> Iterator[list[ElementLayout | None]]:
    """The elements at all widths and heights, and where text begins to wrap otherwise.

    Args:
        window: with the page open.
        selectors: of the elements.
        page: as it was read: at some widths its style sheets change something.
    """
    widths, every = widths_for(cuts_of(page)), asks_for_heights(page)
    rows: dict[int, list[list[ElementLayout | None]]] = {}
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
) -> list[list[ElementLayout | None]]:
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


def _moved(found: Sequence[ElementLayout | None], height: int) -> list[ElementLayout | None]:
    """The same in a window of another height."""
    return [one and replace(one, viewport=Size(one.viewport.width, height)) for one in found]


def _in_window(
    window: Window, selectors: Sequence[str], viewport: Size
) -> list[ElementLayout | None]:
    window.resize(Environment(viewport.width, viewport.height), DRAWN)
    return laid(window, selectors, viewport)


def _wraps(row: Sequence[Sequence[ElementLayout | None]]) -> list[int]:
    """How many lines each element has, by which it is told whether text wraps otherwise."""
    return [len(one.lines) if one else -1 for each in row for one in each]


@dataclass(frozen=True)
class MeasuredPage:
    """What was measured of a page."""

    elements: Mapping[str, tuple[MeasuredWindow, ...]]
    """By selector; those that the page hasn't got are left out."""
    read: tuple[Path, ...]
    """The page and its style sheets."""


def measure_page(folder: Folder, selectors: Sequence[str], browser: str) -> MeasuredPage:
    """The copy above some elements, in all windows.

    Args:
        folder: of the page.
        selectors: of the elements.
        browser: which one to ask.
    """
    page = read_page(folder)
    found: dict[str, list[ElementLayout]] = {}
    with opened(folder, browser) as window:
        for row in measured(window, selectors, page):
            for selector, one in zip(selectors, row, strict=True):
                if one is not None and one.box.width >= 1 and one.box.height >= 1:
                    found.setdefault(selector, []).append(one)
    elements = {selector: tuple(one.window for one in rows) for selector, rows in found.items()}
    return MeasuredPage(elements, files_of(page))


def files_of(page: Page) -> tuple[Path, ...]:
    """A page and its style sheets, as far as they lie on this disk: by them changes are seen."""
    if isinstance(page.folder, FetchedFolder):
        return ()
    urls = [one.url for one in page.sheets] + [one.url for one in page.reading.imports]
    paths = [page.folder.page, *(page.folder.file(url) for url in urls)]
    return tuple(dict.fromkeys(path for path in paths if path is not None))


BACKGROUND, IMG, VIDEO = "background", "img", "video"


@dataclass(frozen=True)
class LargePicture:
    """An element that shows one, across much of the window."""

    kind: str
    """``background``, ``img`` or ``video``."""
    name: str
    """As people would name it."""
    path: str
    """A selector for the very place at which it stands."""
    pseudo: str
    """``before``, ``after``, or empty."""
    files: tuple[str, ...]
    """URLs, as of a page that is still on the disk."""
    box: Rect
    """Of the page, CSS px."""
    fills: bool
    """Of an ``img``: whether it is fitted to a box, or placed out of the text's flow."""
    has_text: bool
    """Whether text lies above it."""


@cache
def _large_script() -> str:
    return files("brightcanvas.measuring").joinpath("pictures.js").read_text("utf-8")


def large_pictures(window: Window) -> list[LargePicture]:
    """All of a window, in the page's order."""
    return [_picture(one) for one in window.evaluate(f"({_large_script()})()") or []]


def _picture(found: Mapping[str, Any]) -> LargePicture:
    left, top, right, bottom = found["box"]
    return LargePicture(
        found["kind"], found["name"], found["path"], found.get("pseudo", ""),
        tuple(found["files"]), Rect(left, top, max(left, right), max(top, bottom)),
        bool(found.get("fills", False)), bool(found.get("hasText", False)),
    )  # fmt: skip
