"""What a page is shown in: a window, its density, and a word on each axis of media features."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from brightcanvas.values.screens import Screen

MEDIUM = "medium"
"""The axis that media types name: a screen or paper; nothing else loads pages any more."""


@dataclass(frozen=True)
class WordAxis:
    """What an environment is, in one of several words: a media feature, or the media types."""

    name: str
    words: tuple[str, ...]
    """All that can be asked for; others make a feature unknown; most people's last."""
    climbs: bool = False
    """Whether a later word has all earlier ones too (``p3`` is ``srgb``): there most people's is
    the first."""

    @property
    def usual(self) -> str:
        """What most people's browsers say."""
        return self.words[0] if self.climbs else self.words[-1]

    def media(self, word: str) -> str:
        """The condition for one word, as media text."""
        return word if self.name == MEDIUM else f"({self.name}: {word})"


AXES: Mapping[str, WordAxis] = {
    one.name: one
    for one in (
        WordAxis(MEDIUM, ("print", "screen")),
        WordAxis("any-hover", ("none", "hover")),
        WordAxis("any-pointer", ("none", "coarse", "fine")),
        WordAxis("color-gamut", ("srgb", "p3", "rec2020"), climbs=True),
        WordAxis(
            "display-mode",
            ("fullscreen", "standalone", "minimal-ui", "picture-in-picture", "browser"),
        ),
        WordAxis("dynamic-range", ("standard", "high"), climbs=True),
        WordAxis("forced-colors", ("active", "none")),
        WordAxis("hover", ("none", "hover")),
        WordAxis("inverted-colors", ("inverted", "none")),
        WordAxis("overflow-block", ("none", "paged", "scroll")),
        WordAxis("overflow-inline", ("none", "scroll")),
        WordAxis("pointer", ("none", "coarse", "fine")),
        WordAxis("prefers-color-scheme", ("dark", "light")),
        WordAxis("prefers-contrast", ("more", "less", "custom", "no-preference")),
        WordAxis("prefers-reduced-motion", ("reduce", "no-preference")),
        WordAxis("prefers-reduced-transparency", ("reduce", "no-preference")),
        WordAxis("scan", ("interlace", "progressive")),
        WordAxis("scripting", ("none", "initial-only", "enabled")),
        WordAxis("update", ("none", "slow", "fast")),
        WordAxis("video-dynamic-range", ("standard", "high"), climbs=True),
    )
}
"""Each axis of words once (Media Queries 5): what can be asked, sampled and emulated."""

KNOWN_TYPES = frozenset(
    ("image/avif", "image/webp", "image/jpeg", "image/png", "image/gif", "image/svg+xml")
)
"""The picture types that every browser of the stated range knows."""


@dataclass(frozen=True)
class FeatureSupport:
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
class Environment:
    """A window on a screen, in the hands of somebody."""

    width: float
    """Of the viewport, CSS px; browsers produce fractional ones."""
    height: float
    density: float = 1.0
    """Device px per CSS px."""
    said: Mapping[str, str | None] = field(default_factory=dict)
    """Words of ``AXES`` that aren't the usual ones; None: an axis unknown to the browser."""
    types: frozenset[str] = KNOWN_TYPES
    """Picture types that the browser knows."""
    drawings_in_sets: bool = False
    """Whether it takes what says ``type("image/svg+xml")`` in an ``image-set``: Firefox does,
    Chromium passes over it."""
    knows: FeatureSupport = field(default_factory=FeatureSupport)
    single_precision: bool = False
    """Whether shares of the window's width are calculated with 24 bits, as WebKit does."""

    def word(self, axis: str) -> str | None:
        """Where it is on an axis of words; None where the browser knows none such."""
        return self.said.get(axis, AXES[axis].usual if axis in AXES else None)


TOUCHED: Mapping[str, str] = {
    "pointer": "coarse", "any-pointer": "coarse", "hover": "none", "any-hover": "none",
}  # fmt: skip
"""What a browser says of a screen that is pointed at with a finger."""


def environment_of(screen: Screen) -> Environment:
    """Most people's browser on a screen."""
    said = TOUCHED if screen.touched else {}
    return Environment(screen.viewport.width, screen.viewport.height, screen.density, said)
