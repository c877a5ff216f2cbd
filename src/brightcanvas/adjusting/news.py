"""What has happened to a brief, for a page that waits to hear of it."""

from __future__ import annotations

from threading import Condition
from typing import Any

from brightcanvas.pipeline.drafting import Draft


class News:
    """What has happened since somebody asked last."""

    def __init__(self) -> None:
        self._changed = Condition()
        self._number = 0
        self._mistake = ""
        self.draft: Draft | None = None

    def tell(self, what: str, says: str = "") -> None:
        """Something has happened."""
        with self._changed:
            self._number += 1
            self._mistake = says if what == "mistake" else ""
            self._changed.notify_all()

    def drafted(self, made: Draft) -> None:
        """A draft is there."""
        self.draft = made
        self.tell("draft")

    def after(self, number: int, patience: float) -> dict[str, Any]:
        """What has happened after a number of news; waits for some, so many seconds."""
        with self._changed:
            self._changed.wait_for(lambda: self._number > number, patience)
            return {"number": self._number, "mistake": self._mistake}
