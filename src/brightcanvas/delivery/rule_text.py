"""Rules as text: values, and what several parts share.

A property that has the same declarations in every part is written without a condition; one that
has them in all parts of a breakpoint, under the breakpoint's; the rest under the part's own. A
property written in a narrower place is left out of the wider ones, so nothing is overridden but
what newer syntax overrides.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from textwrap import indent

from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Point, Rect
from brightcanvas.values.legible import FADE, Scrim


def css_string(text: str) -> str:
    """A CSS string (CSS Syntax 3, section 4.3.5), safe also inside a ``style`` element."""
    return '"' + re.sub(r'["\\<>&\x00-\x1f\x7f]', _escaped, text) + '"'


def _escaped(match: re.Match[str]) -> str:
    return f"\\{ord(match[0]):x} "


LINE = 1
"""CSS px of a scrim's fine lines, and of the gaps between them."""


def gradient(scrim: Scrim, copy: Rect) -> str:
    """A scrim as a CSS gradient: even under the copy (fractions of the box), fading beyond it."""
    colour = _rgb(scrim.colour, scrim.strength)
    ways = {
        "left": ("to right", copy.right),
        "right": ("to left", 1 - copy.left),
        "top": ("to bottom", copy.bottom),
        "bottom": ("to top", 1 - copy.top),
    }
    if scrim.lines:
        none, line = _rgb(scrim.colour, 0), f"{LINE}px"
        return f"repeating-linear-gradient({colour} 0 {line}, {none} {line} {2 * LINE}px)"
    if scrim.side is None:
        return f"linear-gradient({colour}, {colour})"
    way, reach = ways[scrim.side]
    end = min(1.0, reach + FADE)
    return (
        f"linear-gradient({way}, {colour} {percent(reach)}, {_rgb(scrim.colour, 0)} {percent(end)})"
    )


def _rgb(colour: Colour, strength: float) -> str:
    parts = " ".join(str(round(part * 255)) for part in (colour.red, colour.green, colour.blue))
    return f"rgb({parts} / {percent(strength * colour.alpha)})"


def position_text(position: Point) -> str:
    """A position as CSS percentages, to a thousandth of a percent."""
    return f"{percent(position.x)} {percent(position.y)}"


def percent(fraction: float) -> str:
    """To a thousandth of a percent."""
    return f"{fraction * 100:.3f}".rstrip("0").rstrip(".") + "%"


INDENT = "  "

Property = tuple[str, str]
"""A selector, and the name of a property."""


@dataclass(frozen=True)
class Declaration:
    """What a selector's elements have."""

    selector: str
    name: str
    """Of the property."""
    value: str
    is_important: bool = False

    @property
    def line(self) -> str:
        """As it stands in a rule."""
        return f"{self.name}: {self.value}{' !important' if self.is_important else ''};"


def declared(selector: str, lines: Iterable[str]) -> list[Declaration]:
    """Lines such as ``background-size: cover;`` as declarations for a selector."""
    parts = (line.removesuffix(";").partition(": ") for line in lines)
    return [Declaration(selector, name, value) for name, _, value in parts]


@dataclass(frozen=True)
class Part:
    """What is declared for one part of a backdrop."""

    condition: str
    breakpoint: str
    """The condition of the breakpoint that it is a part of."""
    declarations: tuple[Declaration, ...]

    def by_property(self) -> dict[Property, list[str]]:
        """Its declarations as lines by property, in order."""
        found: dict[Property, list[str]] = {}
        for one in self.declarations:
            found.setdefault((one.selector, one.name), []).append(one.line)
        return found


Scope = dict[str, dict[Property, list[str]]]
"""Declarations by condition."""


def shared_rules(parts: Sequence[Part]) -> list[str]:
    """The rules of all parts, from the widest scope to the narrowest."""
    scopes: Scope = {}
    properties = [part.by_property() for part in parts]
    for name in dict.fromkeys(name for one in properties for name in one):
        for condition, lines in _scopes(name, parts, properties):
            scopes.setdefault(condition, {})[name] = lines
    order = ["", *(part.breakpoint for part in parts), *(part.condition for part in parts)]
    return [
        under(condition, _blocks(scopes[condition]))
        for condition in dict.fromkeys(order)
        if condition in scopes
    ]


def _scopes(
    name: Property, parts: Sequence[Part], properties: Sequence[dict[Property, list[str]]]
) -> Iterator[tuple[str, list[str]]]:
    """Under which conditions a property is declared, and how."""
    values = [one.get(name) for one in properties]
    if _are_same(values) and values[0]:
        yield "", values[0]
        return
    for condition in dict.fromkeys(part.breakpoint for part in parts):
        group = [
            (part.condition, value)
            for part, value in zip(parts, values, strict=True)
            if part.breakpoint == condition
        ]
        if _are_same([value for _, value in group]):
            group = [(condition, group[0][1])]
        yield from ((under_it, value) for under_it, value in group if value)


def _are_same(values: Sequence[list[str] | None]) -> bool:
    return all(one == values[0] for one in values)


def _blocks(properties: dict[Property, list[str]]) -> list[str]:
    by_selector: dict[str, list[str]] = {}
    for (selector, _), lines in properties.items():
        by_selector.setdefault(selector, []).extend(lines)
    return [block(selector, lines) for selector, lines in by_selector.items()]


def block(selector: str, lines: Sequence[str]) -> str:
    """A selector with its declarations."""
    body = "\n".join(f"{INDENT}{line}" for line in lines)
    return f"{selector} {{\n{body}\n}}"


def under(condition: str, rules: Sequence[str]) -> str:
    """Rules under a media condition; an empty one asks for nothing."""
    text = "\n".join(rules)
    return f"@media {condition} {{\n{indent(text, INDENT)}\n}}" if condition else text
