"""Rules that several parts share stand once: for all of them, or for those of a breakpoint.

A property that has the same declarations in every part is written without a condition; one that
has them in all parts of a breakpoint, under the breakpoint's; the rest under the part's own. A
property written in a narrower place is left out of the wider ones, so nothing is overridden but
what newer syntax overrides.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from textwrap import indent

INDENT = "  "

Line = tuple[str, str]
"""A selector, and a declaration for it."""

Property = tuple[str, str]
"""A selector, and the name of a property."""


@dataclass(frozen=True)
class Part:
    """What is declared for one part of a backdrop."""

    condition: str
    breakpoint: str
    """The condition of the breakpoint that it is a part of."""
    lines: tuple[Line, ...]

    def declared(self) -> dict[Property, list[str]]:
        """Its declarations by property, in order."""
        found: dict[Property, list[str]] = {}
        for selector, line in self.lines:
            found.setdefault((selector, line.partition(":")[0]), []).append(line)
        return found


Scope = dict[str, dict[Property, list[str]]]
"""Declarations by condition."""


def shared_rules(parts: Sequence[Part]) -> list[str]:
    """The rules of all parts, from the widest scope to the narrowest."""
    scopes: Scope = {}
    declared = [part.declared() for part in parts]
    for name in dict.fromkeys(name for one in declared for name in one):
        for condition, lines in _scopes(name, parts, declared):
            scopes.setdefault(condition, {})[name] = lines
    order = ["", *(part.breakpoint for part in parts), *(part.condition for part in parts)]
    return [
        under(condition, _blocks(scopes[condition]))
        for condition in dict.fromkeys(order)
        if condition in scopes
    ]


def _scopes(
    name: Property, parts: Sequence[Part], declared: Sequence[dict[Property, list[str]]]
) -> Iterator[tuple[str, list[str]]]:
    """Under which conditions a property is declared, and how."""
    values = [one.get(name) for one in declared]
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
