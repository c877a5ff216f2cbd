"""A style sheet taken apart into its rules, before any of them is read.

Reading a rule costs fifty times as much as finding where it ends, and most rules of a framework's
sheet are for elements that a page doesn't have.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

_PART = re.compile(
    r"""
    /\*.*?(?:\*/|\Z)                                                      # a comment
    | "(?:[^"\\\n]|\\.)*(?:"|\n|\Z) | '(?:[^'\\\n]|\\.)*(?:'|\n|\Z)       # a string
    | (?i:url)\(\s*(?!["'\s])(?:[^)\\]|\\.)*(?:\)|\Z)                   # an address without quotes
    | \\.                                                                 # an escape
    | [{}();\[\]]
    """,
    re.VERBOSE | re.DOTALL,
)
_COMMENT = re.compile(r"/\*.*?(?:\*/|\Z)", re.DOTALL)
_MARKS = re.compile(r"<!--|-->")
_KEYWORD = re.compile(r"@(-?[a-zA-Z_][\w-]*)")
_CLOSED_BY = {"{": "}", "(": ")", "[": "]"}


@dataclass(frozen=True)
class Split:
    """One rule, or at-rule, as it stands in the sheet."""

    keyword: str
    """Of an at-rule, in small letters; empty: a rule for elements."""
    prelude: str
    """What stands before the block, without comments."""
    block: str | None
    """What stands between the braces; None: there are none."""
    line: int
    """Of its first character, from 1."""
    block_line: int
    """Of the block's first character."""


def split_rules(text: str, line: int = 1) -> Iterator[Split]:
    r"""The rules of a sheet, or of a group of rules (CSS Syntax 3, sections 5.4.1 to 5.4.3).

    Args:
        text: with newlines as ``\n``.
        line: of its first character.
    """
    start = at = 0
    counted, line_at = 0, line
    while (start := _begin(text, start)) < len(text):
        open_at, at = _block(text, start)
        end = at if open_at is None else open_at
        line_at, counted = line_at + text.count("\n", counted, start), start
        content = _content(text, open_at, at)
        yield _split(text[start:end], content, line_at, line_at + text.count("\n", start, end))
        start = at


def _begin(text: str, at: int) -> int:
    """Where the next rule begins: after spaces, comments, and the marks of old HTML comments."""
    while at < len(text):
        if text[at].isspace() or text[at] == ";":
            at += 1
        elif found := (_COMMENT.match(text, at) or _MARKS.match(text, at)):
            at = found.end()
        else:
            break
    return at


def _block(text: str, start: int) -> tuple[int | None, int]:
    """Where the rule's block opens, if it has one, and where the rule has ended."""
    is_at_rule = text[start] == "@"
    open_at, awaited = None, list[str]()
    for part in _PART.finditer(text, start):
        mark = part[0]
        if awaited and mark == awaited[-1]:
            awaited.pop()
            if open_at is not None and not awaited:
                return open_at, part.end()
        elif mark in _CLOSED_BY:
            if mark == "{" and not awaited:
                open_at = part.start()
            awaited.append(_CLOSED_BY[mark])
        elif mark == ";" and is_at_rule and not awaited:
            return None, part.end()
    return open_at, len(text)


def _content(text: str, open_at: int | None, end: int) -> str | None:
    if open_at is None:
        return None
    closed = end - 1 if text[end - 1] == "}" and end - 1 > open_at else end
    return text[open_at + 1 : closed]


def _split(head: str, block: str | None, line: int, block_line: int) -> Split:
    head = _COMMENT.sub(" ", head).strip()
    keyword = _KEYWORD.match(head)
    if keyword is None:
        return Split("", head, block, line, block_line)
    prelude = head[keyword.end() :].rstrip(";").strip()
    return Split(keyword[1].lower(), prelude, block, line, block_line)
