"""Style sheets, laid out flat: every rule with the conditions that stand round it."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import tinycss2

from brightcanvas.css.layers import url_of
from brightcanvas.css.selectors import LONGEST, compiled
from brightcanvas.values.addresses import joined
from brightcanvas.values.css_text import is_unbearable
from brightcanvas.values.lengths import Token, bare, split

MOST_RULES, MOST_IMPORTS, MOST_NOTED = 50_000, 100, 20
"""Of all style sheets of a page."""

DEEPEST = 8
"""Sheets that import sheets that import sheets."""

Fetch = Callable[[str], str | None]
"""The text behind a URL."""


@dataclass(frozen=True)
class Around:
    """What stands round a rule."""

    base: str
    """URL that its own URLs are relative to."""
    media: tuple[str, ...] = ()
    """Conditions that must all match."""
    layer: tuple[str, ...] | None = None
    """The path of its cascade layer; None: in none."""
    imported: int = 0
    parent: str = ""
    """The selectors of the rule that a rule is nested in; empty: in none."""


@dataclass(frozen=True)
class Rule:
    """Declarations for the elements of a selector."""

    selectors: tuple[Any, ...]
    """Compiled by cssselect2."""
    declarations: tuple[Any, ...]
    """By tinycss2, in order."""
    around: Around


@dataclass(frozen=True)
class Imported:
    """A sheet that another one brings in."""

    url: str
    media: tuple[str, ...]
    by: str


@dataclass
class SheetReading:
    """What was found in all sheets, in order."""

    rules: list[Rule]
    imports: list[Imported]
    layers: list[tuple[str, ...]]
    """In the order in which they were first named."""
    unread: list[str]
    """What no account was taken of."""

    def leave(self, what: str) -> None:
        """Note what no account is taken of, in a few words."""
        if len(self.unread) < MOST_NOTED:
            self.unread.append(f"{what[:100]} ..." if len(what) > 100 else what)


def read_sheet(text: str, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    """Add the rules of a sheet to what was read before it."""
    if is_unbearable(text):
        reading.leave(
            f"the style sheet {around.base}: brackets nested too deeply, or endless numbers"
        )
        return
    for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
        _read_rule(rule, around, fetch, reading)


def _read_rule(rule: Token, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    if rule.type == "qualified-rule":
        _read_style(rule, around, fetch, reading)
    elif rule.type == "at-rule":
        read = _AT_RULES.get(rule.lower_at_keyword)
        if read:
            read(rule, around, fetch, reading)
    elif rule.type == "error":
        reading.leave(f"line {rule.source_line} of a style sheet: {rule.message}")


def _read_style(rule: Token, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    prelude = _nested_in(around.parent, rule.prelude) if around.parent else _text(rule.prelude)
    if len(reading.rules) >= MOST_RULES or not prelude or compiled(prelude) is None:
        reading.leave(f"a rule for {_text(rule.prelude)}")
        return
    _read_block(rule.content, replace(around, parent=prelude), fetch, reading)


def _nested_in(parent: str, prelude: Sequence[Any]) -> str:
    """The selectors of a nested rule, written out (CSS Nesting 1, sections 3.1 and 3.2).

    Empty where they would be longer than any that can be compiled: they multiply with each level.
    """
    own = f":is({parent})"
    parts = split(prelude, ",")
    if len(own) * (len(parts) + _text(prelude).count("&")) > LONGEST:
        return ""
    selectors = []
    for part in parts:
        plain, written = _text(part), _with_parent(part, own).strip()
        selectors.append(f"{own} {plain}" if written == plain else written)
    return ", ".join(selectors)


def _with_parent(tokens: Sequence[Any], own: str) -> str:
    """Tokens with the parent's selectors for each ``&``."""
    texts = []
    for token in tokens:
        if token.type == "function":
            texts.append(f"{token.name}({_with_parent(token.arguments, own)})")
        else:
            texts.append(own if token == "&" else token.serialize())
    return "".join(texts)


