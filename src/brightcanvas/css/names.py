"""Whether a selector can hit anything on a page, by the names in it alone."""

from __future__ import annotations

import re
from dataclasses import dataclass

_BRACKETS = re.compile(r"""\[(?:"[^"]*"|'[^']*'|[^\]"'])*\]|\([^()]*\)""")
_NAMED = re.compile(r"([.#])(-?[\w-]+)")


@dataclass(frozen=True)
class Names:
    """What a page's elements are called."""

    classes: frozenset[str]
    ids: frozenset[str]


def may_match(selectors: str, names: Names) -> bool:
    """Whether one of a list's selectors names only what there is.

    What stands in brackets says nothing: it may name what must not be there.
    """
    if "\\" in selectors:
        return True
    without = _BRACKETS.sub("", selectors)
    while without != selectors:
        selectors, without = without, _BRACKETS.sub("", without)
    return any(_has_names(part, names) for part in selectors.split(","))


def _has_names(selector: str, names: Names) -> bool:
    return all(
        name in (names.classes if mark == "." else names.ids)
        for mark, name in _NAMED.findall(selector)
    )
