"""From a page to the entries of a first brief."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path

from brightcanvas.analysis.saliency import Suggestion, suggest_subject
from brightcanvas.beginning.breakpoints import Range, breakpoints_of
from brightcanvas.beginning.focus import focus_of
from brightcanvas.beginning.sections import Section, sections_of
from brightcanvas.beginning.selectors import least_selector, needed_strength
from brightcanvas.beginning.shapes import Box, height_of, padding_of, width_of
from brightcanvas.beginning.writing import EVEN, Entry, Shape
from brightcanvas.formats.pictures import read_picture
from brightcanvas.framing.copies import hull
from brightcanvas.inspecting.facts import Facts
from brightcanvas.measuring.measure import Laid, measured
from brightcanvas.measuring.site import files_of, opened
from brightcanvas.measuring.windows import cuts_of
from brightcanvas.page.boxes import likely_height, likely_width
from brightcanvas.page.folder import Folder
from brightcanvas.page.reading import read_page
from brightcanvas.rehearsal.rehearsing import DEVICES, hero_of
from brightcanvas.values.geometry import Point, Rect, Size, Span
from brightcanvas.values.measured import MeasuredWindow
from brightcanvas.values.raster import Raster

GUESSED_HEIGHT = 420.0
"""CSS px, where nothing was measured and no rule says one."""

LOOKED_AT = 1000
"""Px across of a source in which a subject is looked for."""


@dataclass(frozen=True)
class LookedAt:
    """A source in which a subject is suggested."""

    name: str
    picture: Raster
    suggestion: Suggestion
    used: Point | None
    """What the brief names, in fractions; None: it names none."""


@dataclass(frozen=True)
class Draft:
    """All that goes into a first brief."""

    title: str
    ranges: tuple[Range, ...]
    entries: tuple[Entry, ...]
    copies: Mapping[str, tuple[MeasuredWindow, ...]]
    """Measured copy, by the selector of its element."""
    read: tuple[Path, ...]
    """The page and its style sheets."""
    suggestions: Mapping[Path, Suggestion]


SOURCES = "sources"
"""Where the pictures of a page go that was named by its address."""


def with_own_sources(draft: Draft, folder: Path) -> tuple[Draft, dict[Path, bytes]]:
    """The draft with its sources in a folder beside the brief, and what has to be written there.

    Args:
        draft: of a page whose files were fetched, and are gone afterwards.
        folder: of the brief.
    """
    places = {path: folder / SOURCES / path.name for path in draft.suggestions}
    entries = tuple(replace(one, source=places[one.source]) for one in draft.entries)
    suggestions = {places[path]: one for path, one in draft.suggestions.items()}
    contents = {place: path.read_bytes() for path, place in places.items()}
    return replace(draft, entries=entries, suggestions=suggestions), contents


def draft_of(folder: Folder, browser: str | None) -> Draft:
    """A first brief of a page.

    Args:
        folder: of the page.
        browser: that measures boxes and copy; None: they are guessed from the style sheets, and
            there is no copy.

    Raises:
        MachineError: the browser fails.
    """
    page = read_page(folder)
    facts = Facts(page, DEVICES)
    sections = sections_of(facts)
    aimed = [_aimed(facts, one) for one in sections]
    selectors = [one.selector for one in aimed]
    boxes = _laid(folder, selectors, browser, cuts_of(page)) if browser and sections else {}
    ranges = breakpoints_of(page)
    found = {one.source.path: _suggested(one) for one in sections}
    entries = [_entry(facts, one, boxes.get(one.selector, []), ranges, found) for one in aimed]
    titled = page.root.find(".//title")
    copies = {one: tuple(laid.window for laid in rows) for one, rows in boxes.items()}
    return Draft(
        " ".join("".join(titled.itertext()).split()) if titled is not None else "",
        ranges, tuple(entries), copies, files_of(page), found,
    )  # fmt: skip


@dataclass(frozen=True)
class _Aimed:
    """A section with the selector of its element."""

    section: Section
    selector: str
    needs_force: bool


def _aimed(facts: Facts, section: Section) -> _Aimed:
    strength, is_forced = needed_strength(facts.page, section.elements[0])
    selector, is_strong = least_selector(facts.page, section.elements, strength)
    return _Aimed(section, selector, is_forced or not is_strong)


def _laid(
    folder: Folder, selectors: Sequence[str], browser: str, cuts: Sequence[float]
) -> dict[str, list[Laid]]:
    found: dict[str, list[Laid]] = {}
    with opened(folder, browser) as window:
        for row in measured(window, selectors, cuts):
            for selector, one in zip(selectors, row, strict=True):
                if one is not None and one.is_shown and one.box.width >= 1 and one.box.height >= 1:
                    found.setdefault(selector, []).append(one)
    return found


def _suggested(section: Section) -> Suggestion:
    return suggest_subject(read_picture(section.source.path, LOOKED_AT))


def _entry(
    facts: Facts, aimed: _Aimed, laid: Sequence[Laid], ranges: Sequence[Range],
    suggestions: Mapping[Path, Suggestion],
) -> Entry:  # fmt: skip
    section = aimed.section
    boxes = [_box(one) for one in laid] or _guessed(facts, section)
    suggestion = suggestions[section.source.path]
    focus = _focus(facts, section, boxes)
    behind = laid[-1].colour if laid and laid[-1].colour.alpha == 1 else None
    return Entry(
        aimed.selector,
        section.source.path,
        _is_first(facts, section, laid),
        aimed.needs_force,
        tuple(_shape(boxes, laid, span) for span in _spans(ranges)),
        None if section.is_pattern else focus or suggestion.point,
        "page" if focus else "clear" if suggestion.confidence >= CLEAR else "guess",
        any(one.lines for one in laid),
        behind.css if behind else "",
        "repeat" if section.is_pattern else "",
        tuple(_notes(facts, section)),
    )


CLEAR = 0.3
"""Certainty of a suggestion from which on it is more than a guess."""


def _focus(facts: Facts, section: Section, boxes: Sequence[Box]) -> Point | None:
    """What the page's own position shows on a phone, where a picture loses most."""
    narrow = min(boxes, key=lambda one: one.size.aspect)
    seen = min(facts.seen, key=lambda one: abs(one.viewer.width - narrow.viewport.width))
    styles, element = seen.styles, section.elements[0]
    is_fixed = styles.word(element, "background-attachment") == "fixed" or any(
        token.type == "ident" and token.lower_value == "fixed"
        for token in styles.value(element, ("background-attachment", "background"))
    )
    box = narrow.viewport if is_fixed else narrow.size
    return focus_of(styles, element, section.source.size, box)


