"""How well copy can be read, by the px that a browser shows behind it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.browsers.window import Window
from brightcanvas.colour.contrast import channels, contrast, luminance
from brightcanvas.formats.pictures import decode
from brightcanvas.measuring.measure import Laid
from brightcanvas.values.geometry import Size
from brightcanvas.values.measured import CopyLine

MARK = "bright-canvas-unseen"
HIDE = (
    f"document.head.insertAdjacentHTML('beforeend', '<style id={MARK}>*,*::before,*::after{{color:"
    "transparent!important;-webkit-text-fill-color:transparent!important;text-shadow:none!important;"
    "caret-color:transparent!important;transition:none!important}</style>'), 1"
)
"""Makes all letters invisible, so that only what lies behind them is left."""
SHOW = f"document.getElementById('{MARK}').remove(), 1"

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


def read_lines(pixels: NDArray[np.uint8], one: Laid, top: float, size: Size) -> Iterator[ReadLine]:
    """The lines above an element that lie wholly in a window.

    Args:
        pixels: of the window, without letters.
        one: the element.
        top: how far the page is scrolled, CSS px.
        size: of the window, CSS px.
    """
    for line in one.lines:
        ground = behind(pixels, one, line, top, pixels.shape[1] / size.width)
        if ground.size:
            light = luminance(np.asarray(ground, np.float32) / 255)
            seen = contrast(luminance(channels(line.letters.colour)), light)
            yield ReadLine(line, float(np.percentile(seen, LOWEST_SHARE)))


def behind(
    pixels: NDArray[np.uint8], one: Laid, line: CopyLine, top: float, scale: float
) -> NDArray[np.uint8]:
    """The px of a screenshot behind a line; none where it isn't all in the window.

    Args:
        pixels: of the window.
        one: the element that the line lies above.
        line: of copy.
        top: how far the page is scrolled, CSS px.
        scale: px of the screenshot to a CSS px.
    """
    box, around = line.box, one.box
    edges = (
        around.top + box.top * around.height - top,
        around.top + box.bottom * around.height - top,
        around.left + box.left * around.width, around.left + box.right * around.width,
    )  # fmt: skip
    upper, lower, left, right = (round(edge * scale) for edge in edges)
    if upper < 0 or lower > pixels.shape[0] or left < 0 or right > pixels.shape[1]:
        return pixels[:0]
    return pixels[upper:lower, left:right]
