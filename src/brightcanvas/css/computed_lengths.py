"""Lengths, resolutions and numbers as browsers take them in media conditions and ``sizes``."""

from __future__ import annotations

import math
import struct
from collections.abc import Callable

from brightcanvas.values.environments import Environment
from brightcanvas.values.lengths import (
    ABSOLUTE,
    NotALengthError,
    Sizes,
    Token,
    bare,
    parse_token,
    split,
)

RESOLUTIONS = {"dppx": 1.0, "x": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}


def length(token: Token, environment: Environment) -> float:
    """A length in CSS px; a zero needs no unit, as in media conditions and ``sizes``."""
    if token.type == "number" and token.value == 0:
        return 0.0
    if environment.single_precision and token.type == "dimension" and token.lower_unit == "vw":
        return _single(_single(environment.width / 100) * float(token.value))
    if token.type == "function" and token.lower_name == "mod":
        return _remainder(token, environment)
    return _of_power(token, 1, lambda unit: _length_of(unit, environment))


def _remainder(token: Token, environment: Environment) -> float:
    """What is left of a length that is divided by another one, with the sign of that."""
    parts = [bare(part) for part in split(token.arguments, ",")]
    if not environment.knows.remainders or [len(part) for part in parts] != [1, 1]:
        raise NotALengthError
    whole, by = (length(part[0], environment) for part in parts)
    if not by or not math.isfinite(whole):
        raise NotALengthError
    return whole - by * math.floor(whole / by)


def _single(value: float) -> float:
    """Rounded to 24 bits (IEEE 754, binary32)."""
    return float(struct.unpack("f", struct.pack("f", value))[0])


def resolution(token: Token) -> float:
    """A resolution in device px per CSS px."""
    if token.type == "ident" and token.lower_value == "infinite":
        return math.inf
    return _of_power(token, 1, RESOLUTIONS.get)


def number(token: Token) -> float:
    """A plain number, or a calculation that comes to one."""
    return _of_power(token, 0, lambda _: None)


def _of_power(token: Token, power: int, sizes: Sizes) -> float:
    """The value, where so many units are in it."""
    calculation = parse_token(token)
    if calculation.power != power:
        raise NotALengthError
    return calculation.value(sizes)


LINE_HEIGHT = 19.2
"""CSS px of ``lh`` in conditions: 16 px letters with the usual distance."""


def _length_of(unit: str, environment: Environment) -> float | None:
    if unit in ("lh", "rlh"):
        return LINE_HEIGHT if environment.knows.line_heights else None
    if unit in ABSOLUTE:
        return ABSOLUTE[unit]
    plain = unit[1:] if unit[:1] in "sld" and unit[1:] in _SHARES else unit
    share = _SHARES.get(plain)
    return share(environment) / 100 if share else None


_SHARES: dict[str, Callable[[Environment], float]] = {
    "vw": lambda environment: environment.width,
    "vi": lambda environment: environment.width,
    "vh": lambda environment: environment.height,
    "vb": lambda environment: environment.height,
    "vmin": lambda environment: min(environment.width, environment.height),
    "vmax": lambda environment: max(environment.width, environment.height),
}
