"""Which declarations there are for an element: CSS Cascading and Inheritance 5, section 6."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

import cssselect2
import tinycss2

from brightcanvas.css.selectors import INLINE, Declared, Element
from brightcanvas.css.sheets import Rule, SheetReading
from brightcanvas.css.styles import Styles
from brightcanvas.values.environments import Environment
from brightcanvas.values.page_text import exceeds_limits

LAST = 1 << 30
"""The place of what is in no layer: after all layers."""


class Cascade:
    """The declarations of a page, by element and pseudo-element."""

    def __init__(self, root: Element, reading: SheetReading, base: str) -> None:
        self._base = base
        self._layers = _layer_places(reading.layers)
        self._matcher = cssselect2.Matcher()
        for number, rule in enumerate(reading.rules):
            for selector in rule.selectors:
                self._matcher.add_selector(selector, (number, rule))
        self._known: dict[int, dict[str, tuple[Declared, ...]]] = {}
        self._names: dict[int, frozenset[str]] = {}
        self._styles: list[Styles] = []
        self.elements = tuple(root.iter_subtree())

    def styles(self, environment: Environment) -> Styles:
        """What holds in a window; asked for twice, it is the same."""
        for one in self._styles:
            if one.environment == environment:
                return one
        self._styles.append(Styles(self.declared, environment))
        return self._styles[-1]

    def declared(self, element: Element, pseudo: str = "") -> Sequence[Declared]:
        """All declarations for an element, whatever the window, the winner last."""
        key = id(element.etree_element)
        if key not in self._known:
            self._known[key] = self._gathered(element)
        return self._known[key].get(pseudo, ())

    def pseudos(self, element: Element) -> Iterable[str]:
        """The pseudo-elements for which an element has any."""
        self.declared(element)
        return [one for one in self._known[id(element.etree_element)] if one]

    def names(self, element: Element) -> frozenset[str]:
        """The properties that are declared for an element or a pseudo-element of it, anywhere."""
        self.declared(element)
        key = id(element.etree_element)
        if key not in self._names:
            listed = self._known[key].values()
            self._names[key] = frozenset(one.name for each in listed for one in each)
        return self._names[key]

    def _gathered(self, element: Element) -> dict[str, tuple[Declared, ...]]:
        found: dict[str, list[Declared]] = {}
        for specificity, _, pseudo, (number, rule) in self._matcher.match(element):
            found.setdefault(pseudo or "", []).extend(self._of_rule(rule, number, specificity))
        if style := element.etree_element.get("style"):
            found.setdefault("", []).extend(self._inline(style))
        return {
            pseudo: tuple(sorted(listed, key=lambda one: one.rank))
            for pseudo, listed in found.items()
        }

    def _of_rule(
        self, rule: Rule, number: int, specificity: tuple[int, int, int]
    ) -> Iterator[Declared]:
        around = rule.around
        layer = self._layers.get(around.layer or (), (LAST,))
        for place, one in enumerate(rule.declarations):
            turned = tuple(-step for step in layer) if one.important else layer
            rank = (one.important, 0, turned, specificity, number, place)
            line = around.line + one.source_line - 1
            yield Declared(
                one.lower_name, one.value, around.media, around.base, rank,
                around.file or around.base, line, rule.written,
            )  # fmt: skip

    def _inline(self, style: str) -> Iterator[Declared]:
        if exceeds_limits(style):
            return
        listed = tinycss2.parse_declaration_list(style, skip_comments=True, skip_whitespace=True)
        for place, one in enumerate(listed):
            if one.type == "declaration":
                rank = (one.important, 1, (), (0, 0, 0), 0, place)
                yield Declared(one.lower_name, one.value, (), self._base, rank, INLINE)


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
