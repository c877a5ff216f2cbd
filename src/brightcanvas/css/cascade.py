"""Which declarations win for an element: CSS Cascading and Inheritance 5, section 6."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import cssselect2
import tinycss2

from brightcanvas.css.layers import (
    GRADIENTS,
    SETS,
    InvalidLayerError,
    pictures,
    url_of,
)
from brightcanvas.css.media_queries import matches
from brightcanvas.css.screens import Viewer
from brightcanvas.css.sheets import Rule, SheetReading
from brightcanvas.values.addresses import joined
from brightcanvas.values.css_text import is_unbearable
from brightcanvas.values.lengths import Token, bare, split

LAST = 1 << 30
"""The place of what is in no layer: after all layers."""
DEEPEST_VAR = 20
MOST_TOKENS = 2000
"""Of a value with all that is put in for its variables."""

Element = Any
"""An element as cssselect2 wraps it, which has no types."""

Rank = tuple[Any, ...]


@dataclass(frozen=True)
class Declared:
    """A declaration that applies to an element under some conditions."""

    name: str
    value: Sequence[Any]
    media: tuple[str, ...]
    base: str
    rank: Rank
    """The greatest wins."""
    origin: str
    """Where it stands, for people."""


class Cascade:
    """The declarations of a page, by element and pseudo-element."""

    def __init__(self, root: Element, reading: SheetReading, base: str) -> None:
        self._base = base
        self._layers = _layer_places(reading.layers)
        self._matcher = cssselect2.Matcher()
        for number, rule in enumerate(reading.rules):
            for selector in rule.selectors:
                self._matcher.add_selector(selector, (number, rule, selector))
        self._known: dict[tuple[int, str], list[Declared]] = {}
        self.elements = tuple(root.iter_subtree())

    def declared(self, element: Element, pseudo: str = "") -> list[Declared]:
        """All declarations for an element, whatever the window."""
        key = (id(element.etree_element), pseudo)
        if key not in self._known:
            self._known[key] = sorted(self._gathered(element, pseudo), key=lambda one: one.rank)
        return self._known[key]

    def _gathered(self, element: Element, pseudo: str) -> Iterator[Declared]:
        for specificity, _, own, (number, rule, _) in self._matcher.match(element):
            if (own or "") == pseudo:
                yield from self._of_rule(rule, number, specificity)
        style = element.etree_element.get("style")
        if style and not pseudo:
            yield from self._inline(style)

    def _of_rule(
        self, rule: Rule, number: int, specificity: tuple[int, int, int]
    ) -> Iterator[Declared]:
        layer = self._layers.get(rule.around.layer or (), (LAST,))
        for place, one in enumerate(rule.declarations):
            turned = tuple(-step for step in layer) if one.important else layer
            rank = (one.important, 0, turned, specificity, number, place)
            yield Declared(
                one.lower_name, one.value, rule.around.media, rule.around.base, rank,
                rule.around.base,
            )  # fmt: skip

    def _inline(self, style: str) -> Iterator[Declared]:
        if is_unbearable(style):
            return
        listed = tinycss2.parse_declaration_list(style, skip_comments=True, skip_whitespace=True)
        for place, one in enumerate(listed):
            if one.type == "declaration":
                rank = (one.important, 1, (), (0, 0, 0), 0, place)
                yield Declared(one.lower_name, one.value, (), self._base, rank, "style attribute")

    def holding(self, element: Element, viewer: Viewer, pseudo: str = "") -> list[Declared]:
        """The declarations that apply in a window, the winner last."""
        return [
            one
            for one in self.declared(element, pseudo)
            if all(matches(media, viewer) for media in one.media)
        ]

    def word(self, element: Element, name: str, viewer: Viewer, pseudo: str = "") -> str:
        """What a property of one word says; empty where nothing is said."""
        said = [one for one in self.holding(element, viewer, pseudo) if one.name == name]
        return str(tinycss2.serialize(said[-1].value)).strip().lower() if said else ""

    def backgrounds(self, element: Element, viewer: Viewer, pseudo: str = "") -> list[str]:
        """The URLs of the pictures that an element's background fetches in a window."""
        winner = self.winner(element, viewer, pseudo)
        return winner[1] if winner else []

    def winner(
        self,
        element: Element,
        viewer: Viewer,
        pseudo: str = "",
    ) -> tuple[Declared, list[str]] | None:
        """The declaration that wins, and the URLs of its pictures."""
        holding = self.holding(element, viewer, pseudo)
        for one in reversed(holding):
            if one.name in ("background", "background-image"):
                try:
                    value = list(self._without_variables(one.value, element, viewer, 0, [0]))
                    found = _images(one.name, value, viewer)
                except InvalidLayerError:
                    continue
                return one, [joined(one.base, url) for url in found]
        return None

    def _without_variables(
        self,
        value: Sequence[Any],
        element: Element,
        viewer: Viewer,
        depth: int,
        count: list[int],
    ) -> Iterator[Any]:
        """With ``var()`` replaced, as CSS Custom Properties 1, section 3, has it.

        What becomes longer than anybody wrote is invalid, as browsers have it too (section 3.3).
        """
        for token in value:
            count[0] += 1
            if count[0] > MOST_TOKENS:
                raise InvalidLayerError
            if token.type == "function" and token.lower_name == "var" and depth < DEEPEST_VAR:
                found = self._variable(token.arguments, element, viewer)
                yield from self._without_variables(found, element, viewer, depth + 1, count)
            else:
                yield token

    def _variable(
        self, arguments: Sequence[Any], element: Element, viewer: Viewer
    ) -> Sequence[Any]:
        name, *rest = split(arguments, ",")
        wanted = bare(name)[0].value if bare(name) else ""
        above = [element, *reversed(element.ancestors)]
        for one in above:
            said = [held for held in self.holding(one, viewer) if held.name == wanted]
            if said:
                return said[-1].value
        return rest[0] if rest else ()

    def is_shown(self, element: Element, viewer: Viewer) -> bool:
        """Whether neither it nor anything round it is taken away by ``display: none``."""
        around = [element, *element.ancestors]
        return not any(
            self.word(one, "display", viewer) == "none"
            or (one.etree_element.get("hidden") is not None
                and not self.word(one, "display", viewer))
            for one in around
        )  # fmt: skip


