"""From a page to the entries of a first brief, which gives back the page as it looks."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from urllib.parse import unquote, urlsplit

from brightcanvas.analysis.saliency import Suggestion, suggest_subject
from brightcanvas.browsers.window import Window
from brightcanvas.css.backgrounds import Layer, declared_layers
from brightcanvas.drafting.draft import (
    LOOKED_AT,
    BriefDraft,
    DraftedBackdrop,
    DraftedPage,
    LeftOut,
    Range,
    WantedPicture,
    breakpoints_of,
    others_left_out,
)
from brightcanvas.drafting.own_rules import (
    KeptError,
    OwnRule,
    SeenRule,
    Stretch,
    rule_of,
    stretches_of,
)
from brightcanvas.drafting.sections import (
    Section,
    Sources,
    img_sections,
    least_selector,
    needed_strength,
    sections_of,
    strength_of,
)
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.inspecting.facts import PageFacts, SeenScreen
from brightcanvas.measuring.elements import (
    IMG,
    ElementLayout,
    LargePicture,
    files_of,
    large_pictures,
    measured,
)
from brightcanvas.page.aim import hit, meant_instead
from brightcanvas.page.embedded import picture_of
from brightcanvas.page.folder import Folder
from brightcanvas.page.likely_boxes import likely_height, likely_width
from brightcanvas.page.reading import Page, path_of, read_page
from brightcanvas.page.site import FetchedFolder
from brightcanvas.rehearsal.rehearsing import hero_of
from brightcanvas.serving.opened_page import opened
from brightcanvas.values.environments import Environment
from brightcanvas.values.errors import BriefError
from brightcanvas.values.geometry import Size
from brightcanvas.values.layers import PICTURE
from brightcanvas.values.legible import MeasuredWindow
from brightcanvas.values.page_text import joined
from brightcanvas.values.screens import DEVICES
from brightcanvas.values.words import bytes_text
from brightcanvas.values.work import Told, nobody

GUESSED_HEIGHT = 420.0
"""CSS px, where nothing was measured and no rule says one."""

CLEAR = 0.3
"""Certainty of a suggestion from which on it is worth an offer."""


def draft_of(
    folders: Sequence[Folder], browser: str | None, told: Told = nobody,
    wanted: WantedPicture | None = None,
) -> BriefDraft:  # fmt: skip
    """A first brief of the pages of a site.

    Args:
        folders: of the pages.
        browser: that measures boxes and what is painted; None: they are guessed from the style
            sheets.
        told: is told of each window that was measured.
        wanted: the one backdrop that is drafted then; None: those that the pages have.

    Raises:
        BriefError: no page has the element that a picture is wanted for.
        MachineError: the browser fails.
    """
    if wanted:
        return _wanted(folders, browser, told, wanted)
    count = itertools.count(1)
    found = [_page(one, browser, lambda _: told(next(count))) for one in folders]
    kept = [one for page in found for one in page.kept]
    edges = (stretch.low for one in kept for stretch in one.stretches if stretch.low)
    ranges = breakpoints_of(found[0].facts.page, edges)
    suggestions = _suggestions(kept)
    entries = _merged(
        replace(_entry(page.facts, one, ranges, suggestions), pages=(page.name,))
        for page in found for one in page.kept
    )  # fmt: skip
    read = tuple(dict.fromkeys(path for page in found for path in files_of(page.facts.page)))
    pages = tuple(DraftedPage(one.name, one.file, tuple(one.left_out)) for one in found)
    boxes = _boxes(entries, found) if browser else {}
    return BriefDraft(_title(found[0].facts.page), ranges, entries, boxes, read, suggestions, pages)


@dataclass(frozen=True)
class _Page:
    """What was found on one page."""

    name: str
    file: Path | None
    facts: PageFacts
    kept: Sequence[_Kept]
    left_out: Sequence[LeftOut]


def _page(folder: Folder, browser: str | None, told: Told) -> _Page:
    page = read_page(folder)
    facts = PageFacts(page, DEVICES)
    aimed = [_aimed(facts, one) for one in sections_of(facts)]
    seen = _Seen()
    if browser:
        with opened(folder, browser) as window:
            pictures = _large(window)
            aimed += [_aimed(facts, one) for one in img_sections(facts, pictures)]
            boxes = _measured(window, [one.selector for one in aimed], page, told)
            seen = _Seen(boxes, pictures)
    kept, left_out = _kept(facts, aimed, seen, Sources(facts))
    known = {(path, one.section.pseudo) for one in aimed for path in one.paths}
    known |= {(one.section.name, url) for one in aimed for url in one.section.urls}
    left_out += others_left_out(seen.pictures, known)
    return _Page(_page_name(page), _file_of(folder), facts, kept, left_out)


def _file_of(folder: Folder) -> Path | None:
    return None if isinstance(folder, FetchedFolder) else folder.page


def _page_name(page: Page) -> str:
    """A page as a brief names it: by its path, in small letters and hyphens."""
    path = unquote(urlsplit(page.address).path).lower().rpartition(".")[0] or "index"
    return "-".join(re.findall(r"[a-z0-9]+", path))[:60].strip("-") or "index"


def _merged(entries: Iterable[DraftedBackdrop]) -> tuple[DraftedBackdrop, ...]:
    """What several pages share stands once, with all of them."""
    found: dict[tuple[object, ...], DraftedBackdrop] = {}
    for one in entries:
        key = (one.element, one.rules, one.force)
        before = found.get(key)
        found[key] = replace(before, pages=(*before.pages, *one.pages)) if before else one
    return tuple(found.values())


def _boxes(
    entries: Iterable[DraftedBackdrop], found: Sequence[_Page]
) -> dict[str, dict[str, tuple[MeasuredWindow, ...]]]:
    """By the first page of each backdrop, its boxes on all pages that show it."""
    laid = {
        (page.name, one.aimed.selector): tuple(each.window for each in one.laid)
        for page in found for one in page.kept
    }  # fmt: skip
    boxes: dict[str, dict[str, tuple[MeasuredWindow, ...]]] = {}
    for one in entries:
        windows = [window for name in one.pages for window in laid[name, one.element]]
        boxes.setdefault(one.pages[0], {})[one.element] = tuple(windows)
    return boxes


def _wanted(
    folders: Sequence[Folder], browser: str | None, told: Told, wanted: WantedPicture
) -> BriefDraft:
    """A brief for one picture on an element of the first page that has it."""
    pages = [read_page(one) for one in folders]
    page = next((one for one in pages if hit(one, wanted.element)), None)
    if page is None:
        advice = meant_instead(pages[0], wanted.element)
        raise BriefError(f"{wanted.element} hits no element of the page; {advice}")
    laid: Sequence[ElementLayout] = ()
    if browser:
        with opened(page.folder, browser) as window:
            laid = _measured(window, [wanted.element], page, told).get(wanted.element, ())
    ranges = breakpoints_of(page, ())
    rule = OwnRule(wanted.picture, PICTURE, "cover", None, "scroll")
    suggestion = suggest_subject(read_picture(wanted.picture, LOOKED_AT))
    strength, force = needed_strength(page, hit(page, wanted.element)[0], "")
    entry = DraftedBackdrop(
        wanted.element, _is_above(laid), force or strength > strength_of(wanted.element),
        (rule,) * len(ranges), pages=(_page_name(page),), is_new=True,
        subject=suggestion.point if suggestion.confidence >= CLEAR else None,
        height="" if laid else f"{GUESSED_HEIGHT:g}px",
    )  # fmt: skip
    drafted = DraftedPage(entry.pages[0], _file_of(page.folder), ())
    boxes = {wanted.element: tuple(one.window for one in laid)} if laid else {}
    return BriefDraft(
        _title(page), ranges, (entry,), {entry.pages[0]: boxes} if boxes else {}, files_of(page),
        {wanted.picture: suggestion}, (drafted,),
    )  # fmt: skip


def _title(page: Page) -> str:
    titled = page.root.find(".//title")
    return " ".join("".join(titled.itertext()).split()) if titled is not None else ""


@dataclass(frozen=True)
class _Aimed:
    """A section with the selector of its element."""

    section: Section
    selector: str
    needs_force: bool
    paths: tuple[str, ...]


@dataclass(frozen=True)
class _Seen:
    """What a browser showed; nothing where none was asked."""

    boxes: Mapping[str, Sequence[ElementLayout]] = field(default_factory=dict)
    pictures: Sequence[LargePicture] = ()


@dataclass(frozen=True)
class _Kept:
    """A section that can be drafted."""

    aimed: _Aimed
    stretches: tuple[Stretch, ...]
    laid: Sequence[ElementLayout]


def _aimed(facts: PageFacts, section: Section) -> _Aimed:
    element = section.elements[0]
    strength, is_forced = needed_strength(facts.page, element, section.pseudo)
    if section.is_img:  # its rules stay, whatever they say
        strength, is_forced = (0, 0, 0), False
    selector, is_strong = least_selector(facts.page, section.elements, strength, section.pseudo)
    paths = tuple(path_of(facts.page, one.etree_element) for one in section.elements)
    return _Aimed(section, selector, is_forced or not is_strong, paths)


LARGE_SEEN_IN = (Size(1440, 844), Size(390, 844))
"""Windows in which large pictures are looked for that no style sheet shows."""


def _large(window: Window) -> list[LargePicture]:
    found: list[LargePicture] = []
    for size in LARGE_SEEN_IN:
        window.resize(Environment(size.width, size.height))
        is_wide = size == LARGE_SEEN_IN[0]  # on a phone every picture of the text is large
        found += [one for one in large_pictures(window) if is_wide or one.kind != IMG]
    return found


def _measured(
    window: Window, selectors: Sequence[str], page: Page, told: Told
) -> dict[str, list[ElementLayout]]:
    """The elements in all windows in which they have a box."""
    found: dict[str, list[ElementLayout]] = {}
    rows = measured(window, selectors, page) if selectors else ()
    for number, row in enumerate(rows, 1):
        told(number)
        for selector, one in zip(selectors, row, strict=True):
            if one is not None and one.box.width >= 1 and one.box.height >= 1:
                found.setdefault(selector, []).append(one)
    return found


def _kept(
    facts: PageFacts, aimed: Iterable[_Aimed], seen: _Seen, sources: Sources
) -> tuple[list[_Kept], list[LeftOut]]:
    """What can be drafted, and what can't, with the reason."""
    kept: list[_Kept] = []
    left_out: list[LeftOut] = []
    for one in aimed:
        laid = seen.boxes.get(one.selector, ())
        try:
            rules = (
                _from_browser(facts, one, laid, sources)
                if laid
                else _from_sheets(facts, one, sources)
            )
            kept.append(_Kept(one, stretches_of(rules), laid))
        except KeptError as error:
            left_out.append(LeftOut(one.section.name, str(error)))
    return kept, left_out


