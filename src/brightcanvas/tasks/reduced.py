"""Reduced copies of sources, of which drafts are made."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from brightcanvas.colour.resample import resize
from brightcanvas.formats.encode import codec_version, encode
from brightcanvas.tasks.sources import PreparedSource
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.geometry import Rect
from brightcanvas.values.picture_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster

REDUCED = 1600
"""Px across of such a copy."""

OPAQUE = Encoding(FileFormat.JPEG, quality=92, draft=True, full_colour=True)
TRANSPARENT = Encoding(FileFormat.WEBP, lossless=True)


@dataclass(frozen=True)
class ReduceSource(Task[bytes]):
    """A copy of a prepared source, as a file."""

    source: PreparedSource
    result_type: ClassVar[type] = bytes

    @property
    def codecs(self) -> tuple[str, ...]:
        """Of both formats that it may be kept in."""
        return tuple(codec_version(one.format) for one in (OPAQUE, TRANSPARENT))

    def run(self, inputs: Inputs) -> bytes:  # noqa: ARG002 - read once, in its own size
        """Reduced, and exact where it is transparent."""
        picture = self._reduced()
        return encode(picture, TRANSPARENT if picture.has_alpha else OPAQUE)

    def _reduced(self) -> Raster:
        source = self.source.read(REDUCED if self.source.is_untouched else None)
        width, height = source.size.rounded
        if width <= REDUCED:
            return source
        down = max(1, round(height * REDUCED / width))
        return resize(source, Rect(0, 0, width, height), REDUCED, down)
