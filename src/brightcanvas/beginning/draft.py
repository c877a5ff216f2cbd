"""What goes into a first brief: plain data, from the pages to the file."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.beginning.breakpoints import Range
from brightcanvas.beginning.left_out import LeftOut
from brightcanvas.beginning.rules import OwnRule
from brightcanvas.formats.loaded import load
from brightcanvas.formats.pictures import read_picture
from brightcanvas.values.geometry import Point
from brightcanvas.values.measured import MeasuredWindow
from brightcanvas.values.raster import Raster

LOOKED_AT = 1000
"""Px across of a source in which a subject is looked for."""


@dataclass(frozen=True)
class LookedAt:
    """A source in which a subject is suggested."""

    name: str
    picture: Raster
    suggestion: Suggestion


@dataclass(frozen=True)
class Entry:
    """One backdrop of a first brief."""

    element: str
    is_first: bool
    force: bool
    """Whether the page's own rule would win otherwise."""
    rules: tuple[OwnRule, ...]
    """What the page shows at each breakpoint, the narrowest first."""
    notes: tuple[str, ...] = ()
    """What stands there now."""
    subject: Point | None = None
    """What stands out, in fractions of the source; None: nothing much."""
    height: str = ""
    """Guessed; empty: the boxes were measured."""
    pages: tuple[str, ...] = ()
    """The names of those that it is on."""
    is_img: bool = False
    """Whether it is an ``img`` of the page's own."""
    is_new: bool = False
    """Whether the page had no picture there: then the rules are ours, and so is how it is shown."""

    @property
    def sources(self) -> tuple[Path, ...]:
        """Each once, that of the widest screens first."""
        named = (one.source for one in reversed(self.rules) if one.source)
        return tuple(dict.fromkeys(named))


@dataclass(frozen=True)
class Wanted:
    """A picture for an element that shows none yet."""

    picture: Path
    element: str
    """Selector."""


@dataclass(frozen=True)
class DraftedPage:
    """A page that was drafted from."""

    name: str
    file: Path | None
    """None: it was named by its address."""
    left_out: tuple[LeftOut, ...]
    """What shows a picture too, and why it isn't drafted."""


@dataclass(frozen=True)
class Draft:
    """All that goes into a first brief."""

    title: str
    ranges: tuple[Range, ...]
    entries: tuple[Entry, ...]
    boxes: Mapping[str, Mapping[str, tuple[MeasuredWindow, ...]]]
    """Measured boxes and copy, by the page, and there by the selector of their element."""
    read: tuple[Path, ...]
    """The pages and their style sheets."""
    suggestions: Mapping[Path, Suggestion]
    pages: tuple[DraftedPage, ...]


SOURCES = "sources"
"""Where the pictures of a page go that was named by its address."""


def with_own_sources(draft: Draft, folder: Path) -> tuple[Draft, dict[Path, bytes]]:
    """The draft with its sources in a folder beside the brief, and what has to be written there.

    Args:
        draft: of a page whose files were fetched, and are gone afterwards.
        folder: of the brief.
    """
    places = {path: folder / SOURCES / path.name for path in draft.suggestions}
    entries = tuple(
        replace(one, rules=tuple(
            replace(rule, source=places[rule.source]) if rule.source else rule
            for rule in one.rules
        ))
        for one in draft.entries
    )  # fmt: skip
    suggestions = {places[path]: one for path, one in draft.suggestions.items()}
    contents = {place: load(path).content for path, place in places.items()}
    return replace(draft, entries=entries, suggestions=suggestions), contents


def looked_at(draft: Draft) -> Iterator[LookedAt]:
    """The sources in which subjects are suggested."""
    for path, suggestion in draft.suggestions.items():
        yield LookedAt(path.name, read_picture(path, LOOKED_AT), suggestion)
