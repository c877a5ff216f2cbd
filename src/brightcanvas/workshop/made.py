"""What came of the jobs."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.analysis.seams import Seams
from brightcanvas.quality.content import Content
from brightcanvas.quality.metric import Score
from brightcanvas.values.colours import Colour
from brightcanvas.values.picture_formats import Encoding, FileFormat


@dataclass(frozen=True)
class Made:
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
class Look:
    """What a prepared source looks like."""

    content: Content
    seams: Seams | None
    """None where nobody asked."""
    suggestion: Suggestion | None
    """None where nobody asked."""


@dataclass(frozen=True)
class Result:
    """What became of a job: the files in every format, newest first, and the colour."""

    files: tuple[Made, ...]
    average: Colour
    look: Look
