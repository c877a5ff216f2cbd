"""What every picture codec is: how its files are known, written, stripped, and how they fare.

The curves of quality are means over pictures, seen at 1 and 1.7 px to a CSS px
(``python -m bench.curves`` prints them). What matters of them is their shape: each picture has its
own height.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from PIL import Image

from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster


@dataclass(frozen=True)
class RateCurve:
    """A codec's qualities that are worth trying."""

    name: str
    settings: Encoding
    qualities: tuple[int, ...]
    heights: tuple[float, ...]
    """Of the usual curve: natural logarithms of the distortion, 1 - score, at the qualities."""
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


def as_it_is(picture: Raster) -> Image.Image:
    """The codec library's own copy of a picture."""
    return Image.fromarray(picture.pixels)


def always_whole(_: bytes) -> bool:
    """Nothing in the file tells its length."""
    return True


@dataclass(frozen=True)
class PictureCodec:
    """One format of pictures."""

    format: FileFormat
    library: str
    """What the codec library calls its encoder, whose version decides the bytes."""
    probe: Callable[[bytes], bool]
    """Whether a file begins like one of this format."""
    options: Callable[[Encoding], dict[str, Any]]
    """For the codec library."""
    image: Callable[[Raster], Image.Image] = as_it_is
    """What is handed to the codec library."""
    is_whole: Callable[[bytes], bool] = always_whole
    """Whether a file goes on to its end, by its own structure; it may still be damaged."""
    bare: Callable[[bytes], bytes] | None = None
    """A file without what is not shown; None: it is left as it is."""
    past: Callable[[bytes], int | None] | None = None
    """The quality with which a file was saved, 0..100; None where it can't be read off."""
    curves: tuple[RateCurve, ...] = ()
    """Of photographs; of several, the lightest one depends on the picture. None: it is exact."""
    fuller: RateCurve | None = None
    """With colour in every px, where that can be had."""
    packings: Callable[[Encoding], tuple[Encoding, ...]] | None = None
    """Encodings with the same pixels, of which the lightest is taken; a draft has them too."""
    other_name: str = ""
    """What the codec library calls the format, where that isn't its own name."""
    longest: int = 65_500
    """Px of a side that a file can hold."""
    hastens: bool = False
    """Whether it can be told to take less time."""
    drafted_lower: float = 0.0
    """By how much the logarithm of the distortion falls from a quick file to a final one of the
    same quality."""

    def holds(self, size: Size) -> bool:
        """Whether a picture of a size in px can be a file of this format."""
        return max(size.width, size.height) <= self.longest

    @property
    def library_name(self) -> str:
        """What the codec library calls the format."""
        return self.other_name or self.format.name
