"""When something holds: a conjunction over axes, written once for rules, hints and markup.

They are written for browsers of any age: whole widths, and the orientation. A condition ends
0.02 px below the next one, and browsers produce no width between. Densities stand beside the
candidates of a slot, not in conditions.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from brightcanvas.values.environments import AXES, MEDIUM, Environment
from brightcanvas.values.geometry import Orientation, Span, plain_number

EDGE = 0.02
"""How far below its upper edge a range's condition ends, in CSS px.

``max-width: 639.98px`` against ``min-width: 640px`` leaves no width between that a browser
produces, and no width in both."""

EVERY = Span(0.0, math.inf)


@dataclass(frozen=True)
class Condition:
    """A conjunction; what isn't said is no condition."""

    widths: Span = EVERY
    """CSS px of the viewport, from ``low`` up to, not including, ``high``."""
    orientation: Orientation | None = None
    heights: Span = EVERY
    """CSS px of the viewport, as ``widths``."""
    words: tuple[tuple[str, str], ...] = ()
    """A word on each of some axes of ``AXES``, by the axis's name, in order."""

    @property
    def media(self) -> str:
        """As media text, for style sheets, hints and markup; empty where it asks for nothing."""
        medium = [word for axis, word in self.words if axis == MEDIUM]
        orientation = [f"(orientation: {self.orientation.value})"] if self.orientation else []
        words = [AXES[axis].media(word) for axis, word in self.words if axis != MEDIUM]
        spans = [*_span("width", self.widths), *orientation, *_span("height", self.heights)]
        return both(*medium, *spans, *words)

    @property
    def is_possible(self) -> bool:
        """Whether any window can be in it."""
        return self.widths.low < self.widths.high and self.heights.low < self.heights.high

    def holds(self, environment: Environment) -> bool:
        """Whether it holds there; a square window is upright."""
        is_wide = environment.width > environment.height
        shape = Orientation.LANDSCAPE if is_wide else Orientation.PORTRAIT
        return (
            _has(self.widths, environment.width)
            and _has(self.heights, environment.height)
            and self.orientation in (None, shape)
            and all(environment.word(axis) == word for axis, word in self.words)
        )

    def intersect(self, other: Condition) -> Condition | None:
        """Where both hold; None: nowhere."""
        words = {**dict(self.words), **dict(other.words)}
        both_shapes = {self.orientation, other.orientation} - {None}
        found = Condition(
            _overlap(self.widths, other.widths),
            next(iter(both_shapes), None),
            _overlap(self.heights, other.heights),
            tuple(words.items()),
        )
        agree = all(words[axis] == word for axis, word in (*self.words, *other.words))
        return found if agree and len(both_shapes) < 2 and found.is_possible else None

    def is_disjoint(self, other: Condition) -> bool:
        """Whether they never hold at once."""
        return self.intersect(other) is None


def both(*conditions: str) -> str:
    """All of the conditions together, as media text; empty ones ask for nothing."""
    return " and ".join(condition for condition in conditions if condition)


def _span(side: str, span: Span) -> list[str]:
    low = [f"(min-{side}: {plain_number(span.low)}px)"] if span.low > 0 else []
    high = [f"(max-{side}: {plain_number(span.high - EDGE)}px)"] if span.high < math.inf else []
    return low + high


def _has(span: Span, amount: float) -> bool:
    return span.low <= amount < span.high


def _overlap(one: Span, other: Span) -> Span:
    return Span(max(one.low, other.low), min(one.high, other.high))
