"""The formats of published clips."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.values.picture_formats import Format

SEAMS = ("find", "fade", "back", "leave")
"""How a round begins again: the best way, a fade, forth and back, or as it is."""

GRAINS = ("smooth", "keep")
"""What becomes of a sensor's grain."""


class ClipFormat(Format):
    """A codec of clips in its container."""

    AV1 = ("AV1", "webm", "video/webm")
    VP9 = ("VP9", "webm", "video/webm")
    H264 = ("H.264", "mp4", "video/mp4")

    @property
    def word(self) -> str:
        """As in briefs and options: ``av1``."""
        return self.name.lower()


@dataclass(frozen=True)
class ClipEncoding:
    """How a clip is encoded."""

    format: ClipFormat
    quality: int
    """The codec's own constant quality: 0 (best) to 63, for H.264 to 51."""
