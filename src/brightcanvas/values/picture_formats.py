"""The file formats of published pictures."""

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


class FileFormat(Format):
    """A picture format."""

    AVIF = ("AVIF", "avif", "image/avif")
    WEBP = ("WebP", "webp", "image/webp")
    JPEG = ("JPEG", "jpg", "image/jpeg")
    PNG = ("PNG", "png", "image/png")
    SVG = ("SVG", "svg", "image/svg+xml")


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
