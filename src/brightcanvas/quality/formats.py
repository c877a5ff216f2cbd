"""Which of the files that were made are worth publishing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol, TypeVar


class Weighed(Protocol):
    """Anything with a weight in bytes."""

    @property
    def bytes(self) -> int:
        """Its weight."""


W = TypeVar("W", bound=Weighed)


def worth_keeping(newest_first: Sequence[W]) -> tuple[W, ...]:
    """Without the formats that came out no lighter than an older one.

    The oldest always stays: it is what every browser can show.
    """
    kept: list[W] = []
    for one in reversed(newest_first):
        if not kept or one.bytes < min(other.bytes for other in kept):
            kept.insert(0, one)
    return tuple(kept)
