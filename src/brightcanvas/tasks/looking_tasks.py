"""What is worth knowing of a source, and needs its pixels; reduced copies of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from brightcanvas.analysis.saliency import Suggestion, suggest_subject
from brightcanvas.analysis.seams import Seams, seams_of
from brightcanvas.colour.resample import resize
from brightcanvas.formats.pictures.picture_writing import codec_version, encode
from brightcanvas.quality.pictures.content import Content, content_of
from brightcanvas.tasks.sources import PreparedSource
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.colours import Tone
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster


@dataclass(frozen=True)
class TellContent(Task[Content]):
    """Flat art or a photograph, with transparency or without."""

    source: PreparedSource
    result_type: ClassVar[type] = Content

    def run(self, inputs: Inputs) -> Content:
        """By its pixels."""
        return content_of(inputs.desk.picture(self.source))


@dataclass(frozen=True)
class MeasureSeams(Task[Seams]):
    """How plainly the edges of a repeated picture are seen."""

    source: PreparedSource
    result_type: ClassVar[type] = Seams

    def run(self, inputs: Inputs) -> Seams:
        """Of the prepared source."""
        return seams_of(inputs.desk.picture(self.source))


@dataclass(frozen=True)
class SuggestSubject(Task[Suggestion | None]):
    """What a picture may be about; None where nothing stands out."""

    source: PreparedSource
    result_type: ClassVar[object] = Suggestion | None

    def run(self, inputs: Inputs) -> Suggestion | None:
        """By what draws the eye."""
        return suggest_subject(inputs.desk.picture(self.source))


def treated_content(content: Content, tone: Tone) -> Content:
    """What a treated picture is: a ground fills transparency, a blur leaves no even areas."""
    return Content(
        has_alpha=content.has_alpha and tone.ground is None,
        is_flat=content.is_flat and not tone.soften,
    )


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