def _from_browser(
    facts: PageFacts, aimed: _Aimed, laid: Sequence[ElementLayout], sources: Sources
) -> list[SeenRule]:
    found = [SeenRule(one.viewport, rule_of(one.layers, one.box.size, sources.of)) for one in laid]
    if any(one.rule.source for one in found):
        return found
    urls = {url for one in facts.seen for url in _urls_on(facts, aimed.section, one)}
    if not urls:
        raise KeptError("it shows its picture in no window: a script takes it away")
    names = " ".join(sorted(facts.file_name(url) for url in urls))
    raise KeptError(
        "it shows its picture under conditions besides the window's size, such as touch, which no"
        f" brief can say yet: make its file lighter, bright-canvas compress {names}"
    )


def _from_sheets(facts: PageFacts, aimed: _Aimed, sources: Sources) -> list[SeenRule]:
    """As the style sheets declare it, in boxes that are guessed."""
    element, pseudo = aimed.section.elements[0], aimed.section.pseudo
    found = []
    for one in facts.seen:
        viewport = Size(one.environment.width, one.environment.height)
        layers = declared_layers(one.styles, element, pseudo)
        base = aimed.section.declared.base if aimed.section.declared else ""
        resolved = [replace(each, image=_resolved(each.image, base)) for each in layers]
        rule = rule_of(resolved, _guessed(facts, aimed.section, one.environment.width), sources.of)
        found.append(SeenRule(viewport, replace(rule, position=None)))  # a guess cuts nothing off
    return found


