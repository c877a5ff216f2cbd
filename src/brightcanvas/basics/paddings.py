"""The room between an element's edges and its content."""

from __future__ import annotations

import re

WANTED = "one to four lengths such as 64px, 4rem, 5vw, 8svh or 0"

_LENGTH = re.compile(r"0|\d+(?:\.\d+)?(?:px|rem|em|vw|vh|svh|lvh|dvh|%)")
_NEWER = re.compile(r"(?<=\d)[sld]vh")


def check_padding(text: str) -> str:
    """The lengths with single spaces between; ValueError says what was expected."""
    parts = text.split()
    if not 1 <= len(parts) <= 4 or not all(_LENGTH.fullmatch(part) for part in parts):
        raise ValueError(WANTED)
    return " ".join(parts)


def padding_lines(padding: str) -> list[str]:
    """CSS declarations: the padding counts into the least height, in every browser.

    Browsers that don't know the newer viewport units take the plain one.
    """
    if not padding:
        return []
    older = _NEWER.sub("vh", padding)
    lines = ["box-sizing: border-box;", f"padding: {older};"]
    return lines if older == padding else [*lines, f"padding: {padding};"]
