"""What a file has to save to be worth making, in a word."""

from __future__ import annotations

from dataclasses import dataclass


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
