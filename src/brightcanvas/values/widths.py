"""How wide an element is: a share of the viewport, at most a number of CSS px, or both."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

_SHARE = re.compile(r"(\d+(?:\.\d+)?)(?:%|vw)")
_MOST = re.compile(r"(\d+(?:\.\d+)?)px")
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
    inner = re.fullmatch(r"\s*min\((.*),(.*)\)\s*", text)
    parts = [part.strip() for part in (inner.groups() if inner else (text,))]
    shares = [float(found[1]) / 100 for part in parts if (found := _SHARE.fullmatch(part))]
    lengths = [float(found[1]) for part in parts if (found := _MOST.fullmatch(part))]
    if len(shares) + len(lengths) < len(parts):
        raise ValueError(_WANTED)
    share, most = min(shares, default=1.0), min(lengths, default=math.inf)
    if not (0 < share <= 1 and most > 0):
        raise ValueError(f"{_WANTED}; a share is above 0 and at most 100%")
    return ElementWidth(share, most)
