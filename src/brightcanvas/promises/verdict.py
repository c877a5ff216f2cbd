"""What a check of a promise comes to."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

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
    is_rare: bool = False
    """Whether it fails only in windows that next to nobody has: told as a note, not as broken."""


def sight_text(sight: Sight) -> str:
    """A window as people say it: its viewport in whole CSS px."""
    viewport = sight.viewport
    return f"a window of {math.floor(viewport.width)} x {math.floor(viewport.height)}"


def forgiven(verdict: Verdict) -> Verdict:
    """A promise that fails only where next to nobody is: a note."""
    return replace(verdict, holds=True) if verdict.is_rare and not verdict.holds else verdict


def worth_telling(verdicts: Sequence[Verdict]) -> list[Verdict]:
    """Every broken promise, and of those that hold the worst breakpoint of each backdrop."""
    groups: dict[tuple[str, str], list[Verdict]] = {}
    for verdict in verdicts:
        groups.setdefault((verdict.promise, verdict.backdrop), []).append(verdict)
    told: list[Verdict] = []
    for _, group in sorted(groups.items(), key=lambda item: item[0][0]):
        broken = [verdict for verdict in group if not verdict.holds]
        told += broken or [min(group, key=lambda verdict: verdict.margin)]
    return told
