"""Which formats a picture is published in, and with which settings.

The qualities are fixed here: a middle setting that looked right on the demo's pictures.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol, TypeVar

from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.weight.content import Content

AVIF = Encoding(FileFormat.AVIF, quality=58)
WEBP = Encoding(FileFormat.WEBP, quality=76)
WEBP_EXACT = Encoding(FileFormat.WEBP, lossless=True)
JPEG = Encoding(FileFormat.JPEG, quality=78)
PNG = Encoding(FileFormat.PNG, lossless=True)


class Weighed(Protocol):
    """Anything with a weight in bytes."""

    @property
    def bytes(self) -> int:
        """Its weight."""


W = TypeVar("W", bound=Weighed)


def encodings_for(content: Content) -> tuple[Encoding, ...]:
    """The encodings to try, the newest format first, the one every browser knows last."""
    if content.is_flat:
        return (AVIF, WEBP_EXACT, PNG)
    return (AVIF, WEBP, PNG if content.has_alpha else JPEG)


def worth_keeping(newest_first: Sequence[W]) -> tuple[W, ...]:
    """Without the formats that came out no lighter than an older one.

    The oldest always stays: it is what every browser can show.
    """
    kept: list[W] = []
    for one in reversed(newest_first):
        if not kept or one.bytes < min(other.bytes for other in kept):
            kept.insert(0, one)
    return tuple(kept)
