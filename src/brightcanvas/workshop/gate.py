"""A gate for large work: so much of it at once as memory has room for."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Condition

ROOM = 10_000_000
"""Px of results that are worked on at once; a larger one is worked on alone."""


class Gate:
    """Lets work pass while there is room for it."""

    def __init__(self, room: int = ROOM) -> None:
        self._room = room
        self._taken = 0  # whole px: what is given back is exactly what was taken
        self._changed = Condition()

    @contextmanager
    def passing(self, amount: int) -> Iterator[None]:
        """Wait until there is room for the amount, and hold it meanwhile."""
        wanted = min(amount, self._room)
        with self._changed:
            self._changed.wait_for(lambda: self._taken + wanted <= self._room)
            self._taken += wanted
        try:
            yield
        finally:
            with self._changed:
                self._taken -= wanted
                self._changed.notify_all()
