"""The codecs whose quality is searched, and how their pictures usually fare.

The curves are means over pictures, seen at 1 and 1.7 px to a CSS px. What
matters of them is their shape: each picture has its own height.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from brightcanvas.basics.formats import Encoding, FileFormat


@dataclass(frozen=True)
class Ladder:
    """A codec's qualities that are worth trying."""

    name: str
    settings: Encoding
    qualities: tuple[int, ...]
    heights: tuple[float, ...]
    """Of the usual curve: natural logarithms of the unlikeness, 1 - score, at the qualities."""
    step: int = 1
    """Qualities that are surely not the same to the codec."""

    def encoding(self, quality: float, *, draft: bool = False) -> Encoding:
        """The encoding nearest to a quality."""
        whole = min(max(round(quality), self.qualities[0]), self.qualities[-1])
        return replace(self.settings, quality=whole, draft=draft)

    def height(self, quality: float) -> float:
        """Of the usual curve at a quality."""
        return float(np.interp(quality, self.qualities, self.heights))

    def quality(self, height: float) -> float:
        """At which the usual curve has a height."""
        return float(np.interp(-height, [-one for one in self.heights], self.qualities))


AVIF = Ladder(
    "avif",
    Encoding(FileFormat.AVIF),
    (10, 20, 30, 40, 50, 60, 70, 80, 90, 96),
    (-1.99, -2.40, -2.82, -3.38, -3.88, -4.30, -4.59, -4.93, -5.26, -5.57),
    step=2,
)
FULL_AVIF = replace(AVIF, name="full-avif", settings=Encoding(FileFormat.AVIF, full_colour=True))
WEBP = Ladder(
    "webp",
    Encoding(FileFormat.WEBP),
    (5, 10, 20, 30, 40, 50, 60, 70, 80, 90, 99),
    (-2.09, -2.33, -2.65, -2.92, -3.12, -3.30, -3.46, -3.68, -4.07, -4.80, -5.60),
)
JPEG = Ladder(
    "jpeg",
    Encoding(FileFormat.JPEG),
    (10, 20, 30, 40, 50, 60, 70, 80, 90, 96),
    (-1.32, -2.16, -2.67, -3.08, -3.39, -3.60, -3.92, -4.34, -5.00, -5.67),
)
EVEN_JPEG = Ladder(
    "even-jpeg",
    Encoding(FileFormat.JPEG, even_tables=True),
    (20, 30, 40, 50, 60, 70, 80, 90, 97),
    (-1.83, -2.32, -2.70, -2.97, -3.25, -3.60, -4.07, -4.88, -5.91),
)
FULL_JPEG = replace(
    EVEN_JPEG,
    name="full-jpeg",
    settings=Encoding(FileFormat.JPEG, even_tables=True, full_colour=True),
)
JPEGS = (EVEN_JPEG, JPEG, FULL_JPEG)
"""Which of them is lightest depends on the picture; all serve every browser."""
