"""Making the files of one part of a source in one size."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from brightcanvas.colour.spaces import average_colour
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.drawings.drawing_cuts import cut_drawing
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.formats.pictures.picture_writing import bare, codec_version, encode
from brightcanvas.quality.metric import Score, Viewing
from brightcanvas.quality.pictures.lightest import PictureTarget, search
from brightcanvas.quality.search import Found, Study, is_large
from brightcanvas.tasks.looking_tasks import TellContent, treated_content
from brightcanvas.tasks.sources import PreparedSource, SourceCache
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.colours import UNTREATED, Colour, Tone
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

WORTH = 0.85
"""A source is compressed again only if that makes it this much smaller: it loses once more."""

DRAWN = Encoding(FileFormat.SVG, lossless=True)
QUICK = Encoding(FileFormat.AVIF, quality=40, draft=True)
SURELY_LIGHTEST = 0.7
"""A drawing of so much of the bytes of a coarse quick trial of its pixels, or less, is lighter
than they are at any score that is asked for."""


@dataclass(frozen=True)
class MadeFile:
    """One encoded picture."""

    encoding: Encoding
    score: Score
    """As displayed, measured on this very file."""
    content: bytes
    size: tuple[int, int]
    """Width and height in px; of a drawing, as it counts."""
    is_source: bool = False
    """The source's own file, which was light enough already."""

    @property
    def format(self) -> FileFormat:
        """In which format it is."""
        return self.encoding.format

    @property
    def bytes(self) -> int:
        """Its weight."""
        return len(self.content)


@dataclass(frozen=True)
class MadePicture:
    """The files in every format that was asked for, newest first, and the colour."""

    files: tuple[MadeFile, ...]
    average: Colour
    """Of the picture before it is compressed."""


@dataclass(frozen=True)
class MakePicture(Task[MadePicture]):
    """One part of a source, to be made in one size."""

    source: PreparedSource
    content: TellContent
    area: Rect
    """In px of the prepared source."""
    width: int
    """In px, one to one with the screen that decides."""
    height: int
    viewing: Viewing
    """Of the picture at that size."""
    wanted: PictureTarget
    tone: Tone = UNTREATED
    css_px: float = 1.0
    """Px of the result that make a CSS px at the largest box; matters to blurs only, and is 1
    where there is none."""
    result_type: ClassVar[type] = MadePicture

    @property
    def codecs(self) -> tuple[str, ...]:
        """Of the formats that are wanted; of a drawing the renderer's too."""
        is_drawing = self.source.source.kind.is_drawing
        formats = [*self.wanted.formats, *([FileFormat.SVG] if is_drawing else [])]
        return tuple(codec_version(one) for one in formats)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in px."""
        return self.width, self.height

    @property
    def room(self) -> int:
        """Px of the result, at most."""
        return self.width * self.height

    @property
    def label(self) -> str:
        """As in ``mill.jpg at 800 px``."""
        return f"{self.source.source.path.name} at {self.width} px"

    def run(self, inputs: Inputs) -> MadePicture:
        """Cut, reduce, treat; then the lightest files that look like the result."""
        sized = _Sized(self, inputs.desk)
        average = average_colour(sized.picture)
        content = treated_content(inputs.of(self.content), self.tone)
        study = sized.study()
        if not self._is_drawn:
            files = tuple(self._left_alone(one) for one in search(study, content, self.wanted))
            return MadePicture(files, average)
        drawing = MadeFile(
            DRAWN, Score(1.0, 1.0), cut_drawing(self.source.source.load(), self.area),
            self.area.size.rounded,
        )  # fmt: skip
        if drawing.bytes <= SURELY_LIGHTEST * len(encode(study.picture, QUICK)):
            return MadePicture((drawing,), average)
        files = tuple(self._left_alone(one) for one in search(study, content, self.wanted))
        return MadePicture(files if files[0].bytes < drawing.bytes else (drawing,), average)

    @property
    def _is_drawn(self) -> bool:
        """Whether a cut of the source itself shows the result: that of an untreated drawing."""
        return self.source.source.kind.is_drawing and self._is_untouched

    @property
    def _is_untouched(self) -> bool:
        return self.source.is_untouched and self.tone == UNTREATED

    @property
    def takes_all(self) -> bool:
        """Whether the result is the source itself, px by px."""
        size = self.source.source.size
        whole = Rect(0, 0, size.width, size.height)
        same = self.size == (size.width, size.height)
        is_picture = bool(self.source.source.kind.codec)
        return same and self.area == whole and self._is_untouched and is_picture

    def _left_alone(self, found: Found) -> MadeFile:
        """The file that was found, or the source's own where that is no heavier."""
        size = found.size if found.size[0] else self.size
        made = MadeFile(found.encoding, found.score, found.content, size)
        if not self.takes_all or self.source.source.kind.format is not found.encoding.format:
            return made
        content = bare(self.source.source.load())
        if content is None or made.bytes <= WORTH * len(content):
            return made
        return MadeFile(found.encoding, Score(1.0, 1.0), content, self.size, is_source=True)


class _Sized:
    """A size that is made when its pixels are first needed, and only then."""

    def __init__(self, task: MakePicture, desk: SourceCache) -> None:
        self._task = task
        self._desk = desk
        self._picture: Raster | None = None

    @property
    def picture(self) -> Raster:
        """The pixels, one to one."""
        if self._picture is None:
            self._picture = treated(self._untreated(), self._task.tone, self._task.css_px)
        return self._picture

    def _untreated(self) -> Raster:
        task, source = self._task, self._task.source
        if source.source.kind.is_drawing and source.is_untouched:
            file = source.source.load()
            return decode(cut_drawing(file, task.area, task.size), name=file.name)
        reducible = self._desk.reducible(source)
        return reducible.picture if task.takes_all else reducible.resized(task.area, *task.size)

    def study(self) -> Study:
        """What files are made of and compared with; of large ones no other copy is kept."""
        picture = self.picture
        if is_large(picture.size):
            self._picture = None
            self._desk.release(self._task.source)
        return Study(picture, self._task.viewing)
