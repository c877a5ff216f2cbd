"""Copy on a picture that can't be read before the picture is there, or without it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from tinycss2.color4 import parse_color

from brightcanvas.colour.contrast import channels, contrast, luminance, over
from brightcanvas.css.declared import Declared, Element
from brightcanvas.css.styles import Styles
from brightcanvas.inspecting.facts import Facts, Seen
from brightcanvas.inspecting.finding import Finding, Harm, Place, Sure
from brightcanvas.page.letters import size_of
from brightcanvas.page.typefaces import Typefaces
from brightcanvas.values.colours import Colour, parse_colour
from brightcanvas.values.layers import GRADIENTS
from brightcanvas.values.legible import Letters
from brightcanvas.values.lengths import bare

NONE, UNREADABLE = "no colour behind", "copy can't be read on the colour"

WHITE = Colour(1.0, 1.0, 1.0)
BLACK = Colour(0.0, 0.0, 0.0)
LARGE = 3.0
"""The contrast that WCAG 2.2, 1.4.3, asks of large text: less than that nobody reads at ease."""

HEAVY = 600.0
"""The weight from which on letters are bold."""


@dataclass(frozen=True)
class Worst:
    """The copy that is hardest to read on a colour."""

    contrast: float
    wanted: float
    element: Element
    seen: Seen


def find(facts: Facts) -> Iterator[Finding]:
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
        if worst and worst.contrast < (worst.wanted if stated else LARGE):
            yield _finding(facts, element, worst, stated)


def _finding(facts: Facts, element: Element, worst: Worst, stated: Declared | None) -> Finding:
    figure = f"{worst.contrast:.1f}:1"
    copy = worst.element.etree_element.tag
    if stated is not None:
        return Finding(
            UNREADABLE, f"the {copy} has a contrast of {figure} on the colour behind the picture;"
            f" {worst.wanted:g}:1 is wanted",
            facts.at_rule(stated, element.etree_element),
            "take a colour near the picture's own", Harm.SPOILS, (worst.seen.screen,),
            sure=Sure.LIKELY,
        )  # fmt: skip
    winner = worst.seen.styles.winner(element)
    node = element.etree_element
    place: Place = facts.at_rule(winner[0], node) if winner else facts.at(node)
    return Finding(
        NONE, f"until the picture is there, or without it, the {copy} has a contrast of {figure}",
        place, "write a background-color near the picture's own", Harm.SPOILS,
        tuple(one.screen for one in facts.seen if one.styles.backgrounds(element)),
        sure=Sure.LIKELY,
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


def _worst(facts: Facts, seen: Seen, element: Element, ground: Any) -> Worst | None:  # noqa: ANN401
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
        for below in tinted(ground):
            light = luminance(below)
            found = float(contrast(luminance(over(below, letters)), light))
            worst = Worst(found, wanted, one, seen)
            if lowest is None or found / wanted < lowest.contrast / lowest.wanted:
                lowest = worst
    return lowest


def _tints(styles: Styles, element: Element) -> Any:  # noqa: ANN401
    """What the gradients above an element's picture make of the colour behind it."""
    value = styles.value(element, ("background-image", "background"))
    stops: list[Colour] = []
    for token in value:
        if token.type == "function" and token.lower_name in GRADIENTS:
            stops += [found for one in token.arguments if (found := _colour([one]))]
    overlays = [*_overlays(styles, element)]

    def tinted(ground: Any) -> list[Any]:  # noqa: ANN401
        below = [over(ground, stop) for stop in stops] or [ground]
        for overlay in overlays:
            below = [over(one, overlay) for one in below]
        return below

    return tinted


def _overlays(styles: Styles, element: Element) -> Iterator[Colour]:
    """What lies above an element's picture: its pseudo-elements, and children that fill it."""
    for pseudo in ("before", "after"):
        if styles.has_content(element, pseudo):
            yield from _veil(styles, element, pseudo)
    for child in element.iter_children():
        if styles.word(child, "position") in ("absolute", "fixed") and _fills(styles, child):
            yield from _veil(styles, child, "")


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


def _fills(styles: Styles, element: Element) -> bool:
    """Whether its edges or its size are those of what it lies in."""
    inset = styles.word(element, "inset") in ("0", "0px")
    edges = all(styles.word(element, one) in ("0", "0px") for one in ("top", "left"))
    is_wide = styles.word(element, "width") == "100%" or styles.word(element, "right") == "0"
    is_high = styles.word(element, "height") == "100%" or styles.word(element, "bottom") == "0"
    return inset or (edges and is_wide and is_high)


def _is_covered(styles: Styles, text: Element, outer: Element) -> bool:
    """Whether something between a text and the picture has a ground of its own."""
    for one in (text, *reversed(text.ancestors)):
        if one.etree_element is outer.etree_element:
            return False
        colour, _ = own_colour(styles, one)
        if (colour and colour.alpha > 0.5) or styles.backgrounds(one):
            return True
    return False
