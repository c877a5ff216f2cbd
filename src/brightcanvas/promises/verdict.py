"""What a check of a promise comes to."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from enum import Enum
from typing import Any

from brightcanvas.framing.stages import ViewportBox


class State(Enum):
    """What a promise comes to."""

    HOLDS = "holds"
    BROKEN = "broken"
    NOTE = "note"
    """It is not broken, but there is something to tell, and to do."""
    NOT_MEASURED = "not measured"
    """Nobody looked, so nothing is promised."""

    @classmethod
    def of(cls, holds: bool) -> State:  # noqa: FBT001 - it is what the state says
        """Of a promise that holds or is broken."""
        return cls.HOLDS if holds else cls.BROKEN


@dataclass(frozen=True)
class Verdict:
    """One promise for one backdrop at one breakpoint."""

    promise: str
    backdrop: str
    breakpoint: str
    state: State
    says: str
    """The worst case, in a designer's words."""
    margin: float
    """How far from breaking, in the promise's own unit: the lowest is the worst case."""
    remedy: str = ""
    """What to change where it doesn't hold."""
    is_rare: bool = False
    """Whether it fails only in windows that next to nobody has: told as a note, not as broken."""

    @property
    def holds(self) -> bool:
        """Whether it is not broken."""
        return self.state is not State.BROKEN

    @property
    def facts(self) -> dict[str, Any]:
        """As JSON values; ``holds`` stands beside the state for those who ask for no more."""
        return {**asdict(self), "state": self.state.value, "holds": self.holds}


def sight_text(viewport_box: ViewportBox) -> str:
    """A window as people say it: its viewport in whole CSS px."""
    viewport = viewport_box.viewport
    return f"a window of {math.floor(viewport.width)} x {math.floor(viewport.height)}"


def downgrade_rare(verdict: Verdict) -> Verdict:
    """A promise that fails only where next to nobody is: a note."""
    is_broken = verdict.state is State.BROKEN
    return replace(verdict, state=State.NOTE) if verdict.is_rare and is_broken else verdict


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
