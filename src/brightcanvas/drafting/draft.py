"""What goes into a first brief: plain data, from the pages to the file."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from pathlib import Path
from urllib.parse import unquote, urlsplit

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.drafting.own_rules import OwnRule
from brightcanvas.formats.loaded import load
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.measuring.elements import BACKGROUND, IMG, LargePicture, cuts_of
from brightcanvas.page.folder import HOST
from brightcanvas.page.reading import Page
from brightcanvas.values.geometry import Point
from brightcanvas.values.legible import MeasuredWindow
from brightcanvas.values.raster import Raster


@dataclass(frozen=True)
class LeftOut:
    """An element that shows a picture and isn't drafted."""

    name: str
    """As people would name it."""
    reason: str
    """With what to do."""


def others_left_out(
    pictures: Iterable[LargePicture], known: AbstractSet[tuple[str, str]]
) -> Iterator[LeftOut]:
    """What a browser showed beside the backgrounds of style sheets, each once.

    Args:
        pictures: that a browser showed.
        known: what is told already: places, each with its pseudo-element, and names, each with a
            URL, for scripts move things.
    """
    told: set[tuple[str, tuple[str, ...]]] = set()
    for one in pictures:
        key = (one.name, one.files)
        is_known = (one.path, one.pseudo) in known or {(one.name, url) for url in one.files} & known
        if is_known or key in told or not _is_backdrop(one):
            continue
        told.add(key)
        yield LeftOut(one.name, _reason(one))


def _is_backdrop(one: LargePicture) -> bool:
    """Whether it lies behind content; a picture of the text does not."""
    return one.kind != IMG or one.fills or one.has_text


def _reason(one: LargePicture) -> str:
    names = ", ".join(dict.fromkeys(_name(url) for url in one.files[:3]))
    if one.kind == BACKGROUND:
        return f"a script shows {names}: write a [[backdrop]] with its element by hand"
    if one.kind == IMG:
        return f"an img shows {names}: to fill the box behind it, form = 'element' by hand"
    return f"a clip, {names}: write a [[backdrop]] with source and [backdrop.clip] by hand"


def _name(url: str) -> str:
    parts = urlsplit(url)
    here = f"{parts.scheme}://{parts.netloc}" == HOST
    return unquote(parts.path).rpartition("/")[2] if here else url


LOWEST, HIGHEST = 480.0, 1400.0
"""CSS px; between them a cut parts phones, tablets and desks."""

APART = 200.0
"""CSS px between two cuts, at least, unless a background changes at both."""

MOST = 2
"""Cuts that are looked for: three breakpoints."""

NAMES = {0: ("every",), 1: ("narrow", "wide"), 2: ("handheld", "midsize", "desk")}


@dataclass(frozen=True)
class Range:
    """A breakpoint of a first brief."""

    name: str
    low: float
    """CSS px; its first width."""
    below: float | None
    """CSS px; None: open upwards."""


def breakpoints_of(page: Page, needed: Iterable[float]) -> tuple[Range, ...]:
    """The widths at which backgrounds change, and the site's cuts that most rules have.

    Args:
        page: as read.
        needed: first widths at which some background is another one, CSS px.
    """
    chosen = sorted(set(needed))
    for cut in cuts_of(page):
        is_apart = all(abs(cut - one) >= APART for one in chosen)
        if LOWEST <= cut <= HIGHEST and is_apart and len(chosen) < MOST:
            chosen.append(cut)
    return _named(sorted(chosen) or [640.0, 1100.0])


def _named(cuts: Sequence[float]) -> tuple[Range, ...]:
    lows, edges = [0.0, *cuts], [*cuts, None]
    names = NAMES.get(len(cuts)) or [f"from-{low:g}" for low in lows]
    return tuple(
        Range(name, low, below) for name, low, below in zip(names, lows, edges, strict=True)
    )


LOOKED_AT = 1000
"""Px across of a source in which a subject is looked for."""


@dataclass(frozen=True)
class LookedAt:
    """A source in which a subject is suggested."""

    name: str
    picture: Raster
    suggestion: Suggestion


@dataclass(frozen=True)
class DraftedBackdrop:
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
class WantedPicture:
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
class BriefDraft:
    """All that goes into a first brief."""

    title: str
    ranges: tuple[Range, ...]
    entries: tuple[DraftedBackdrop, ...]
    boxes: Mapping[str, Mapping[str, tuple[MeasuredWindow, ...]]]
    """Measured boxes and copy, by the page, and there by the selector of their element."""
    read: tuple[Path, ...]
    """The pages and their style sheets."""
    suggestions: Mapping[Path, Suggestion]
    pages: tuple[DraftedPage, ...]


SOURCES = "sources"
"""Where the pictures of a page go that was named by its address."""


def with_own_sources(draft: BriefDraft, folder: Path) -> tuple[BriefDraft, dict[Path, bytes]]:
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


def looked_at(draft: BriefDraft) -> Iterator[LookedAt]:
    """The sources in which subjects are suggested."""
    for path, suggestion in draft.suggestions.items():
        yield LookedAt(path.name, read_picture(path, LOOKED_AT), suggestion)
