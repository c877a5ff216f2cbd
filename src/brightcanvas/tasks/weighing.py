"""Quick trials, which foretell what files of a source weigh."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from brightcanvas.brief.model import Offer, Slot
from brightcanvas.colour.reducing import Reducible
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.encode import codec_version
from brightcanvas.formats.survey import SourceFacts
from brightcanvas.framing.weights import UNTRIED, Tried
from brightcanvas.plan.planning import preparation_of
from brightcanvas.quality.lightest import is_photograph
from brightcanvas.quality.weighing import ACROSS, weighed
from brightcanvas.tasks.looking import TellContent, treated_content
from brightcanvas.tasks.sources import PreparedSource
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import ScrimWish
from brightcanvas.values.picture_formats import FileFormat
from brightcanvas.values.tones import UNTREATED, Tone


@dataclass(frozen=True)
class WeighTrials(Task[Tried]):
    """What trials tell of a photograph's files; nothing of drawn and flat sources."""

    source: PreparedSource
    content: TellContent
    tone: Tone
    target: float
    veil: Colour | None
    """The even scrim under which it is seen."""
    result_type: ClassVar[type] = Tried

    @property
    def codecs(self) -> tuple[str, ...]:
        """Those of the trials."""
        return tuple(codec_version(one) for one in (FileFormat.AVIF, FileFormat.JPEG))

    def run(self, inputs: Inputs) -> Tried:
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


def trials_of(slot: Slot, offer: Offer, facts: SourceFacts) -> WeighTrials:
    """The trials of a source for a slot."""
    source = PreparedSource.of(facts, offer.poster_at, preparation_of(slot))
    return WeighTrials(source, TellContent(source), slot.tone, slot.target, veil_of(slot.scrim))


def veil_of(wish: ScrimWish | None) -> Colour | None:
    """The even scrim under which a picture is seen, where the brief states one."""
    if wish is None or not wish.strength or wish.side or wish.lines or wish.colour is None:
        return None
    return replace(wish.colour, alpha=wish.strength * wish.colour.alpha)
