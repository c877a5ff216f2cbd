"""What has to be made: one part of a source in one size."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace

from brightcanvas.brief.model import Slot
from brightcanvas.formats.survey import SourceFacts
from brightcanvas.framing.sizes import Rung, rung_for
from brightcanvas.framing.weights import Fitting
from brightcanvas.plan.model import Picture, Preparation, View
from brightcanvas.quality.lightest import Care, Wanted
from brightcanvas.quality.metric import Viewing
from brightcanvas.quality.rate_curves import AVIF, JPEGS
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import ScrimWish
from brightcanvas.values.picture_formats import FileFormat
from brightcanvas.values.tones import UNTREATED, Tone

RARE, FREQUENT = 0.028, 0.2
"""Files that fewer of all visits load are found and encoded in less time; those that more load are
brought nearer to their target."""

OLD_DENSITY = 1.5
"""Px to a CSS px that browsers get which know the oldest format only: they sit in old devices."""


@dataclass(frozen=True)
class Asked:
    """What somebody wants to know of a source."""

    seams: bool = False
    """Whether its edges meet: it is repeated."""
    subject: bool = False
    """What it may be about: no subject is named."""


NOTHING_ASKED = Asked()


@dataclass(frozen=True)
class Job:
    """One part of a source, to be made in one size."""

    facts: SourceFacts
    poster_at: float
    preparation: Preparation
    area: Rect
    size: tuple[int, int]
    """Width and height in px, one to one with the screen that decides."""
    viewing: Viewing
    """Of the picture at that size."""
    wanted: Wanted
    tone: Tone = UNTREATED
    css_px: float = 1.0
    """Px of the result that make a CSS px at the largest box; matters to blurs only."""
    asks: Asked = NOTHING_ASKED

    @property
    def source_identity(self) -> dict[str, object]:
        """What decides the pixels of the prepared source."""
        return identity_of(self.facts, self.poster_at, self.preparation)

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
        wanted = asdict(self.wanted) | {
            "formats": [one.name for one in self.wanted.formats],
            "care": self.wanted.care.name,
        }
        return {
            **self.identity,
            "viewing": asdict(self.viewing),
            "wanted": wanted,
        }

    @property
    def pixels(self) -> int:
        """Of the result, at most."""
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


def identity_of(
    facts: SourceFacts, poster_at: float, preparation: Preparation
) -> dict[str, object]:
    """What decides the pixels of a prepared source."""
    return {
        "source": facts.digest,
        "second": poster_at if facts.kind.is_clip else 0,
        "seamless": preparation.seamless,
        "rolled": preparation.rolled,
    }


def jobs_of(view: View) -> Iterator[Job]:
    """Everything that a view needs made: its sizes, and the one for browsers of any age."""
    if view.picture is not None:
        yield from dict.fromkeys((*rung_jobs(view), oldest_job(view)))


def rung_jobs(view: View) -> list[Job]:
    """One job for each size of a view, in the newer formats.

    Where next to nobody is, the file for browsers of any age serves all of them.
    """
    if view.picture is None:
        return []
    picture, formats = view.picture.files_of, view.slot.formats
    if not picture.demand.usual:
        return [oldest_job(view)]
    return [
        _job(view, picture, rung, formats[:-1] or formats, _care_for(picture, rung))
        for rung in picture.rungs
    ]


def oldest_job(view: View) -> Job:
    """The one file that browsers of any age can show: old ones sit in old, plain screens."""
    assert view.picture is not None
    picture, formats = view.picture.files_of, view.slot.formats
    rung = picture.rungs[0]
    if len(formats) == 1:
        return _job(view, picture, rung, formats, _care_for(picture, rung))
    less = 1.0 if view.slot.one_to_one else min(1.0, OLD_DENSITY / rung.density)
    width = max(1, math.ceil(rung.width * less))
    height = max(1, round(width / picture.demand.cut.aspect))
    density = round(rung.density * width / rung.width, 4)
    return _job(view, picture, Rung(width, height, 1, density), formats[-1:], Care.LITTLE)


def job_for(view: View, density: float) -> Job:
    """The job whose files a screen of a density loads, in a browser that knows them."""
    assert view.picture is not None
    jobs, rungs = rung_jobs(view), view.picture.rungs
    return jobs[min(rungs.index(rung_for(rungs, density)), len(jobs) - 1)]


def _share_of(picture: Picture, rung: Rung) -> float:
    return sum(
        one.share for one in picture.demand.usual if rung_for(picture.rungs, one.density) == rung
    )


def _job(
    view: View, picture: Picture, rung: Rung, formats: tuple[FileFormat, ...], care: Care
) -> Job:
    slot = view.slot
    wanted = Wanted(slot.target, formats, care, *_fitted(slot, picture, rung, formats))
    return Job(
        facts=picture.facts,
        poster_at=picture.offer.poster_at or 0.0,
        preparation=picture.preparation,
        area=picture.cut.area,
        size=(rung.width, rung.height),
        viewing=Viewing(rung.density, veil_of(slot.scrim)),
        wanted=wanted,
        tone=picture.tone,
        css_px=rung.density if picture.tone.soften else 1.0,
        asks=Asked(slot.repeat != "no-repeat", not picture.subjects),
    )


def _care_for(picture: Picture, rung: Rung) -> Care:
    """By how many people load a size."""
    share = _share_of(picture, rung)
    return Care.MUCH if share >= FREQUENT else Care.LITTLE if share < RARE else Care.USUAL


def _fitted(
    slot: Slot, picture: Picture, rung: Rung, formats: tuple[FileFormat, ...]
) -> tuple[tuple[tuple[str, float], ...], float]:
    """Where the curves of the formats are looked for, and the share of the px that files have."""
    found: dict[str, Fitting] = {}
    for ladder in (AVIF, *JPEGS):
        if ladder.settings.format in formats:
            fitting = picture.tried.fitting(ladder.name, rung.density)
            if fitting:
                found[ladder.name] = fitting
    lifts = tuple((name, round(one.lift, 1)) for name, one in found.items())
    if slot.one_to_one or not found:
        return lifts, 1.0
    return lifts, max(one.shrink for one in found.values())


def veil_of(wish: ScrimWish | None) -> Colour | None:
    """The even scrim under which a picture is seen, where the brief states one."""
    if wish is None or not wish.strength or wish.side or wish.lines or wish.colour is None:
        return None
    return replace(wish.colour, alpha=wish.strength * wish.colour.alpha)
