"""HTML read with the line of each element."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

import html5lib
from html5lib.treebuilders import getTreeBuilder

LINE = "\x00line"
"""The attribute of the tree that holds the place, line and column of the tag's end: no page can
have one of that name."""

Node = Any
"""An element of the standard library's ElementTree."""


def parsed(text: str) -> Node:
    """The root of a page's tree; each element knows the line of its tag's end."""
    builder = getTreeBuilder("etree")
    parser: Any = html5lib.HTMLParser(tree=_noting(builder), namespaceHTMLElements=False)
    parser.tree.parser = parser
    return parser.parse(text)


def _noting(builder: Any) -> Any:  # noqa: ANN401
    class Noting(builder):  # type: ignore[misc]
        """Notes where the parser stands whenever it makes an element."""

        def createElement(self, token: Any) -> Any:  # noqa: ANN401, N802 - the library's name
            return self._noted(super().createElement(token))

        def insertElementNormal(self, token: Any) -> Any:  # noqa: ANN401, N802
            return self._noted(super().insertElementNormal(token))

        def _noted(self, made: Any) -> Any:  # noqa: ANN401
            tokenizer = getattr(self.parser, "tokenizer", None)
            if tokenizer is not None:
                line, column = tokenizer.stream.position()
                made._element.set(LINE, f"{line}:{column}")
            return made

    return Noting


def line_of(node: Node) -> int:
    """The line on which an element's tag ends; 0 for what the parser added by itself."""
    return int(node.get(LINE, "0").partition(":")[0])


def after_tag(node: Node, text: str) -> int | None:
    r"""Where in a page's text an element's opening tag has ended; None: the parser added it.

    Args:
        node: of the page's tree.
        text: that the page was parsed from, with the line ends that it has.
    """
    line, _, column = node.get(LINE, "").partition(":")
    if not column:
        return None
    end = _line_starts(text)[int(line) - 1] + int(column)
    return end if text[end - 1 : end] == ">" else None


@lru_cache(maxsize=8)
def _line_starts(text: str) -> tuple[int, ...]:
    r"""As HTML counts lines: ``\r\n``, ``\r`` and ``\n`` end one."""
    return (0, *(found.end() for found in re.finditer(r"\r\n|\r|\n", text)))