def _resolved(image: str, base: str) -> str:
    """A layer with its URL made absolute, where it is a plain one."""
    found = Layer(image, "", "", "", "").urls
    return f'url("{joined(base, found[0])}")' if len(found) == 1 else image


def _guessed(facts: PageFacts, section: Section, width: float) -> Size:
    """A box by what the style sheets say, where nothing was measured."""
    element = section.elements[0]
    environment = min(
        (one.environment for one in facts.seen), key=lambda one: abs(one.width - width)
    )
    across = likely_width(facts.page, element, environment)
    return Size(across, likely_height(facts.page, element, environment) or GUESSED_HEIGHT)


def _suggestions(kept: Iterable[_Kept]) -> dict[Path, Suggestion]:
    paths = dict.fromkeys(
        stretch.rule.source for one in kept for stretch in reversed(one.stretches)
        if stretch.rule.source
    )  # fmt: skip
    return {path: suggest_subject(read_picture(path, LOOKED_AT)) for path in paths}


def _entry(
    facts: PageFacts, kept: _Kept, ranges: Sequence[Range], suggestions: Mapping[Path, Suggestion]
) -> DraftedBackdrop:
    section = kept.aimed.section
    rules = tuple(_rule_at(kept.stretches, one.low) for one in ranges)
    if any(rule.source and rule.position is None for rule in rules):
        rules = tuple(replace(rule, position=None) for rule in rules)  # none can't be written
    entry = DraftedBackdrop(
        kept.aimed.selector, _is_first(facts, section, kept.laid), kept.aimed.needs_force, rules,
        tuple(_notes(facts, section)), is_img=section.is_img,
    )  # fmt: skip
    best = suggestions[entry.sources[0]]
    height = "" if kept.laid else f"{_guessed(facts, section, 1440).height:g}px"
    return replace(entry, height=height, subject=best.point if best.confidence >= CLEAR else None)


