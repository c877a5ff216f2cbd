"""Height rules: how high an element is, as CSS would compute it.

A rule is written as CSS writes lengths: ``420px``, ``80svh``, ``56vw``, ``16/9`` (an
aspect), or a mix with ``min()``, ``max()``, ``clamp()`` and ``+``.
Viewport units: CSS Values 4, section 6.1.2. Functions: section 10.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Protocol

from brightcanvas.values.geometry import Size, plain_number


class HeightRule(Protocol):
    """A height that depends on the viewport and on the element's width."""

    def pixels(self, viewport: Size, width: float) -> float:
        """The height in CSS px in ``viewport`` (CSS px) for an element ``width`` CSS px wide."""

    def css(self, *, modern: bool) -> str:
        """The rule as CSS; not ``modern`` writes ``vh`` for the newer viewport units."""


@dataclass(frozen=True)
class Pixels:
    """A fixed height in CSS px."""

    amount: float

    def pixels(self, viewport: Size, width: float) -> float:  # noqa: ARG002
        """See HeightRule."""
        return self.amount

    def css(self, *, modern: bool) -> str:  # noqa: ARG002
        """See HeightRule."""
        return f"{plain_number(self.amount)}px"


@dataclass(frozen=True)
class ViewportShare:
    """A share of the viewport's height or width, in percent."""

    percent: float
    unit: str

    def pixels(self, viewport: Size, width: float) -> float:  # noqa: ARG002
        """See HeightRule."""
        side = viewport.width if self.unit == "vw" else viewport.height
        return side * self.percent / 100

    def css(self, *, modern: bool) -> str:
        """See HeightRule."""
        unit = self.unit if modern or self.unit == "vw" else "vh"
        return f"{plain_number(self.percent)}{unit}"


@dataclass(frozen=True)
class AspectHeight:
    """The height that gives the element the aspect ``across / down``."""

    across: float
    down: float

    def pixels(self, viewport: Size, width: float) -> float:  # noqa: ARG002
        """See HeightRule."""
        return width * self.down / self.across

    def css(self, *, modern: bool) -> str:  # noqa: ARG002
        """See HeightRule."""
        return f"{plain_number(self.across)} / {plain_number(self.down)}"


@dataclass(frozen=True)
class Mix:
    """``min()``, ``max()`` or a sum of other rules."""

    function: str
    parts: tuple[HeightRule, ...]

    def pixels(self, viewport: Size, width: float) -> float:
        """See HeightRule."""
        amounts = [part.pixels(viewport, width) for part in self.parts]
        if self.function == "calc":
            return sum(amounts)
        return max(amounts) if self.function == "max" else min(amounts)

    def css(self, *, modern: bool) -> str:
        """See HeightRule."""
        separator = " + " if self.function == "calc" else ", "
        return f"{self.function}({separator.join(p.css(modern=modern) for p in self.parts)})"


_TOKEN = re.compile(
    r"\s*(?:(?P<function>min|max|clamp|calc)\(|(?P<across>\d+(?:\.\d+)?)\s*/\s*(?P<down>\d+(?:\.\d+)?)"
    r"|(?P<amount>\d+(?:\.\d+)?)(?P<unit>px|svh|lvh|dvh|vh|vw)|(?P<mark>[,+()]))"
)
_WANTED = "a height such as 420px, 80svh, 16/9 or max(420px, 70svh)"


def parse_height(text: str) -> HeightRule:
    """Read a height rule; ValueError says what was expected."""
    tokens = list(_tokens(text))
    rule, rest = _parse_sum(tokens)
    if rest:
        raise ValueError(f"{_WANTED} (what is '{rest[0].group().strip()}' doing there?)")
    if rule.pixels(Size(1000, 1000), 1000) <= 0:
        raise ValueError(f"{_WANTED}, above zero")
    if isinstance(rule, Mix) and _holds_aspect(rule):
        raise ValueError("an aspect such as 16/9 alone, not inside min(), max() or a sum")
    return rule


def _holds_aspect(rule: HeightRule) -> bool:
    if isinstance(rule, Mix):
        return any(_holds_aspect(part) for part in rule.parts)
    return isinstance(rule, AspectHeight)


def _tokens(text: str) -> list[re.Match[str]]:
    found, at = [], 0
    while text[at:].strip():
        match = _TOKEN.match(text, at)
        if match is None:
            raise ValueError(_WANTED)
        found.append(match)
        at = match.end()
    return found


def _parse_sum(tokens: list[re.Match[str]]) -> tuple[HeightRule, list[re.Match[str]]]:
    first, rest = _parse_one(tokens)
    parts = [first]
    while rest and rest[0]["mark"] == "+":
        part, rest = _parse_one(rest[1:])
        parts.append(part)
    return (first if len(parts) == 1 else Mix("calc", tuple(parts))), rest


def _parse_one(tokens: list[re.Match[str]]) -> tuple[HeightRule, list[re.Match[str]]]:
    if not tokens or tokens[0]["mark"]:
        raise ValueError(_WANTED)
    token, rest = tokens[0], tokens[1:]
    if token["function"]:
        return _parse_function(token["function"], rest)
    if token["across"]:
        if not float(token["across"]) or not float(token["down"]):
            raise ValueError("an aspect of two numbers above zero, such as 16/9")
        return AspectHeight(float(token["across"]), float(token["down"])), rest
    if token["unit"] == "px":
        return Pixels(float(token["amount"])), rest
    return ViewportShare(float(token["amount"]), token["unit"]), rest


def _parse_function(
    name: str, tokens: list[re.Match[str]]
) -> tuple[HeightRule, list[re.Match[str]]]:
    part, rest = _parse_sum(tokens)
    parts = [part]
    while rest and rest[0]["mark"] == ",":
        part, rest = _parse_sum(rest[1:])
        parts.append(part)
    if not rest or rest[0]["mark"] != ")":
        raise ValueError(f"{_WANTED}, with its closing bracket")
    return _combined(name, parts), rest[1:]


def _combined(name: str, parts: list[HeightRule]) -> HeightRule:
    if name == "clamp":
        if len(parts) != 3:
            raise ValueError("clamp(least, preferred, most) with three parts")
        least, preferred, most = parts
        return Mix("max", (least, Mix("min", (preferred, most))))
    if name == "calc" and len(parts) != 1:
        raise ValueError("calc() with a single sum in it")
    return parts[0] if len(parts) == 1 else Mix(name, tuple(parts))
