"""What was found wrong, where, on which screens, and what it costs there."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

from brightcanvas.values.screens import Screen


class Confidence(IntEnum):
    """How sure a finding is."""

    CERTAIN = 0
    """The markup and the style sheets say so, or a browser did."""
    LIKELY = 1
    """Boxes or a first view are judged by what style sheets say of them."""
    POSSIBLE = 2
    """A script, or another page, may have a reason for it."""

    @property
    def word(self) -> str:
        """For people."""
        return self.name.lower()


class Severity(IntEnum):
    """What a finding does to people, the worst first."""

    SPOILS = 0
    """Somebody sees it: no picture, no copy, a page that jumps."""
    COSTS = 1
    """Bytes or seconds."""
    LITTERS = 2
    """Nobody sees it, and it costs next to nothing; whoever works on the page stumbles over it."""


@dataclass(frozen=True)
class Place:
    """Where it stands."""

    file: str
    """The path below the host's root."""
    line: int = 0
    """0: not known."""
    selector: str = ""
    """The element, or the rule's selector."""

    @property
    def told(self) -> str:
        """As in ``css/site.css:41  .hero``."""
        at = f"{self.file}:{self.line}" if self.line else self.file
        return f"{at}  {self.selector}" if self.selector else at


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong."""

    fault: str
    """Which, in the words of its module."""
    says: str
    """In one line."""
    place: Place
    do: str
    """What to do about it."""
    harm: Severity
    screens: tuple[Screen, ...] = ()
    """Those that it concerns; none: all of them."""
    bytes: int = 0
    """What it costs the screen that it costs most."""
    seconds: tuple[float, ...] = ()
    """By which the first view's picture comes late there, on each line; none: by its bytes."""
    sure: Confidence = Confidence.CERTAIN
    about: str = ""
    """The file that it is about, by which findings of several pages are one; empty: the place."""
    of_all_pages: bool = False
    """Whether it is a fault of a site only where each of its pages has it."""
    pages: tuple[str, ...] = ()
    """On which it was found, where several were read."""

    @property
    def rank(self) -> tuple[float, ...]:
        """The worst first: much in vain, then what is seen, little in vain, and what litters."""
        waits = sorted(self.seconds)
        wait = waits[len(waits) // 2] * BYTES_FOR_A_SECOND if waits else 0.0
        lost = max(float(self.bytes), wait)
        is_heavy = lost >= HEAVY
        return (0 if is_heavy else 1 + self.harm, -lost, self.sure)


HEAVY = 200_000
"""Bytes in vain that are as bad as anything that is seen: a second on a middling line."""

BYTES_FOR_A_SECOND = 200_000
"""To put waits and bytes in one order: what a middling line carries in that time."""
