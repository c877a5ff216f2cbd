"""Numbers with units, and calculations with them, in CSS px.

Grammar: CSS Values and Units 4, sections 5 to 10; what media conditions and ``sizes`` can use.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from brightcanvas.css.screens import Viewer

EM = 16.0
"""CSS px: relative lengths in media conditions and ``sizes`` are of the initial font size."""

ABSOLUTE = {
    "px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 96 / 25.4, "q": 96 / 101.6, "pt": 96 / 72,
    "pc": 16.0, "em": EM, "rem": EM,
}  # fmt: skip

RESOLUTIONS = {"dppx": 1.0, "x": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}

Token = Any
"""A component value of tinycss2, which has no types."""

Tokens = Sequence[Token]

_MATHS = ("calc", "min", "max", "clamp")


class NotALengthError(ValueError):
    """What stands there is no number of the kind that is wanted."""


MOST_NESTED = 60
"""Brackets within brackets; what is nested deeper was not written by anybody."""


def is_too_deep(text: str) -> bool:
    """Whether brackets are nested so deeply that reading them is not worth the risk."""
    depth = 0
    for sign in text:
        if sign in "([{":
            depth += 1
            if depth > MOST_NESTED:
                return True
        elif sign in ")]}":
            depth = max(0, depth - 1)
    return False


def bare(tokens: Tokens) -> list[Any]:
    """Without white space and comments."""
    return [one for one in tokens if one.type not in ("whitespace", "comment")]


def length(token: Token, viewer: Viewer) -> float:
    """A length in CSS px; a zero needs no unit, as in media conditions and ``sizes``."""
    if token.type == "number" and token.value == 0:
        return 0.0
    value, power = _quantity(token, lambda unit: _length_of(unit, viewer))
    if power != 1:
        raise NotALengthError
    return value


def resolution(token: Token) -> float:
    """A resolution in device px per CSS px."""
    if token.type == "ident" and token.lower_value == "infinite":
        return math.inf
    value, power = _quantity(token, RESOLUTIONS.get)
    if power != 1:
        raise NotALengthError
    return value


def number(token: Token) -> float:
    """A plain number, or a calculation that comes to one."""
    value, power = _quantity(token, lambda _: None)
    if power != 0:
        raise NotALengthError
    return value


def _length_of(unit: str, viewer: Viewer) -> float | None:
    if unit in ABSOLUTE:
        return ABSOLUTE[unit]
    plain = unit[1:] if unit[:1] in "sld" and unit[1:] in _SHARES else unit
    share = _SHARES.get(plain)
    return share(viewer) / 100 if share else None


_SHARES: dict[str, Callable[[Viewer], float]] = {
    "vw": lambda viewer: viewer.width,
    "vi": lambda viewer: viewer.width,
    "vh": lambda viewer: viewer.height,
    "vb": lambda viewer: viewer.height,
    "vmin": lambda viewer: min(viewer.width, viewer.height),
    "vmax": lambda viewer: max(viewer.width, viewer.height),
}

Unit = Callable[[str], float | None]
"""The size of a unit, by its name; None for one of another kind."""

Quantity = tuple[float, int]
"""A value, and how many units are in it: 0 for a plain number, 1 for a length."""


def _quantity(token: Token, unit: Unit) -> Quantity:
    if token.type == "number":
        return float(token.value), 0
    if token.type == "dimension":
        size = unit(token.lower_unit)
        if size is None:
            raise NotALengthError
        return token.value * size, 1
    if token.type == "() block":
        return _sum(token.content, unit)
    if token.type == "function" and token.lower_name in _MATHS:
        return _calculated(token, unit)
    raise NotALengthError


def _calculated(function: Token, unit: Unit) -> Quantity:
    parts = [_sum(part, unit) for part in split(function.arguments, ",")]
    values, powers = [value for value, _ in parts], {power for _, power in parts}
    if len(powers) != 1:
        raise NotALengthError
    name, power = function.lower_name, powers.pop()
    if name == "calc" and len(values) == 1:
        return values[0], power
    if name == "clamp" and len(values) == 3:
        return max(values[0], min(values[1], values[2])), power
    if name in ("min", "max"):
        return (min if name == "min" else max)(values), power
    raise NotALengthError


def split(tokens: Tokens, mark: str) -> list[list[Any]]:
    """The parts between commas, or other marks, on this level."""
    parts: list[list[Any]] = [[]]
    for token in tokens:
        if token.type == "literal" and token.value == mark:
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


def _sum(tokens: Tokens, unit: Unit) -> Quantity:
    """Terms with ``+`` or ``-`` between them, which have white space on both sides."""
    terms, signs = [list[Any]()], [1.0]
    listed = [one for one in tokens if one.type != "comment"]
    for number_, token in enumerate(listed):
        if token.type == "literal" and token.value in "+-":
            around = listed[number_ - 1 : number_ + 2 : 2] if number_ else []
            if len(around) != 2 or any(one.type != "whitespace" for one in around):
                raise NotALengthError
            terms.append([])
            signs.append(1.0 if token.value == "+" else -1.0)
        else:
            terms[-1].append(token)
    parts = [_product(bare(term), unit) for term in terms]
    if len({power for _, power in parts}) != 1:
        raise NotALengthError
    total = sum(sign * value for sign, (value, _) in zip(signs, parts, strict=True))
    return total, parts[0][1]


def _product(tokens: list[Any], unit: Unit) -> Quantity:
    if len(tokens) % 2 == 0:
        raise NotALengthError
    value, power = _quantity(tokens[0], unit)
    for mark, factor in zip(tokens[1::2], tokens[2::2], strict=True):
        by, of = _quantity(factor, unit)
        if mark.type != "literal" or mark.value not in "*/":
            raise NotALengthError
        if mark.value == "*":
            value, power = value * by, power + of
        elif of or not by:
            raise NotALengthError
        else:
            value /= by
    return value, power
