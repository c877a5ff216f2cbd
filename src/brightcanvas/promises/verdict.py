"""What a check of a promise comes to."""

from __future__ import annotations

import math
from dataclasses import dataclass

from brightcanvas.framing.stages import Sight


@dataclass(frozen=True)
class Verdict:
    """One promise for one backdrop at one breakpoint."""

    promise: str
    backdrop: str
    breakpoint: str
    holds: bool
    says: str
    """The worst case, in a designer's words."""
    margin: float
    """How far from breaking, in the promise's own unit: the lowest is the worst case."""
    remedy: str = ""
    """What to change where it doesn't hold."""


def sight_text(sight: Sight) -> str:
    """A window as people say it: its viewport in whole CSS px."""
    viewport = sight.viewport
    return f"a window of {math.floor(viewport.width)} x {math.floor(viewport.height)}"
