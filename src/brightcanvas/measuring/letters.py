"""How well copy can be read, by the px that a browser shows behind it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.browsers.window import Window
from brightcanvas.colour.contrast import channels, contrast, luminance
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.measuring.elements import ElementLayout
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import CopyLine

MARK = "bright-canvas-unseen"
STILL = "*,*::before,*::after{transition:none!important}"
HIDE = (
    f"document.head.insertAdjacentHTML('beforeend', '<style id={MARK}>{STILL}*,*::before,*::after{{"
    "color:transparent!important;-webkit-text-fill-color:transparent!important;"
    "text-shadow:none!important;caret-color:transparent!important}</style>'), 1"
)
"""Makes all letters invisible, so that only what lies behind them is left."""
SHOW = (
    f"((one) => (one.textContent = '{STILL}', getComputedStyle(document.body).color,"
    f" one.remove(), 1))(document.getElementById('{MARK}'))"
)
"""Brings them back at once: else their colours would come by the page's own transitions."""

LOWEST_SHARE = 2.0
"""Percent of the px behind a line that may be worse than what is told."""


@dataclass(frozen=True)
class ReadLine:
    """A line of copy, with the lowest contrast of the px behind it."""

    line: CopyLine
    contrast: float

    @property
    def words(self) -> str:
        """How it begins."""
        return self.line.words

    @property
    def wanted(self) -> float:
        """The contrast that it has to have (WCAG 2.2, 1.4.3)."""
        return self.line.letters.wanted_contrast


def without_letters(window: Window, scale: float = 1.0) -> NDArray[np.uint8]:
    """The px of a window with all letters taken away, (height, width, 3); they come back.

    Args:
        window: with the page open.
        scale: by which it may be drawn smaller, 0..1.
    """
    window.evaluate(HIDE)
    try:
        return decode(window.screenshot(scale)).pixels[..., :3]
    finally:
        window.evaluate(SHOW)


def lines_in(one: ElementLayout, top: float, size: Size) -> list[tuple[CopyLine, Rect]]:
    """The lines above an element that lie wholly in a window, and where, CSS px.

    Args:
        one: the element.
        top: how far the page is scrolled, CSS px.
        size: of the window, CSS px.
    """
    placed = ((line, _placed(one.box, line.box, top)) for line in one.lines)
    return [(line, box) for line, box in placed if _is_whole(box, size)]


def _is_whole(box: Rect, size: Size) -> bool:
    """Whether a box lies in a window, but for half a px."""
    return (
        min(box.left, box.top) >= -0.5
        and box.right <= size.width + 0.5
        and box.bottom <= size.height + 0.5
    )


def _placed(around: Rect, box: Rect, top: float) -> Rect:
    """A box in shares of another one, as it lies in a window."""
    return Rect(
        around.left + box.left * around.width,
        around.top + box.top * around.height - top,
        around.left + box.right * around.width,
        around.top + box.bottom * around.height - top,
    )


def read_lines(
    pixels: NDArray[np.uint8], lines: Iterable[tuple[CopyLine, Rect]], size: Size
) -> Iterator[ReadLine]:
    """How well lines can be read.

    Args:
        pixels: of the window, without letters.
        lines: of copy, and where they lie in it; see ``lines_in``.
        size: of the window, CSS px.
    """
    for line, box in lines:
        ground = behind(pixels, box, pixels.shape[1] / size.width)
        if ground.size:
            light = luminance(np.asarray(ground, np.float32) / 255)
            seen = contrast(luminance(channels(line.letters.colour)), light)
            yield ReadLine(line, float(np.percentile(seen, LOWEST_SHARE)))


def behind(pixels: NDArray[np.uint8], box: Rect, scale: float) -> NDArray[np.uint8]:
    """The px of a screenshot behind a line.

    Args:
        pixels: of the window.
        box: of the line in it, CSS px.
        scale: px of the screenshot to a CSS px.
    """
    upper, lower, left, right = (
        max(0, round(edge * scale)) for edge in (box.top, box.bottom, box.left, box.right)
    )
    return pixels[upper:lower, left:right]
