"""What has to be made: one part of a source in one size."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.legible import ScrimWish
from brightcanvas.basics.shapes import Rect, Size
from brightcanvas.basics.tones import UNTREATED, Tone
from brightcanvas.framing.rungs import Rung, seen_density
from brightcanvas.media.survey import SourceFacts
from brightcanvas.plan.model import Picture, Preparation, View
from brightcanvas.weight.lightest import Wanted
from brightcanvas.weight.likeness import Viewing


@dataclass(frozen=True)
class Job:
    """One part of a source, to be made in one size."""

    facts: SourceFacts
    poster_at: float
    preparation: Preparation
    area: Rect
    size: tuple[int, int]
    """Width and height of the result in px."""
    viewing: Viewing
    wanted: Wanted
    tone: Tone = UNTREATED
    css_px: float = 1.0
    """Px of the result that make a CSS px at the largest box; matters to blurs only."""
    guide: Job | None = None
    """The rung of the same cut from which the search starts; None for the guide itself."""

    @property
    def source_identity(self) -> dict[str, object]:
        """What decides the pixels of the prepared source."""
        return {
            "source": self.facts.digest,
            "second": self.poster_at if self.facts.kind.is_clip else 0,
            "seamless": self.preparation.seamless,
            "rolled": self.preparation.rolled,
        }

    @property
    def identity(self) -> dict[str, object]:
        """What decides the pixels of the result before it is compressed."""
        return {
            **self.source_identity,
            "area": list(asdict(self.area).values()),
            "size": list(self.size),
            "tone": asdict(self.tone),
            "css_px": self.css_px if self.tone.soften else 1,
        }

    @property
    def order(self) -> dict[str, object]:
        """What decides the files that are made of the result."""
        formats = [one.name for one in self.wanted.formats]
        return {
            **self.identity,
            "viewing": asdict(self.viewing),
            "target": self.wanted.target,
            "formats": formats,
            "guide": self.guide.order if self.guide else None,
        }

    @property
    def pixels(self) -> int:
        """Of the result."""
        return self.size[0] * self.size[1]

    @property
    def is_drawn(self) -> bool:
        """Whether a cut of the source itself shows the result: that of an untreated drawing."""
        return self.facts.kind.is_drawing and self._is_untouched

    @property
    def _is_untouched(self) -> bool:
        return self.preparation == Preparation() and self.tone == UNTREATED

    @property
    def takes_all(self) -> bool:
        """Whether the result is the source itself, px by px."""
        whole = Rect(0, 0, self.facts.size.width, self.facts.size.height)
        same = self.size == (self.facts.size.width, self.facts.size.height)
        is_picture = bool(self.facts.kind.codec)
        return same and self.area == whole and self._is_untouched and is_picture


def jobs_of(view: View) -> Iterator[Job]:
    """One job for each rung of a view."""
    picture = view.picture
    if picture is None:
        return
    jobs = [_job(view, picture, rung) for rung in picture.rungs]
    # Of a drawing the smallest: where its pixels are heavier than the drawing, all others' are.
    guide = jobs[0 if jobs[0].is_drawn else (len(jobs) - 1) // 2]
    for job in jobs:
        yield job if job is guide else replace(job, guide=guide)


def _job(view: View, picture: Picture, rung: Rung) -> Job:
    slot = view.slot
    return Job(
        facts=picture.facts,
        poster_at=picture.offer.poster_at or 0.0,
        preparation=picture.preparation,
        area=picture.cut.area,
        size=(rung.width, rung.height),
        viewing=Viewing(
            round(seen_density(picture.demand, rung), 4),
            tuple(_in_cut(one, picture.cut.area) for one in picture.subjects),
            veil_of(slot.scrim),
        ),
        wanted=Wanted(slot.target, slot.formats),
        tone=picture.tone,
        css_px=rung.width / picture.drawn if picture.tone.soften else 1.0,
    )


def _in_cut(subject: Rect, cut: Rect) -> Rect:
    """A subject in fractions of the cut, as far as it lies within."""
    inside = Rect(
        min(max(subject.left, cut.left), cut.right) - cut.left,
        min(max(subject.top, cut.top), cut.bottom) - cut.top,
        min(max(subject.right, cut.left), cut.right) - cut.left,
        min(max(subject.bottom, cut.top), cut.bottom) - cut.top,
    )
    return inside.scaled(Size(1 / cut.width, 1 / cut.height))


def veil_of(wish: ScrimWish | None) -> Colour | None:
    """The even scrim under which a picture is seen, where the brief states one."""
    if wish is None or not wish.strength or wish.side or wish.lines or wish.colour is None:
        return None
    return replace(wish.colour, alpha=wish.strength * wish.colour.alpha)