def _spans(ranges: Sequence[Range]) -> list[Span]:
    edges = [0.0, *(one.below for one in ranges if one.below), math.inf]
    if not ranges:
        edges = [0.0, 640.0, 1100.0, math.inf]
    return [Span(low, high) for low, high in pairwise(edges)]


def _shape(boxes: Sequence[Box], laid: Sequence[Laid], span: Span) -> Shape:
    """What the boxes within a breakpoint follow."""
    own = [one for one in boxes if span.low <= one.viewport.width < span.high] or list(boxes)
    lines = [
        line.box for one in laid if span.low <= one.viewport.width < span.high for line in one.lines
    ]
    height = height_of(own)
    scrim = scrim_for(hull(lines)) if lines else ""
    return Shape(height.rule, height.growth, width_of(own), padding_of(own), scrim)


def scrim_for(copy: Rect) -> str:
    """From which side a scrim lies under the copy and leaves most of the picture alone.

    Args:
        copy: round all lines in all windows, in fractions of the element.
    """
    taken = {
        "left": copy.right, "right": 1 - copy.left, "top": copy.bottom, "bottom": 1 - copy.top,
    }  # fmt: skip
    side = min(taken, key=lambda one: taken[one])
    return side if taken[side] <= MOST_TAKEN else EVEN


MOST_TAKEN = 0.66
"""Share of an element that copy may take from one side, so that a scrim there leaves some free."""


def _box(one: Laid) -> Box:
    return Box(one.viewport, one.box.size, one.paddings if one.is_content_box else None)


def _guessed(facts: Facts, section: Section) -> list[Box]:
    """Boxes by what the style sheets say, where nothing was measured."""
    element = section.elements[0]
    found = []
    for one in facts.seen:
        width = likely_width(facts.page, element, one.viewer)
        height = likely_height(facts.page, element, one.viewer) or GUESSED_HEIGHT
        viewport = Size(one.viewer.width, one.viewer.height)
        found.append(Box(viewport, Size(width, height)))
    return found


def _is_first(facts: Facts, section: Section, laid: Sequence[Laid]) -> bool:
    """Whether it begins in the first view on most windows."""
    if laid:
        seen = [one.box.top < 0.6 * one.viewport.height for one in laid]
        return sum(seen) > len(seen) / 2
    node = section.elements[0].etree_element
    heroes = [hero_of(one.load) for one in facts.seen]
    return any(hero is not None and hero.node is node for hero in heroes)


def _notes(facts: Facts, section: Section) -> list[str]:
    """What stands there now: the rule, and the weight on a phone and on a desk."""
    declared, node = section.declared, section.elements[0].etree_element
    notes = [f"{facts.at_rule(declared, node).told.replace('  ', ' ')} shows"
             f" {', '.join(section.shown[:3])}"]  # fmt: skip
    for one in (facts.seen[1], facts.seen[4]):
        urls = one.styles.backgrounds(section.elements[0])
        weight = sum(facts.bytes_of(url) for url in urls)
        notes.append(f"{one.screen.name}, {one.screen.figures}: {weight / 1000:.0f} kB")
    if section.source.path.name not in {Path(name).name for name in section.shown}:
        notes.append(f"{section.source.path.name} beside it has the most px: {section.source.size}")
    return notes


def looked_at(draft: Draft) -> Iterator[LookedAt]:
    """The sources in which subjects are suggested."""
    for path, suggestion in draft.suggestions.items():
        used = [one for one in draft.entries if one.source == path and one.found_by != "guess"]
        point = used[0].subject if used else None
        yield LookedAt(path.name, read_picture(path, LOOKED_AT), suggestion, point)
