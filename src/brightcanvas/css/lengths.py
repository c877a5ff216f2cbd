"""Lengths, resolutions and numbers as browsers take them in media conditions and ``sizes``."""

from __future__ import annotations

import math
from collections.abc import Callable

from brightcanvas.css.screens import Viewer
from brightcanvas.values.lengths import ABSOLUTE, NotALengthError, Sizes, Token, parse_token

RESOLUTIONS = {"dppx": 1.0, "x": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}


def length(token: Token, viewer: Viewer) -> float:
    """A length in CSS px; a zero needs no unit, as in media conditions and ``sizes``."""
    if token.type == "number" and token.value == 0:
        return 0.0
    return _of_power(token, 1, lambda unit: _length_of(unit, viewer))


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
