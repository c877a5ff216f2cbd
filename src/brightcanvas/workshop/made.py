"""What came of the jobs."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.eye.attention import Suggestion
from brightcanvas.eye.seams import Seams
from brightcanvas.weight.content import Content
from brightcanvas.weight.likeness import Score


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
