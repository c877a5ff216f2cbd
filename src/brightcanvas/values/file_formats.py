"""The file formats of published pictures and clips."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum


class Format(Enum):
    """What every format is called: its name, its file ending, its media type (IANA)."""

    @property
    def label(self) -> str:
        """The name as people write it."""
        return str(self.value[0])

    @property
    def ending(self) -> str:
        """The file ending, without its dot."""
        return str(self.value[1])

    @property
    def media_type(self) -> str:
        """As in HTTP's Content-Type, without parameters."""
        return str(self.value[2])


class Role(Enum):
    """What a picture format is there for."""

    NEWER = "newer"
    """Light, and not known to every browser, but to all that know ``READS_NEWER`` (see
    ``delivery/candidates.py``)."""
    OLDEST = "oldest"
    """Known to every browser."""
    EXACT = "exact"
    """In the oldest one's place for what it can't hold: flat art and transparency."""
    DRAWING = "drawing"
    """Lines and areas instead of px."""


class FileFormat(Format):
    """A picture format; the newest first."""

    AVIF = ("AVIF", "avif", "image/avif", Role.NEWER)
    WEBP = ("WebP", "webp", "image/webp", Role.NEWER)
    JPEG = ("JPEG", "jpg", "image/jpeg", Role.OLDEST)
    PNG = ("PNG", "png", "image/png", Role.EXACT)
    SVG = ("SVG", "svg", "image/svg+xml", Role.DRAWING)

    @property
    def role(self) -> Role:
        """What it is there for."""
        role: Role = self.value[3]
        return role

    @property
    def word(self) -> str:
        """As in briefs and options: ``avif``."""
        return self.name.lower()

    @property
    def endings(self) -> tuple[str, ...]:
        """Of file names that mean it."""
        return tuple(dict.fromkeys((self.ending, self.word)))


OFFERED = tuple(one for one in FileFormat if one.role in (Role.NEWER, Role.OLDEST))
"""Those that a brief chooses among; by default AVIF and JPEG. Nearly every browser reads AVIF
(Chromium 85, Firefox 93, Safari 16.1, Edge 121), so a WebP beside it would serve next to nobody."""

WRITTEN = (*OFFERED, FileFormat.PNG)
"""Those that pixels can be written in."""


def format_of_ending(ending: str) -> FileFormat | None:
    """The format that a file name's ending means, without its dot; None: none of those written."""
    return next((one for one in WRITTEN if ending.lower() in one.endings), None)


@dataclass(frozen=True)
class Encoding:
    """How a picture is encoded."""

    format: FileFormat
    quality: int = 0
    """The codec's own scale, 0..100; not used where ``lossless``."""
    lossless: bool = False
    even_tables: bool = False
    """JPEG: our own quantisation tables instead of the standard's examples."""
    full_colour: bool = False
    """JPEG and AVIF: colour in every px, not in every second each way."""
    progressive: bool = True
    """JPEG: coarse to fine instead of from top to bottom."""
    draft: bool = False
    """AVIF and JPEG: quick and heavier, for trying; a JPEG's pixels are the same."""
    hasty: bool = False
    """AVIF: in half of the time, a little heavier."""


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
