"""Which typeface each text is set in: CSS Fonts 4, section 2, and browsers' own style sheets."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from brightcanvas.css.declared import Element
from brightcanvas.css.defaults import BOLD, CONTROLS, FIXED_WIDTH, ITALIC
from brightcanvas.css.styles import Styles
from brightcanvas.values.lengths import bare, is_word, split

REGULAR, BOLDER = 400.0, 700.0
FONT = frozenset(("font", "font-family", "font-weight", "font-style"))
_SIZE = re.compile(r"(xx?-)?(small|large)|medium|smaller|larger|normal")


@dataclass(frozen=True)
class Typeface:
    """Families in the order in which they are tried, weight, and slant."""

    families: tuple[str, ...] = ()
    """In small letters; those that browsers have by themselves too."""
    weight: float = REGULAR
    is_italic: bool = False


class Typefaces:
    """The typeface of each element in one window."""

    def __init__(self, styles: Styles) -> None:
        self._styles = styles
        self._known: dict[tuple[int, str], Typeface] = {}

    def of(self, element: Element, pseudo: str = "") -> Typeface:
        """What is said, what browsers say, what is inherited."""
        key = (id(element.etree_element), pseudo)
        if key not in self._known:
            self._known[key] = self._found(element, pseudo)
        return self._known[key]

    def _found(self, element: Element, pseudo: str) -> Typeface:
        if pseudo:
            around = self.of(element)
        else:
            outer = element.parent
            around = self.of(outer) if outer is not None else Typeface()
        usual = around if pseudo else _by_itself(element.etree_element.tag, around)
        if not self._styles.holding(element, pseudo).keys() & FONT:
            return usual
        return self._said(element, pseudo, usual, around)

    def _said(self, element: Element, pseudo: str, usual: Typeface, around: Typeface) -> Typeface:
        styles = self._styles
        family = styles.value(element, ("font-family", "font"), pseudo)
        winner = styles.winner_of(element, ("font-family", "font"), pseudo)
        is_short = winner is not None and winner.name == "font"
        weight = styles.value(element, ("font-weight", "font"), pseudo)
        slant = styles.value(element, ("font-style", "font"), pseudo)
        return Typeface(
            _families(family, usual, around, is_short=is_short),
            _weight(weight, usual, around),
            _slant(slant, usual, around),
        )


def _by_itself(tag: str, around: Typeface) -> Typeface:
    """What browsers make of an element that no style sheet says anything of."""
    found = replace(around, families=(), weight=REGULAR) if tag in CONTROLS else around
    if tag in FIXED_WIDTH:
        found = replace(found, families=())
    return replace(
        found, weight=BOLDER if tag in BOLD else found.weight,
        is_italic=found.is_italic or tag in ITALIC,
    )  # fmt: skip


INHERITING = ("inherit", "unset")


def _families(
    value: Sequence[Any], usual: Typeface, around: Typeface, *, is_short: bool
) -> tuple[str, ...]:
    if is_word(value, INHERITING):
        return around.families
    if not bare(value):
        return usual.families
    return family_names(_after_size(value) if is_short else value)


def family_names(value: Sequence[Any]) -> tuple[str, ...]:
    """The names in a list of families, in small letters."""
    names = []
    for part in split(value, ","):
        tokens = bare(part)
        if tokens and tokens[0].type == "string":
            names.append(str(tokens[0].value).lower())
        elif tokens and all(one.type == "ident" for one in tokens):
            names.append(" ".join(str(one.value) for one in tokens).lower())
    return tuple(names)


def _after_size(value: Sequence[Any]) -> Sequence[Any]:
    """The families of a ``font``: what follows the size and the line's height."""
    sizes = [number for number, one in enumerate(value) if _is_size(one)]
    return value[sizes[-1] + 1 :] if sizes else []


def _is_size(token: Any) -> bool:  # noqa: ANN401
    if token.type == "ident":
        return bool(_SIZE.fullmatch(token.lower_value))
    return token.type in ("dimension", "percentage", "number", "function")


def _weight(value: Sequence[Any], usual: Typeface, around: Typeface) -> float:
    tokens = bare(value)
    if not tokens:
        return usual.weight
    if is_word(value, INHERITING):
        return around.weight
    words = {one.lower_value for one in tokens if one.type == "ident"}
    if "lighter" in words:
        return REGULAR if around.weight > 500 else 100.0
    if words & {"bold", "bolder"}:
        return BOLDER
    numbers = [
        float(one.value) for one in tokens if one.type == "number" and 100 <= one.value <= 1000
    ]
    return numbers[0] if numbers else REGULAR


def _slant(value: Sequence[Any], usual: Typeface, around: Typeface) -> bool:
    tokens = bare(value)
    if not tokens:
        return usual.is_italic
    if is_word(value, INHERITING):
        return around.is_italic
    return any(one.type == "ident" and one.lower_value in ("italic", "oblique") for one in tokens)