def _rule_at(stretches: Sequence[Stretch], low: float) -> OwnRule:
    return [one for one in stretches if one.low <= low][-1].rule


def _is_first(facts: PageFacts, section: Section, laid: Sequence[ElementLayout]) -> bool:
    """Whether it begins in the first view on most windows."""
    if laid:
        return _is_above(laid)
    node = section.elements[0].etree_element
    heroes = [hero_of(one.load) for one in facts.seen]
    return any(hero is not None and hero.node is node for hero in heroes)


def _is_above(laid: Sequence[ElementLayout]) -> bool:
    seen = [one.is_shown and one.box.top < 0.6 * one.viewport.height for one in laid]
    return sum(seen) > len(seen) / 2


def _notes(facts: PageFacts, section: Section) -> Iterator[str]:
    """What stands there now: the rule, and the weight on a phone and on a desk."""
    declared, node = section.declared, section.elements[0].etree_element
    place = facts.at_rule(declared, node) if declared else facts.at(node)
    names = ", ".join(facts.file_name(url) for url in section.urls[:3])
    yield f"{place.told.replace('  ', ' ')} shows {names}"
    weights = []
    for one in (facts.seen[1], facts.seen[4]):
        urls = _urls_on(facts, section, one)
        weight = sum(facts.bytes_of(url) for url in urls)
        weights.append(f"{one.screen.name} {bytes_text(weight)}")
    yield ", ".join(weights)


def _urls_on(facts: PageFacts, section: Section, seen: SeenScreen) -> list[str]:
    """The files that it fetches on a screen."""
    if not section.is_img:
        return seen.styles.backgrounds(section.elements[0], section.pseudo)
    url = picture_of(facts.page, section.elements[0].etree_element, seen.environment)
    return [facts.page.resolved(url)] if url else []
