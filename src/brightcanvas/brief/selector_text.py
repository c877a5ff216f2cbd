"""Checking the selector that names an element, before it goes into a style sheet."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import cssselect2
import tinycss2

from brightcanvas.values.page_text import exceeds_limits

LONGEST = 1000

WANTED = "a CSS selector such as .arrival or #top"
_MARKS = frozenset({".", ">", "+", "~", "*", ",", ":", "|"})
_PLAIN = frozenset({"ident", "hash", "whitespace"})


def check_selector(text: str) -> str:
    """The selector, if it is harmless inside a style sheet; ValueError otherwise."""
    if len(text) > LONGEST or exceeds_limits(text):
        raise ValueError(f"{WANTED}, of at most {LONGEST} characters")
    # The braces behind it show whether it leaves a bracket or a string open.
    *nodes, end = tinycss2.parse_component_value_list(f"{text} {{}}", skip_comments=False)
    is_whole = end.type == "{} block" and not end.content and all(_harmless(node) for node in nodes)
    if not text.strip() or not is_whole:
        raise ValueError(WANTED)
    if "<" in text or any(ord(character) < 32 for character in text):
        raise ValueError(WANTED)
    for name in _elements(nodes):
        if name not in HTML_ELEMENTS and "-" not in name:
            raise ValueError(f"{WANTED}; HTML has no element '{name}': '.{name}' for a class?")
    try:
        list(cssselect2.parser.parse(text))
    except (cssselect2.SelectorError, RecursionError) as error:
        raise ValueError(WANTED) from error
    return text.strip()


def _elements(nodes: Sequence[Any]) -> Iterator[str]:
    """The names of elements: those before which no dot or colon stands."""
    for before, node in zip((None, *nodes), nodes, strict=False):
        is_marked = before is not None and before.type == "literal" and before.value in ".:"
        if node.type == "ident" and not is_marked:
            yield node.lower_value


_NAMES = (
    "a abbr address area article aside audio b base bdi bdo blockquote body br button canvas "
    "caption center cite code col colgroup data datalist dd del details dfn dialog div dl dt em "
    "embed fieldset figcaption figure font footer form frame frameset h1 h2 h3 h4 h5 h6 head "
    "header hgroup hr html i iframe img input ins kbd label legend li link main map marquee "
    "mark math menu meta meter nav noscript object ol optgroup option output p param picture "
    "pre progress q rp rt ruby s samp script search section select slot small source span "
    "strong style sub summary sup svg table tbody td template textarea tfoot th thead time "
    "title tr track u ul var video wbr"
)
HTML_ELEMENTS = frozenset(_NAMES.split())
"""Of the living standard, with some that it calls obsolete."""


def _harmless(node: Any) -> bool:  # noqa: ANN401 - the parser's nodes have no common type
    if node.type == "[] block":
        return all(_harmless_in_attribute(inner) for inner in node.content)
    if node.type == "function":
        return _all_harmless(node.arguments)
    return node.type in _PLAIN or (node.type == "literal" and node.value in _MARKS)


def _all_harmless(nodes: Iterable[Any]) -> bool:
    return all(_harmless(node) or node.type in ("number", "dimension") for node in nodes)


def _harmless_in_attribute(node: Any) -> bool:  # noqa: ANN401 - as above
    return node.type in ("ident", "string", "whitespace") or (
        node.type == "literal"
        and node.value in {"=", "~=", "|=", "^=", "$=", "*=", "~", "|", "*", "^", "$"}
    )
