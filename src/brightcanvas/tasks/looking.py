"""What is worth knowing of a source, and needs its pixels."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from brightcanvas.analysis.saliency import Suggestion, suggest_subject
from brightcanvas.analysis.seams import Seams, seams_of
from brightcanvas.quality.content import Content, content_of
from brightcanvas.tasks.sources import PreparedSource
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.tones import Tone


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
