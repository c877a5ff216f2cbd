"""Whether a brief's selectors hit a page's elements, and whether our rules win there."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from difflib import get_close_matches
from pathlib import Path
from typing import Any

import cssselect2
import tinycss2

from brightcanvas.brief.brief import Brief, names_by_page, page_named
from brightcanvas.css.selectors import compiled
from brightcanvas.delivery.markup import SHEET, sheet_name
from brightcanvas.html.tree import Node
from brightcanvas.page.folder import folder_of
from brightcanvas.page.likely_boxes import likely_height, likely_width
from brightcanvas.page.reading import OURS, Page, label, read_page
from brightcanvas.values.environments import environment_of
from brightcanvas.values.files import LARGEST_RECORD, read_regular
from brightcanvas.values.screens import DEVICES, Screen

_MARKED = re.compile(r"([.#])([\w-]+)")
PSEUDO = re.compile(r"::?(?:before|after)\b")


@dataclass(frozen=True)
class Rival:
    """A declaration that wins over ours."""

    device: str
    where: str
    """The style sheet, or ``style attribute``."""
    says: str


@dataclass(frozen=True)
class SelectorMatch:
    """One backdrop's selector on a page."""

    backdrop: str
    selector: str
    hits: tuple[str, ...]
    """The elements, as people name them."""
    width: float | None
    """CSS px of the first one's likely box on the widest screen."""
    height: float | None
    """CSS px that style sheets state for it there; None: its content decides."""
    rivals: tuple[Rival, ...]
    advice: str

    @property
    def is_good(self) -> bool:
        """Whether it hits something, and our rules win."""
        return bool(self.hits) and not self.rivals


def aim(
    page: Page, backdrop: str, selector: str, devices: Sequence[Screen], *, forced: bool = False
) -> SelectorMatch:
    """How one backdrop's selector does on a page.

    Args:
        page: read with our style sheet, if there is one.
        backdrop: its name.
        selector: of its element.
        devices: screens to try.
        forced: whether the brief already asks to win against inline styles.
    """
    elements = hit(page, PSEUDO.sub("", selector))
    widest = environment_of(max(devices, key=lambda one: one.viewport.width))
    rivals = tuple(_rivals(page, elements, devices)) if elements else ()
    return SelectorMatch(
        backdrop,
        selector,
        tuple(label(one.etree_element) for one in elements),
        likely_width(page, elements[0], widest) if elements else None,
        likely_height(page, elements[0], widest) if elements else None,
        rivals,
        _advice(page, selector, elements, rivals, forced=forced),
    )


def hit(page: Page, selector: str) -> list[Any]:
    """The elements that a selector hits, those in templates left out."""
    matcher = cssselect2.Matcher()
    for one in compiled(selector) or ():
        matcher.add_selector(one, None)
    return [
        one
        for one in page.cascade.elements
        if matcher.match(one) and not page.is_inert(one.etree_element)
    ]


def _rivals(page: Page, elements: Sequence[Any], devices: Sequence[Screen]) -> Iterator[Rival]:
    """Where another background than ours wins, each only once."""
    told: set[tuple[str, str]] = set()
    for element in elements:
        if not any(one.base == OURS for one in page.cascade.declared(element)):
            continue
        for device in devices:
            winner = page.cascade.styles(environment_of(device)).winner(element)
            if winner is None or winner[0].base == OURS:
                continue
            said = tinycss2.serialize(winner[0].value).strip()
            where = winner[0].origin.rpartition("/")[2] or winner[0].origin
            if (where, said) not in told:
                told.add((where, said))
                yield Rival(device.figures, where, f"{winner[0].name}: {said}")


def _advice(
    page: Page, selector: str, elements: Sequence[Any], rivals: Sequence[Rival], *, forced: bool
) -> str:
    if not elements:
        return meant_instead(page, selector)
    if rivals and forced:
        return "force = true is set, and isn't enough: name the element more closely (#id, classes)"
    if any(one.where == "style attribute" for one in rivals):
        return "the host writes it into the element: force = true wins"
    if rivals:
        return "name the element more closely (#id, or two classes), or use force = true"
    if len(elements) > 1:
        return "all of them get the same picture; name one more closely if that isn't meant"
    return ""


def meant_instead(page: Page, selector: str, likeness: float = 0.6) -> str:
    """What may have been meant where nothing is hit.

    Args:
        page: as read.
        selector: that hits nothing.
        likeness: of names that may have been mixed up, 0..1, at least.
    """
    classes = {name for node in page.root.iter() for name in _words(node, "class")}
    names = {name for node in page.root.iter() for name in _words(node, "id")}
    for mark, name in _MARKED.findall(selector):
        here, there = (classes, names) if mark == "." else (names, classes)
        other = "#" if mark == "." else "."
        if name not in here and name in there:
            kinds = ("a class", "an id") if mark == "." else ("an id", "a class")
            return f"'{name}' is {kinds[1]} on this page, not {kinds[0]}: write {other}{name}"
        if name not in here:
            close = get_close_matches(name, sorted(here), n=1, cutoff=likeness)
            hint = f"; did you mean {mark}{close[0]}?" if close else ""
            return f"nothing on this page has {mark}{name}{hint}"
    return "no element of this page is like that"


def _words(node: Node, name: str) -> list[str]:
    value = node.get(name) if isinstance(node.tag, str) else None
    return str(value).split() if value else []


@dataclass(frozen=True)
class PageHits:
    """A brief's selectors on a page."""

    found: tuple[SelectorMatch, ...]
    shared: tuple[str, ...]
    """Backdrops that fill one element, in words: only the later one is seen there."""
    is_built: bool
    """Whether there are rules of ours, so that whose win is known."""

    @property
    def is_good(self) -> bool:
        """Whether each hits something of its own, and our rules win."""
        return all(one.is_good for one in self.found) and not self.shared


def hits_on(path: Path, brief: Brief, root: Path | None) -> PageHits:
    """What a brief's selectors hit on a page, and who would win there.

    Args:
        path: of the page.
        brief: as loaded.
        root: what ``/`` is on the page's host; None: its folder.

    Raises:
        BriefError: there is no such page.
    """
    wish = page_named(brief.pages, path)
    own = brief.output / (sheet_name(wish.name) if wish else SHEET)
    sheet = own if own.is_file() else brief.output / SHEET
    is_built = sheet.is_file()
    ours = read_regular(sheet, LARGEST_RECORD).decode() if is_built else ""
    page = read_page(folder_of(path, root), ours)
    on_it = dict(names_by_page(brief.pages, [one.name for one in brief.backdrops]))
    names = on_it[wish.name] if wish else {one.name for one in brief.backdrops}
    found = tuple(
        aim(page, one.name, one.element, DEVICES, forced=one.force)
        for one in brief.backdrops if one.name in names
    )  # fmt: skip
    return PageHits(found, tuple(_shared(page, found)), is_built)


def _shared(page: Page, found: Sequence[SelectorMatch]) -> Iterator[str]:
    """Two backdrops on one element: only the later one's rules are seen there."""
    owners: dict[int, SelectorMatch] = {}
    for one in found:
        for element in hit(page, PSEUDO.sub("", one.selector)):
            before = owners.setdefault(id(element.etree_element), one)
            both = PSEUDO.findall(before.selector) == PSEUDO.findall(one.selector)
            if before is not one and both:
                name = label(element.etree_element)
                yield (
                    f"{before.backdrop} and {one.backdrop} both fill {name}: only {one.backdrop}"
                    " is seen; give each an element of its own"
                )
                break
