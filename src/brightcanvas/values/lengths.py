"""CSS lengths: numbers with units, and calculations with them.

Grammar: CSS Values and Units 4, sections 5 to 10, by way of tinycss2's component values. What
people write in a brief and what stands in the style sheets of pages is read by this one parser;
units get their sizes when a value is asked for.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Any

import tinycss2

from brightcanvas.values.geometry import plain_number
from brightcanvas.values.page_text import exceeds_limits

Token = Any
"""A component value of tinycss2, which has no types."""

Tokens = Sequence[Token]

Sizes = Callable[[str], float | None]
"""The size of a unit, by its name; None for one of another kind."""

FUNCTIONS = ("calc", "min", "max", "clamp")

EM = 16.0
"""CSS px: relative lengths are taken to be of the browsers' own font size."""

ABSOLUTE = {
    "px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 96 / 25.4, "q": 96 / 101.6, "pt": 96 / 72,
    "pc": 16.0, "em": EM, "rem": EM,
}  # fmt: skip
"""Units in CSS px."""


class NotALengthError(ValueError):
    """What stands there is no number of the kind that is wanted."""


@dataclass(frozen=True)
class Amount:
    """A number, with its unit or without."""

    number: float
    unit: str = ""

    @property
    def power(self) -> int:
        """How many units are in it: 0 for a plain number, 1 for a length."""
        return 1 if self.unit else 0

    def value(self, sizes: Sizes) -> float:
        """In the unit of the sizes; NotALengthError for a unit that has none there."""
        if not self.unit:
            return self.number
        size = sizes(self.unit)
        if size is None:
            raise NotALengthError
        return self.number * size

    def css(self, *, modern: bool) -> str:
        """As CSS; not ``modern`` writes ``vh`` for the newer units of the viewport's height."""
        is_newer = self.unit in ("svh", "lvh", "dvh")
        return f"{plain_number(self.number)}{'vh' if is_newer and not modern else self.unit}"


@dataclass(frozen=True)
class Combined:
    """``min``, ``max``, or terms that are added (``calc``)."""

    function: str
    parts: tuple[Calculation, ...]

    @property
    def power(self) -> int:
        """Of its parts, which are all alike."""
        return self.parts[0].power

    def value(self, sizes: Sizes) -> float:
        """See Amount."""
        values = [part.value(sizes) for part in self.parts]
        combine: Callable[[Sequence[float]], float] = {"min": min, "max": max}.get(
            self.function, sum
        )
        return combine(values)

    def css(self, *, modern: bool) -> str:
        """See Amount."""
        separator = " + " if self.function == "calc" else ", "
        return f"{self.function}({separator.join(one.css(modern=modern) for one in self.parts)})"


@dataclass(frozen=True)
class Multiplied:
    """A calculation times another one, or divided by it; one of both is a plain number."""

    first: Calculation
    second: Calculation
    divides: bool = False

    @property
    def power(self) -> int:
        """Of both together."""
        return self.first.power + (0 if self.divides else self.second.power)

    def value(self, sizes: Sizes) -> float:
        """See Amount; NotALengthError for a division by nothing."""
        by = self.second.value(sizes)
        if not self.divides:
            return self.first.value(sizes) * by
        if self.second.power or not by:
            raise NotALengthError
        return self.first.value(sizes) / by

    def css(self, *, modern: bool) -> str:
        """See Amount."""
        mark = "/" if self.divides else "*"
        first, second = self.first.css(modern=modern), self.second.css(modern=modern)
        return f"calc({first} {mark} {second})"


Calculation = Amount | Combined | Multiplied


def parse_text(text: str) -> Calculation:
    """Read one length as people write it.

    Raises:
        NotALengthError: it is none, or there is more than one.
    """
    if not is_balanced(text):
        raise NotALengthError
    return _sum(tinycss2.parse_component_value_list(text))


MOST = 1e9
"""Of a number; what is larger, or none, was not meant."""


