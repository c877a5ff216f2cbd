"""What a real browser showed of a page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from brightcanvas.measuring.letters import ReadLine
from brightcanvas.measuring.measure import Laid
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class Look:
    """The page on one screen in a browser."""

    screen: Screen
    browser: str
    boxes: Mapping[int, Laid]
    """By the identity of the nodes of the page's tree."""
    asked: frozenset[str]
    """The URLs that it asked the page's own host for."""
    lines: Mapping[int, tuple[ReadLine, ...]]
    """Copy above each element with a picture, in the first view."""
