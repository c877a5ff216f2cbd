"""The codecs whose quality is searched, and how their pictures usually fare.

The curves are means over pictures, seen at 1 and 1.7 px to a CSS px (``python -m bench.curves``
prints them). What matters of them is their shape: each picture has its own height.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from brightcanvas.values.picture_formats import Encoding, FileFormat


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
    (-1.82, -2.12, -2.46, -2.89, -3.37, -3.80, -4.11, -4.42, -4.72, -5.03),
    step=2,
)
FULL_AVIF = replace(AVIF, name="full-avif", settings=Encoding(FileFormat.AVIF, full_colour=True))
WEBP = Ladder(
    "webp",
    Encoding(FileFormat.WEBP),
    (5, 10, 20, 30, 40, 50, 60, 70, 80, 90, 99),
    (-1.92, -2.10, -2.36, -2.60, -2.79, -2.95, -3.10, -3.25, -3.64, -4.26, -5.01),
)
JPEG = Ladder(
    "jpeg",
    Encoding(FileFormat.JPEG),
    (10, 20, 30, 40, 50, 60, 70, 80, 90, 96),
    (-0.90, -1.72, -2.23, -2.60, -2.93, -3.17, -3.51, -3.95, -4.63, -5.36),
)
EVEN_JPEG = Ladder(
    "even-jpeg",
    Encoding(FileFormat.JPEG, even_tables=True),
    (20, 30, 40, 50, 60, 70, 80, 90, 97),
    (-1.01, -1.48, -1.84, -2.12, -2.38, -2.79, -3.31, -4.23, -5.31),
)
FULL_JPEG = replace(
    EVEN_JPEG,
    name="full-jpeg",
    settings=Encoding(FileFormat.JPEG, even_tables=True, full_colour=True),
)
JPEGS = (EVEN_JPEG, JPEG, FULL_JPEG)
"""Which of them is lightest depends on the picture; all serve every browser."""
