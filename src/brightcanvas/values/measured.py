"""Copy as it was measured on a page: where each line lies in each window."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import Letters


@dataclass(frozen=True)
class CopyLine:
    """One line of text above an element."""

    box: Rect
    """In fractions of the element."""
    letters: Letters
    words: str = ""
    """How it begins."""


@dataclass(frozen=True)
class MeasuredWindow:
    """An element in one window, with the text above it."""

    viewport: Size
    """CSS px."""
    element: Size
    """CSS px."""
    lines: tuple[CopyLine, ...]
    is_veiled: bool = False
    """Whether the page lays a layer of its own between the picture and the text."""
