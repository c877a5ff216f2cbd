"""The screen that a page is shown on, as far as the choice of files asks for it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from brightcanvas.values.screens import Screen

USUAL: Mapping[str, str] = {
    "any-hover": "hover",
    "any-pointer": "fine",
    "color-gamut": "srgb",
    "display-mode": "browser",
    "dynamic-range": "standard",
    "forced-colors": "none",
    "hover": "hover",
    "inverted-colors": "none",
    "overflow-block": "scroll",
    "overflow-inline": "scroll",
    "pointer": "fine",
    "prefers-color-scheme": "light",
    "prefers-contrast": "no-preference",
    "prefers-reduced-motion": "no-preference",
    "prefers-reduced-transparency": "no-preference",
    "scan": "progressive",
    "scripting": "enabled",
    "update": "fast",
    "video-dynamic-range": "standard",
}
"""The media features of words, and what most people's browsers say."""

KNOWN_TYPES = frozenset(
    ("image/avif", "image/webp", "image/jpeg", "image/png", "image/gif", "image/svg+xml")
)
"""The picture types that every browser of the stated range knows."""


@dataclass(frozen=True)
class Understood:
    """What decides the choice of files, and browsers have learned over the years."""

    sets: bool = True
    """``image-set`` without a prefix."""
    prefixed_sets: bool = True
    """``-webkit-image-set``, which some learned long before."""
    typed_sets: bool = True
    """``type()`` in it; before, a declaration with it was invalid."""
    level4: bool = True
    """Media Queries 4: ranges, ``or``, and ``not`` before a condition."""
    line_heights: bool = True
    """The length ``lh`` (CSS Values 4)."""
    remainders: bool = True
    """The function ``mod()`` (CSS Values 4, section 10.4)."""
    hints: bool = True
    """``rel=preload``."""
    hint_sets: bool = True
    """``imagesrcset``; before, ``href`` alone counted."""


@dataclass(frozen=True)
class Viewer:
    """A window on a screen, in the hands of somebody."""

    width: float
    """Of the viewport, CSS px; browsers produce fractional ones."""
    height: float
    density: float = 1.0
    """Device px per CSS px."""
    said: Mapping[str, str | None] = field(default_factory=dict)
    """Media features of words that differ from ``USUAL``; None: unknown to the browser."""
    types: frozenset[str] = KNOWN_TYPES
    """Picture types that the browser knows."""
    drawings_in_sets: bool = False
    """Whether it takes what says ``type("image/svg+xml")`` in an ``image-set``: Firefox does,
    Chromium passes over it."""
    knows: Understood = field(default_factory=Understood)
    single_precision: bool = False
    """Whether shares of the window's width are calculated with 24 bits, as WebKit does."""

    def word(self, feature: str) -> str | None:
        """What the browser says to a media feature of words; None where it knows none such."""
        return self.said.get(feature, USUAL.get(feature))


TOUCHED: Mapping[str, str] = {
    "pointer": "coarse", "any-pointer": "coarse", "hover": "none", "any-hover": "none",
}  # fmt: skip
"""What a browser says of a screen that is pointed at with a finger."""


def viewer_of(screen: Screen) -> Viewer:
    """Most people's browser on a screen."""
    said = TOUCHED if screen.touched else {}
    return Viewer(screen.viewport.width, screen.viewport.height, screen.density, said)
