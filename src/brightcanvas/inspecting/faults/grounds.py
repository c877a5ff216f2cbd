"""Copy on a picture that can't be read before the picture is there, or without it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from tinycss2.color4 import parse_color

from brightcanvas.colour.contrast import channels, contrast, luminance, over
from brightcanvas.css.selectors import Declared, Element
from brightcanvas.css.styles import Styles
from brightcanvas.inspecting.facts import PageFacts, SeenScreen
from brightcanvas.inspecting.finding import Confidence, Finding, Place, Severity
from brightcanvas.page.fonts import Typefaces, size_of
from brightcanvas.values.colours import Colour, parse_colour
from brightcanvas.values.layers import GRADIENTS
from brightcanvas.values.legible import Letters
from brightcanvas.values.lengths import bare

NONE, UNREADABLE = "no colour behind", "copy can't be read on the colour"

WHITE = Colour(1.0, 1.0, 1.0)
BLACK = Colour(0.0, 0.0, 0.0)
LARGE = 3.0
"""The contrast that WCAG 2.2, 1.4.3, asks of large text: less than that nobody reads at ease."""

COVERING = 0.5
"""The alpha from which on a ground of its own is what letters are read on."""

HEAVY = 600.0
"""The weight from which on letters are bold."""


@dataclass(frozen=True)
class Worst:
    """The copy that is hardest to read on a colour."""

    contrast: float
    wanted: float
    element: Element
    seen: SeenScreen


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each element with a picture and copy on it, once."""
    for element in facts.pictured:
        worst, stated = None, None
        for one in facts.seen:
            if not one.styles.backgrounds(element) or not one.styles.is_shown(element):
                continue
            ground, own = _ground(one.styles, element)
            found = _worst(facts, one, element, ground)
            if found and (worst is None or found.contrast < worst.contrast):
                worst, stated = found, own
        if worst and round(worst.contrast, 1) < (worst.wanted if stated else LARGE):
            yield _finding(facts, element, worst, stated)


def _finding(facts: PageFacts, element: Element, worst: Worst, stated: Declared | None) -> Finding:
    figure = f"{worst.contrast:.1f}:1"
    copy = worst.element.etree_element.tag
    if stated is not None:
        return Finding(
            UNREADABLE, f"the {copy} has a contrast of {figure} on the colour behind the picture;"
            f" {worst.wanted:g}:1 is wanted",
            facts.at_rule(stated, element.etree_element),
            "take a colour near the picture's own", Severity.SPOILS, (worst.seen.screen,),
            sure=Confidence.LIKELY,
        )  # fmt: skip
    winner = worst.seen.styles.winner(element)
    node = element.etree_element
    place: Place = facts.at_rule(winner[0], node) if winner else facts.at(node)
    return Finding(
        NONE, f"until the picture is there, or without it, the {copy} has a contrast of {figure}",
        place, "write a background-color near the picture's own", Severity.SPOILS,
        tuple(one.screen for one in facts.seen if one.styles.backgrounds(element)),
        sure=Confidence.LIKELY,
    )  # fmt: skip


def _ground(styles: Styles, element: Element) -> tuple[Any, Declared | None]:
    """The colour behind an element's picture as sRGB values, and where it is said."""
    stated: Declared | None = None
    layers: list[Colour] = []
    for one in (element, *reversed(element.ancestors)):
        colour, declared = own_colour(styles, one)
        if colour is None or not colour.alpha:
            continue
        stated = stated or (declared if one is element else None)
        layers.append(colour)
        if colour.alpha >= 1:
            break
    ground = channels(WHITE)
    for colour in reversed(layers):
        ground = over(ground, colour)
    return ground, stated


def own_colour(styles: Styles, element: Element) -> tuple[Colour | None, Declared | None]:
    """The ``background-color`` of an element."""
    names = ("background-color", "background")
    winner = styles.winner_of(element, names)
    return _colour(styles.value(element, names)), winner


def _colour(value: Sequence[Any]) -> Colour | None:
    for token in bare(value):
        text = token.serialize()
        is_colour = token.type in ("hash", "ident") or (
            token.type == "function" and parse_color(token) is not None
        )
        if is_colour and text.lower() not in ("none", "currentcolor", "inherit"):
            try:
                return parse_colour(text)
            except ValueError:
                continue
    return None


