"""Quick trials, which foretell what files of a source weigh."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from brightcanvas.brief.brief import Slot, SourceOption
from brightcanvas.colour.resample import Reducible
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.pictures.picture_writing import codec_version
from brightcanvas.formats.survey import SourceFacts
from brightcanvas.framing.weights import UNTRIED, KnownPicture
from brightcanvas.plan.planning import preparation_of
from brightcanvas.quality.pictures.lightest import is_photograph
from brightcanvas.quality.pictures.weighing import ACROSS, weighed
from brightcanvas.tasks.looking_tasks import TellContent, treated_content
from brightcanvas.tasks.sources import PreparedSource
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.colours import UNTREATED, Colour, Tone
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import ScrimWish


@dataclass(frozen=True)
class WeighTrials(Task[KnownPicture]):
    """What trials tell of a photograph's files; nothing of drawn and flat sources."""

    source: PreparedSource
    content: TellContent
    tone: Tone
    target: float
    veil: Colour | None
    """The even scrim under which it is seen."""
    result_type: ClassVar[type] = KnownPicture

    @property
    def codecs(self) -> tuple[str, ...]:
        """Those of the trials."""
        return tuple(codec_version(one) for one in (FileFormat.AVIF, FileFormat.JPEG))

    def run(self, inputs: Inputs) -> KnownPicture:
        """Small files of small copies."""
        content = treated_content(inputs.of(self.content), self.tone)
        if self.source.source.kind.is_drawing or not is_photograph(content):
            return UNTRIED
        reducible = inputs.desk.reducible(self.source)
        return weighed(self._treated(reducible), self.target, self.veil)

    def _treated(self, reducible: Reducible) -> Reducible:
        if self.tone == UNTREATED:
            return reducible
        size = reducible.picture.size
        width = min(ACROSS, int(size.width))
        whole = Rect(0, 0, size.width, size.height)
        small = reducible.resized(whole, width, max(1, round(width / size.aspect)))
        return Reducible(treated(small, self.tone))


def trials_of(slot: Slot, offer: SourceOption, facts: SourceFacts) -> WeighTrials:
    """The trials of a source for a slot."""
    source = PreparedSource.of(facts, offer.poster_at, preparation_of(slot))
    return WeighTrials(source, TellContent(source), slot.tone, slot.target, veil_of(slot.scrim))


def veil_of(wish: ScrimWish | None) -> Colour | None:
    """The even scrim under which a picture is seen, where the brief states one."""
    if wish is None or not wish.strength or wish.side or wish.lines or wish.colour is None:
        return None
    return replace(wish.colour, alpha=wish.strength * wish.colour.alpha)