def _layer_places(layers: Iterable[tuple[str, ...]]) -> Mapping[tuple[str, ...], tuple[int, ...]]:
    """Where each layer comes: those inside another one before what is in it directly."""
    numbers: dict[tuple[str, ...], int] = {}
    for path in layers:
        for end in range(1, len(path) + 1):
            numbers.setdefault(path[:end], len(numbers))
    places = {
        path: (*(numbers[path[:end]] for end in range(1, len(path) + 1)), LAST) for path in numbers
    }
    return {**places, (): (LAST,)}


_WIDE = ("inherit", "initial", "unset", "revert", "revert-layer")


def _images(name: str, value: Sequence[Any], viewer: Viewer) -> list[str]:
    tokens = bare(value)
    if not tokens:
        raise InvalidLayerError
    if len(tokens) == 1 and tokens[0].type == "ident" and tokens[0].lower_value in _WIDE:
        return []
    if name == "background-image":
        return pictures(value, viewer)
    return [url for part in split(value, ",") for url in _of_shorthand(bare(part), viewer)]


def _of_shorthand(tokens: list[Any], viewer: Viewer) -> list[str]:
    """The picture among a ``background``'s other values; at most one for each layer."""
    if not tokens or any(one.type == "error" for one in tokens):
        raise InvalidLayerError
    images = [one for one in tokens if _is_image(one)]
    if len(images) > 1:
        raise InvalidLayerError
    return pictures(images, viewer) if images else []


def _is_image(token: Token) -> bool:
    is_function = token.type == "function" and token.lower_name in (*GRADIENTS, *SETS)
    return is_function or url_of(token) is not None