def _worst(facts: PageFacts, seen: SeenScreen, element: Element, ground: Any) -> Worst | None:  # noqa: ANN401
    """The lowest contrast of the copy that lies on an element itself."""
    lowest: Worst | None = None
    typefaces = Typefaces(seen.styles)
    tinted = _tints(seen.styles, element)
    for one in facts.own_text_within(element):
        if not seen.styles.is_shown(one) or _is_covered(seen.styles, one, element):
            continue
        letters = _colour(seen.styles.inherited(one, ("color",))) or BLACK
        bold = typefaces.of(one).weight >= HEAVY
        wanted = Letters(letters, size_of(one, seen.styles), bold).wanted_contrast
        # where in a gradient letters stand is known to browsers only: at its best stop, say
        found = max(
            float(contrast(luminance(over(below, letters)), luminance(below)))
            for below in tinted(ground)
        )
        if lowest is None or found / wanted < lowest.contrast / lowest.wanted:
            lowest = Worst(found, wanted, one, seen)
    return lowest


def _tints(styles: Styles, element: Element) -> Any:  # noqa: ANN401
    """What the gradients above an element's picture make of the colour behind it."""
    stops = _stops(styles, element)
    overlays = [*_overlays(styles, element)]

    def tinted(ground: Any) -> list[Any]:  # noqa: ANN401
        below = [over(ground, stop) for stop in stops] or [ground]
        for overlay in overlays:
            below = [over(one, overlay) for one in below]
        return below

    return tinted


def _stops(styles: Styles, element: Element) -> list[Colour]:
    """The colours of an element's gradients."""
    stops: list[Colour] = []
    for token in styles.value(element, ("background-image", "background")):
        if token.type == "function" and token.lower_name in GRADIENTS:
            stops += [found for one in token.arguments if (found := _colour([one]))]
    return stops


def _overlays(styles: Styles, element: Element) -> Iterator[Colour]:
    """What lies above an element's picture: pseudo-elements, and children that fill it."""
    yield from _pseudo_veils(styles, element)
    for child in element.iter_children():
        is_out = _is_out(styles, child)
        if is_out and _fills(styles, child):
            yield from _veil(styles, child, "")
        if is_out or styles.word(child, "position") in ("", "static"):
            yield from _pseudo_veils(styles, child, must_fill=True)


def _pseudo_veils(styles: Styles, element: Element, *, must_fill: bool = False) -> Iterator[Colour]:
    for pseudo in ("before", "after"):
        is_meant = _is_out(styles, element, pseudo) and _fills(styles, element, pseudo)
        if styles.has_content(element, pseudo) and (is_meant or not must_fill):
            yield from _veil(styles, element, pseudo)


def _is_out(styles: Styles, element: Element, pseudo: str = "") -> bool:
    return styles.word(element, "position", pseudo) in ("absolute", "fixed")


def _veil(styles: Styles, element: Element, pseudo: str) -> Iterator[Colour]:
    """A colour with the opacity of its element."""
    colour = _colour(styles.value(element, ("background-color", "background"), pseudo))
    if colour:
        yield replace(colour, alpha=colour.alpha * _opacity(styles, element, pseudo))


def _opacity(styles: Styles, element: Element, pseudo: str) -> float:
    said = styles.word(element, "opacity", pseudo)
    try:
        number = float(said.removesuffix("%")) / (100 if said.endswith("%") else 1)
    except ValueError:
        return 1.0
    return min(1.0, max(0.0, number))


def _fills(styles: Styles, element: Element, pseudo: str = "") -> bool:
    """Whether its edges or its size are those of what it lies in."""

    def says(name: str, *words: str) -> bool:
        return styles.word(element, name, pseudo) in words

    edges = all(says(one, "0", "0px") for one in ("top", "left"))
    is_wide = says("width", "100%") or says("right", "0")
    is_high = says("height", "100%") or says("bottom", "0")
    return says("inset", "0", "0px") or (edges and is_wide and is_high)


def _is_covered(styles: Styles, text: Element, outer: Element) -> bool:
    """Whether something between a text and the picture has a ground of its own."""
    for one in (text, *reversed(text.ancestors)):
        if one.etree_element is outer.etree_element:
            return False
        colour, _ = own_colour(styles, one)
        grounds = [colour] if colour else _stops(styles, one)
        if any(each.alpha > COVERING for each in grounds) or styles.backgrounds(one):
            return True
    return False
