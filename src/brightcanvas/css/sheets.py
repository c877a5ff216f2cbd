"""Style sheets, laid out flat: every rule with the conditions that stand round it."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import tinycss2

from brightcanvas.css.layer_lists import url_of
from brightcanvas.css.selectors import LONGEST, Names, compiled, may_match
from brightcanvas.css.splitting import Split, split_rules
from brightcanvas.values.lengths import Token, bare, split
from brightcanvas.values.page_text import component_values, exceeds_limits, joined

Truth = bool | None
"""None: one browser says yes, another one no."""

NEVER = ("-ms-", "-o-", "-khtml-", "-moz-appearance", "-webkit-touch-callout")
"""How names begin that no browser knows which takes its pictures from here."""

SOME = ("-moz-", "-webkit-hyphens", "-apple-")


def supports(condition: str) -> Truth:
    """Whether browsers of the range have what is asked for; a property without a prefix they do."""
    return _condition(bare(component_values(condition)))


def _condition(tokens: Sequence[Any]) -> Truth:
    if not tokens:
        return False
    if _is_word(tokens[0], "not"):
        inner = _condition(tokens[1:])
        return None if inner is None else not inner
    truths = [_one(token) for token in tokens[::2]]
    if any(_is_word(token, "or") for token in tokens[1::2]):
        return True if True in truths else None if None in truths else False
    return False if False in truths else None if None in truths else True


def _is_word(token: Any, word: str) -> bool:  # noqa: ANN401
    return bool(token.type == "ident" and token.lower_value == word)


def _one(token: Any) -> Truth:  # noqa: ANN401
    if token.type == "function":
        return _function(token)
    if token.type != "() block":
        return False
    inner = bare(token.content)
    if inner and (inner[0].type in ("() block", "function") or _is_word(inner[0], "not")):
        return _condition(inner)
    return _declaration("".join(one.serialize() for one in token.content).strip().lower())


def _function(token: Any) -> Truth:  # noqa: ANN401
    if token.lower_name != "selector":
        return bool(token.lower_name.startswith("font-"))
    asked = "".join(one.serialize() for one in token.arguments)
    return True if compiled(asked) is not None else None


def _declaration(text: str) -> Truth:
    name, colon, value = text.partition(":")
    if not colon or not value.strip():
        return False
    parts = [name.strip(), *re.findall(r"-\w+-[\w-]+", value)]
    if any(part.startswith(NEVER) for part in parts):
        return False
    return None if any(part.startswith(SOME) for part in parts) else True


MOST_RULES, MOST_IMPORTS, MOST_NOTED = 50_000, 100, 20
"""Of all style sheets of a page."""

DEEPEST = 8
"""Sheets that import sheets that import sheets."""

Fetch = Callable[[str], str | None]
"""The text behind a URL."""

READ = re.compile(
    r"--.+|(-webkit-)?(background|mask|border-image|list-style)(-(image|source|color|size|position"
    r"|repeat|attachment))?|all|content|cursor|display|visibility|opacity|color|font"
    r"|font-(family|size|weight|style)|((min|max)-)?(width|height)|aspect-ratio|padding(-.+)?"
    r"|position|top|right|bottom|left|inset|object-fit|content-visibility"
)
"""The properties that decide what is fetched, shown and read; all others are left alone."""

_PICTURE = re.compile(r"url\(|image-set\(", re.I)
_FILE = re.compile(r"""url\(\s*["']?(?!\s*["']?(?:data:|#|%23))|image-set\(""", re.I)


@dataclass(frozen=True)
class RuleContext:
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
    line: int = 1
    """Of the file, at which what stands here begins."""
    file: str = ""
    """URL of the file in which it stands."""


@dataclass(frozen=True)
class Rule:
    """Declarations for the elements of a selector."""

    selectors: tuple[Any, ...]
    """Compiled by cssselect2."""
    declarations: tuple[Any, ...]
    """By tinycss2, in order."""
    around: RuleContext
    written: str = ""
    """The selectors as they stand there."""


@dataclass(frozen=True)
class Idle:
    """A rule with a picture whose selectors name what the page hasn't got."""

    written: str
    around: RuleContext


@dataclass(frozen=True)
class Face:
    """A font that a sheet offers: ``@font-face``."""

    descriptors: dict[str, Sequence[Any]]
    around: RuleContext


@dataclass(frozen=True)
class Imported:
    """A sheet that another one brings in."""

    url: str
    media: tuple[str, ...]
    by: str


@dataclass
class SheetReading:
    """What was found in all sheets, in order."""

    rules: list[Rule] = field(default_factory=list)
    imports: list[Imported] = field(default_factory=list)
    layers: list[tuple[str, ...]] = field(default_factory=list)
    """In the order in which they were first named."""
    unread: list[str] = field(default_factory=list)
    """What no account was taken of."""
    names: Names | None = None
    """Of the page's elements; None: any may occur."""
    idle: list[Idle] = field(default_factory=list)
    faces: list[Face] = field(default_factory=list)

    def leave(self, what: str) -> None:
        """Note what no account is taken of, in a few words."""
        if len(self.unread) < MOST_NOTED:
            self.unread.append(f"{what[:100]} ..." if len(what) > 100 else what)


def read_sheet(text: str, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    """Add the rules of a sheet to what was read before it."""
    if exceeds_limits(text):
        reading.leave(
            f"the style sheet {around.base}: brackets nested too deeply, or endless numbers"
        )
        return
    around = around if around.file else replace(around, file=around.base)
    _read_rules(text.replace("\r\n", "\n"), around, fetch, reading)


@dataclass(frozen=True)
class _AtRule:
    """An at-rule, from a sheet's text or from a rule that it is nested in."""

    keyword: str
    prelude: str
    block: str | Sequence[Any] | None
    """Text of rules, or tokens of declarations and rules."""


def _read_rules(text: str, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    may_import = not around.parent
    for one in split_rules(text, around.line):
        may_import &= one.keyword in ("import", "charset") or _names_layers(one.keyword, one.block)
        if not one.keyword:
            _read_style(one, around, fetch, reading)
        elif one.keyword != "import" or may_import:
            inside = replace(around, line=one.block_line)
            _read_at_rule(_AtRule(one.keyword, one.prelude, one.block), inside, fetch, reading)


def _names_layers(keyword: str, block: str | None) -> bool:
    """Whether an at-rule only names layers; imports may follow such (CSS Cascade 5, section 2)."""
    return keyword == "layer" and block is None


def _read_at_rule(rule: _AtRule, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    read = _AT_RULES.get(rule.keyword)
    if read:
        read(rule, around, fetch, reading)
    elif rule.keyword.endswith("keyframes") and _has_picture(rule.block):
        reading.leave(f"pictures in @{rule.keyword} {rule.prelude}")


def _has_picture(block: str | Sequence[Any] | None) -> bool:
    text = block if isinstance(block, str) else _text(block or ())
    return bool(_PICTURE.search(text))


def _read_style(rule: Split, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    """A rule as it stands in a sheet; what can't hit any element of the page is passed over."""
    prelude, block = rule.prelude, rule.block
    if block is None:
        reading.leave(f"line {rule.line} of a style sheet: no block after {prelude[:60]!r}")
    elif reading.names and not may_match(prelude, reading.names):
        if _FILE.search(block):
            reading.idle.append(Idle(prelude, replace(around, line=rule.line)))
    elif len(reading.rules) >= MOST_RULES or not prelude or compiled(prelude) is None:
        if _has_picture(block) or not prelude:
            reading.leave(f"a rule for {prelude}")
    else:
        within = replace(around, parent=prelude, line=rule.block_line)
        _read_block(_parts(block), within, fetch, reading)


def _read_nested(rule: Token, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    if rule.type == "qualified-rule":
        prelude = _nested_in(around.parent, rule.prelude)
        if len(reading.rules) >= MOST_RULES or not prelude or compiled(prelude) is None:
            reading.leave(f"a rule for {_text(rule.prelude)}")
            return
        _read_block(_parts(rule.content), replace(around, parent=prelude), fetch, reading)
    elif rule.type == "at-rule":
        found = _AtRule(rule.lower_at_keyword, _text(rule.prelude), rule.content)
        _read_at_rule(found, around, fetch, reading)
    elif rule.type == "error":
        reading.leave(f"line {around.line} of a style sheet: {rule.message}")


def _parts(content: str | Sequence[Any]) -> Sequence[Any]:
    found: Sequence[Any] = tinycss2.parse_blocks_contents(
        content, skip_comments=True, skip_whitespace=True
    )
    return found


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
    parts: Sequence[Any], around: RuleContext, fetch: Fetch, reading: SheetReading
) -> None:
    """The declarations for the parent's elements in their order, with what is nested between."""
    selectors = compiled(around.parent) or ()
    for is_declared, group in itertools.groupby(parts, lambda one: one.type == "declaration"):
        if is_declared:
            read = tuple(one for one in group if READ.fullmatch(one.lower_name))
            if read:
                reading.rules.append(Rule(selectors, read, around, around.parent))
            continue
        for inner in group:
            _read_nested(inner, around, fetch, reading)


def _text(tokens: Sequence[Any]) -> str:
    return str(tinycss2.serialize(tokens)).strip()


def _inside(rule: _AtRule, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    if isinstance(rule.block, str):
        _read_rules(rule.block, around, fetch, reading)
    elif rule.block is not None and around.parent:
        _read_block(_parts(rule.block), around, fetch, reading)


def _media(rule: _AtRule, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    _inside(rule, replace(around, media=(*around.media, rule.prelude)), fetch, reading)


def _supports(rule: _AtRule, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    """What asks for a length that only some browsers know is asked of each window."""
    if found := _LENGTH_ASKED.fullmatch(rule.prelude):
        around = replace(around, media=(*around.media, f"(min-width: {found[1]})"))
        _inside(rule, around, fetch, reading)
        return
    truth = supports(rule.prelude)
    if truth is None and _has_picture(rule.block):
        reading.leave(f"pictures in @supports {rule.prelude}")
    if truth:
        _inside(rule, around, fetch, reading)


_LENGTH_ASKED = re.compile(r"\(\s*width\s*:\s*(mod\(1lh, ?1px\)|1r?lh)\s*\)")


def _layer(rule: _AtRule, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    named = [tuple(name.strip().split(".")) for name in rule.prelude.split(",")]
    outer = around.layer or ()
    paths = [(*outer, *(name if name != ("",) else (f"#{len(reading.layers)}",))) for name in named]
    for path in paths:
        if path not in reading.layers:
            reading.layers.append(path)
    if rule.block is not None:
        _inside(rule, replace(around, layer=paths[0]), fetch, reading)


def _import(rule: _AtRule, around: RuleContext, fetch: Fetch, reading: SheetReading) -> None:
    tokens = bare(component_values(rule.prelude))
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
    asked, rest = _supports_asked(rest)
    if not asked:
        return
    media = (*around.media, _text(rest)) if rest else around.media
    reading.imports.append(Imported(address, media, around.file or around.base))
    text = fetch(address)
    if text is not None:
        deeper = RuleContext(address, media, layer, around.imported + 1)
        read_sheet(text, deeper, fetch, reading)


def _supports_asked(tokens: list[Any]) -> tuple[bool, list[Any]]:
    """Whether what an import asks the browser for is had, and what follows it."""
    first = tokens[0] if tokens else None
    if first is None or first.type != "function" or first.lower_name != "supports":
        return True, tokens
    asked = _text(first.arguments)
    return supports(f"({asked})") is not False, tokens[1:]


def _layer_named(
    tokens: list[Any], around: RuleContext, reading: SheetReading
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


def _font_face(rule: _AtRule, around: RuleContext, _: Fetch, reading: SheetReading) -> None:
    if rule.block is None:
        return
    said = {one.lower_name: one.value for one in _parts(rule.block) if one.type == "declaration"}
    reading.faces.append(Face(said, around))


def _undecided(rule: _AtRule, _: RuleContext, __: Fetch, reading: SheetReading) -> None:
    """What depends on boxes and trees that nobody has laid out; told where pictures are in it."""
    if _has_picture(rule.block):
        reading.leave(f"pictures in @{rule.keyword} {rule.prelude}")


_AT_RULES: dict[str, Callable[[Any, RuleContext, Fetch, SheetReading], None]] = {
    "media": _media, "supports": _supports, "layer": _layer, "import": _import,
    "font-face": _font_face, "container": _undecided, "scope": _undecided,
    "starting-style": _undecided,
}  # fmt: skip