def parse_token(token: Token) -> Calculation:
    """Read one component value; NotALengthError where it is no number and no calculation."""
    if token.type in ("number", "percentage", "dimension") and not abs(token.value) <= MOST:
        raise NotALengthError
    if token.type == "number":
        return Amount(float(token.value))
    if token.type == "percentage":
        return Amount(float(token.value), "%")
    if token.type == "dimension":
        return Amount(float(token.value), token.lower_unit)
    if token.type == "() block":
        return _sum(token.content)
    if token.type == "function" and token.lower_name in FUNCTIONS:
        return _function(token)
    raise NotALengthError


def is_balanced(text: str) -> bool:
    """Whether every bracket is closed: at the end of a text CSS closes what is open."""
    return text.count("(") == text.count(")") and not exceeds_limits(text)


def units_in(calculation: Calculation) -> set[str]:
    """The units that it is written with."""
    if isinstance(calculation, Amount):
        return {calculation.unit} - {""}
    if isinstance(calculation, Multiplied):
        return units_in(calculation.first) | units_in(calculation.second)
    return set().union(*map(units_in, calculation.parts))


def never_falls(calculation: Calculation) -> bool:
    """Whether it is never less where its units are larger: nothing in it is below zero."""
    if isinstance(calculation, Amount):
        return calculation.number >= 0
    if isinstance(calculation, Multiplied):
        return never_falls(calculation.first) and never_falls(calculation.second)
    return all(map(never_falls, calculation.parts))


def is_length(calculation: Calculation, units: Collection[str]) -> bool:
    """Whether it is a length in these units; a zero needs none."""
    if calculation == Amount(0.0):
        return True
    return calculation.power == 1 and units_in(calculation) <= set(units)


def bare(tokens: Tokens) -> list[Any]:
    """Without white space and comments."""
    return [one for one in tokens if one.type not in ("whitespace", "comment")]


def is_word(tokens: Tokens, words: Sequence[str]) -> bool:
    """Whether a value is one of some words, and nothing else."""
    found = bare(tokens)
    return len(found) == 1 and found[0].type == "ident" and found[0].lower_value in words


def split(tokens: Tokens, mark: str) -> list[list[Any]]:
    """The parts between commas, or other marks, on this level."""
    parts: list[list[Any]] = [[]]
    for token in tokens:
        if token.type == "literal" and token.value == mark:
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


def _function(function: Token) -> Calculation:
    parts = [_sum(part) for part in split(function.arguments, ",")]
    name = function.lower_name
    if len({part.power for part in parts}) != 1:
        raise NotALengthError
    if name == "clamp" and len(parts) == 3:
        least, preferred, most = parts
        return Combined("max", (least, Combined("min", (preferred, most))))
    if name == "clamp" or (name == "calc" and len(parts) != 1):
        raise NotALengthError
    return parts[0] if len(parts) == 1 else Combined(name, tuple(parts))


def _sum(tokens: Tokens) -> Calculation:
    """Terms with ``+`` or ``-`` between them, which have white space on both sides."""
    terms, signs = [list[Any]()], [1.0]
    listed = [one for one in tokens if one.type != "comment"]
    for number, token in enumerate(listed):
        if token.type == "literal" and token.value in "+-":
            around = listed[number - 1 : number + 2 : 2] if number else []
            if len(around) != 2 or any(one.type != "whitespace" for one in around):
                raise NotALengthError
            terms.append([])
            signs.append(1.0 if token.value == "+" else -1.0)
        else:
            terms[-1].append(token)
    parts = [_product(bare(term)) for term in terms]
    if len({part.power for part in parts}) != 1:
        raise NotALengthError
    signed = tuple(
        part if sign > 0 else Multiplied(Amount(-1.0), part)
        for sign, part in zip(signs, parts, strict=True)
    )
    return signed[0] if len(signed) == 1 else Combined("calc", signed)


def _product(tokens: list[Any]) -> Calculation:
    if len(tokens) % 2 == 0:
        raise NotALengthError
    found = parse_token(tokens[0])
    for mark, factor in zip(tokens[1::2], tokens[2::2], strict=True):
        if mark.type != "literal" or mark.value not in "*/":
            raise NotALengthError
        found = Multiplied(found, parse_token(factor), divides=mark.value == "/")
    return found
