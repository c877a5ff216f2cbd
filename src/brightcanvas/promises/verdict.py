"""What a check of a promise comes to."""

from __future__ import annotations

from dataclasses import dataclass


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
