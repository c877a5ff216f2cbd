"""What quality is asked for, in plain words, and what a byte is worth."""

from __future__ import annotations

from dataclasses import dataclass

LEVELS = {"careful": 0.975, "everyday": 0.955, "thrifty": 0.93}
"""The least score of a file as it is displayed (``weight.likeness``; 1 is the original).

*careful*: side by side with the original the difference has to be searched for;
*everyday*: nobody misses anything who does not see the original;
*thrifty*: softer at a close look; for pictures behind copy, and the lowest that is acceptable."""

DEFAULT_LEVEL = "everyday"
LOWEST_LEVEL = "thrifty"


@dataclass(frozen=True)
class Price:
    """Of one file: for uploading and caching it, for its rules, and for the time to make it."""

    least: float
    """Bytes that it has to save the average visit."""
    share: float
    """And the share (0..1) of what the average visit loads of the backdrop."""

    def of(self, load: float) -> float:
        """In bytes for the average visit, where that loads so many."""
        return max(self.least, self.share * load)


PRICES = {
    "few": Price(600.0, 0.08),
    "balanced": Price(150.0, 0.015),
    "tight": Price(40.0, 0.005),
}
"""A careful hand makes three crops in two formats for a page; at *balanced* we make twice as many
files, for seven kinds of screens instead of three."""
