"""Checking the selector that names an element, before it goes into a style sheet."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import cssselect2
import tinycss2

WANTED = "a CSS selector such as .arrival or #top"
_MARKS = frozenset({".", ">", "+", "~", "*", ",", ":", "|"})
_PLAIN = frozenset({"ident", "hash", "whitespace"})


def check_selector(text: str) -> str:
    """The selector, if it is harmless inside a style sheet; ValueError otherwise."""
    # The braces behind it show whether it leaves a bracket or a string open.
    *nodes, end = tinycss2.parse_component_value_list(f"{text} {{}}", skip_comments=False)
    is_whole = end.type == "{} block" and not end.content and all(_harmless(node) for node in nodes)
    if not text.strip() or not is_whole:
        raise ValueError(WANTED)
    if "<" in text or any(ord(character) < 32 for character in text):
        raise ValueError(WANTED)
    try:
        list(cssselect2.parser.parse(text))
    except cssselect2.SelectorError as error:
        raise ValueError(WANTED) from error
    return text.strip()


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
