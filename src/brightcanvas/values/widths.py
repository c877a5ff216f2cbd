"""How wide an element is: a share of the viewport, at most a number of CSS px, or both."""

from __future__ import annotations

import math
from dataclasses import dataclass

from brightcanvas.values.lengths import ABSOLUTE, Amount, Combined, NotALengthError, parse_text

_WANTED = "a width such as 60%, 1200px or min(60%, 1200px)"


@dataclass(frozen=True)
class ElementWidth:
    """An element's width; by default it spans the viewport."""

    share: float = 1.0
    most: float = math.inf

    def pixels(self, viewport_width: float) -> float:
        """The width in CSS px."""
        return min(self.share * viewport_width, self.most)

    @property
    def capped_from(self) -> float:
        """The viewport width (CSS px) from which on the element grows no wider."""
        return self.most / self.share


FULL_WIDTH = ElementWidth()


def parse_width(text: str) -> ElementWidth:
    """Read a width; ValueError says what was expected."""
    try:
        length = parse_text(text)
    except NotALengthError:
        raise ValueError(_WANTED) from None
    is_least = isinstance(length, Combined) and length.function == "min"
    parts = length.parts if isinstance(length, Combined) and is_least else (length,)
    amounts = [one for one in parts if isinstance(one, Amount)]
    shares = [one.number / 100 for one in amounts if one.unit in ("%", "vw")]
    lengths = [one.number * ABSOLUTE[one.unit] for one in amounts if one.unit in ABSOLUTE]
    if len(shares) + len(lengths) < len(parts):
        raise ValueError(_WANTED)
    share, most = min(shares, default=1.0), min(lengths, default=math.inf)
    if not (0 < share <= 1 and most > 0):
        raise ValueError(f"{_WANTED}; a share is above 0 and at most 100%")
    return ElementWidth(share, most)