def _read_block(
    content: Sequence[Any], around: Around, fetch: Fetch, reading: SheetReading
) -> None:
    """The declarations for the parent's elements in their order, with what is nested between."""
    selectors = compiled(around.parent) or ()
    parts = tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True)
    for is_declared, group in itertools.groupby(parts, lambda one: one.type == "declaration"):
        if is_declared:
            reading.rules.append(Rule(selectors, tuple(group), around))
            continue
        for inner in group:
            _read_rule(inner, around, fetch, reading)


def _text(tokens: Sequence[Any]) -> str:
    return str(tinycss2.serialize(tokens)).strip()


def _inside(rule: Token, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    if around.parent:
        _read_block(rule.content or [], around, fetch, reading)
        return
    inner = tinycss2.parse_rule_list(rule.content or [], skip_comments=True, skip_whitespace=True)
    for one in inner:
        _read_rule(one, around, fetch, reading)


def _media(rule: Token, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    deeper = replace(around, media=(*around.media, _text(rule.prelude)))
    _inside(rule, deeper, fetch, reading)


def _supports(rule: Token, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    """Taken as supported unless it asks for the opposite: browsers of the range know most.

    What asks for a length that only some of them know is asked of each window.
    """
    asked = _text(rule.prelude)
    if found := _LENGTH_ASKED.fullmatch(asked):
        around = replace(around, media=(*around.media, f"(min-width: {found[1]})"))
    if not re.match(r"\s*not\b", asked):
        _inside(rule, around, fetch, reading)


_LENGTH_ASKED = re.compile(r"\(\s*width\s*:\s*(mod\(1lh, ?1px\)|1r?lh)\s*\)")


def _layer(rule: Token, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    named = [tuple(name.strip().split(".")) for name in _text(rule.prelude).split(",")]
    outer = around.layer or ()
    paths = [(*outer, *(name if name != ("",) else (f"#{len(reading.layers)}",))) for name in named]
    for path in paths:
        if path not in reading.layers:
            reading.layers.append(path)
    if rule.content is not None:
        _inside(rule, replace(around, layer=paths[0]), fetch, reading)


def _import(rule: Token, around: Around, fetch: Fetch, reading: SheetReading) -> None:
    tokens = bare(rule.prelude)
    url = (tokens[0].value if tokens and tokens[0].type == "string" else None) or (
        url_of(tokens[0]) if tokens else None
    )
    if not url or around.imported >= DEEPEST:
        return
    address = joined(around.base, url)
    if len(reading.imports) >= MOST_IMPORTS:
        reading.leave(f"more than {MOST_IMPORTS} imported style sheets")
        return
    layer, rest = _layer_named(tokens[1:], around, reading)
    media = (*around.media, _text(rest)) if rest else around.media
    reading.imports.append(Imported(address, media, around.base))
    text = fetch(address)
    if text is not None:
        deeper = Around(address, media, layer, around.imported + 1)
        read_sheet(text, deeper, fetch, reading)


def _layer_named(
    tokens: list[Any], around: Around, reading: SheetReading
) -> tuple[tuple[str, ...] | None, list[Any]]:
    """The layer that an import goes into, and what follows it."""
    first = tokens[0] if tokens else None
    outer = around.layer or ()
    if first is not None and first.type == "ident" and first.lower_value == "layer":
        path: tuple[str, ...] = (*outer, f"#{len(reading.layers)}")
    elif first is not None and first.type == "function" and first.lower_name == "layer":
        path = (*outer, *_text(first.arguments).split("."))
    else:
        return around.layer, tokens
    if path not in reading.layers:
        reading.layers.append(path)
    return path, tokens[1:]


def _undecided(rule: Token, _: Around, __: Fetch, reading: SheetReading) -> None:
    """What depends on boxes and trees that nobody has laid out; told where pictures are in it."""
    if rule.content and re.search(r"url\(|image-set\(", _text(rule.content)):
        reading.leave(f"pictures in @{rule.lower_at_keyword} {_text(rule.prelude)}")


_AT_RULES: dict[str, Callable[[Any, Around, Fetch, SheetReading], None]] = {
    "media": _media, "supports": _supports, "layer": _layer, "import": _import,
    "container": _undecided, "scope": _undecided, "starting-style": _undecided,
}  # fmt: skip
