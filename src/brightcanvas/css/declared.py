"""A declaration with all that decides whether it wins."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

INLINE = "style attribute"

Element = Any
"""An element as cssselect2 wraps it, which has no types."""

Rank = tuple[Any, ...]


@dataclass(frozen=True)
class Declared:
    """A declaration that applies to an element under some conditions."""

    name: str
    value: Sequence[Any]
    media: tuple[str, ...]
    base: str
    rank: Rank
    """The greatest wins."""
    origin: str
    """URL of the sheet in which it stands, or ``style attribute``."""
    line: int = 0
    """In that file; 0: not known."""
    selector: str = ""
    """Of its rule; empty in a style attribute."""
