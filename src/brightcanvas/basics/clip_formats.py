"""The formats of published clips."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum


class ClipFormat(Enum):
    """A codec in its container: name, file ending, media type (IANA)."""

    AV1 = ("AV1", "webm", "video/webm")
    VP9 = ("VP9", "webm", "video/webm")
    H264 = ("H.264", "mp4", "video/mp4")

    @property
    def label(self) -> str:
        """The name as people write it."""
        return self.value[0]

    @property
    def ending(self) -> str:
        """The file ending, without its dot."""
        return self.value[1]

    @property
    def media_type(self) -> str:
        """As in HTTP's Content-Type, without its codecs parameter."""
        return self.value[2]


@dataclass(frozen=True)
class ClipEncoding:
    """How a clip is encoded."""

    format: ClipFormat
    quality: int
    """The codec's own constant quality: 0 (best) to 63, for H.264 to 51."""
