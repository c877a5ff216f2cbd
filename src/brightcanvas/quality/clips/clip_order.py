"""What is asked of a published clip, the same for one clip alone and for one of a brief."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import chain, islice
from pathlib import Path

from brightcanvas.analysis.grain import REACH, SEEN_FROM, grain_of, smoothed
from brightcanvas.analysis.loops import AS_IT_IS, ONCE, Loop
from brightcanvas.analysis.timing import ClipTiming, frames_of, timing_of
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.clips.clip_codecs import clip_codec_of
from brightcanvas.formats.clips.clip_reading import ClipFacts, Codes
from brightcanvas.formats.clips.clip_writing import Beat, planar_of, srgb_of
from brightcanvas.formats.clips.moments import FrameReading, PixelFormat
from brightcanvas.quality.metric import Viewing
from brightcanvas.values.colours import UNTREATED, Tone
from brightcanvas.values.file_formats import ClipFormat
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

USUAL_DRAWN = 1920.0
"""CSS px of the longer side of a clip that no page is known of: a usual wide screen."""

LEAST_DENSITY = 0.25

SEAM_GRAIN = 1.5
"""Codes by which frames differ where a source's codec begins anew: over the seam that goes."""

SHRINKS = 0.8
"""Power by which a clip's bytes fall with its px: large areas take fewer bits each."""

SHORTENS = 0.7
"""Power by which they fall with its frames: the first one takes many bits however few follow."""

TRIAL_FRAMES = 10
PLACES_FROM = (0, 100, 300, 600)
"""Frames of a clip from which trials are made at one place, at two, three and four."""


@dataclass(frozen=True)
class ClipLook:
    """How a published clip looks."""

    area: Rect
    """Of the frames, in whole even px."""
    size: tuple[int, int]
    target: float
    """Least score."""
    viewing: Viewing
    tone: Tone = UNTREATED
    css_px: float = 1.0
    """Px of the clip that make a CSS px; matters to blurs only."""
    keeps_grain: bool = False


@dataclass(frozen=True)
class ClipPace:
    """How a published clip runs."""

    speed: float
    most_rate: float
    """Frames a second."""
    begin_at: float | None = None
    """Second of the source with which it begins, if that lies within."""


@dataclass(frozen=True)
class ClipOrder:
    """What is asked of a published clip."""

    path: Path
    look: ClipLook
    timing: ClipTiming
    budget: int | None = None
    """Most bytes that are wanted; with it the target is given up where it must be."""
    of_source: int | None = None
    """Most bytes that make sense: what the source takes for as much."""
    is_round: bool = True
    """Whether it begins again."""
    own: ClipFormat | None = None
    """The format in which the source's own track could be published, if any."""
    plays_all: bool = False
    """Whether all of the source is played, as it is."""
    heaviest: int | None = None
    """Bytes of the source: no file may be heavier."""
    is_light: bool = False
    """Whether the source has so few bits that it is best left alone."""
    grain: float = 0.0
    """That is taken out of its frames, codes."""

    @property
    def limit(self) -> int | None:
        """Most bytes."""
        known = [one for one in (self.budget, self.of_source) if one is not None]
        return min(known, default=None)

    @property
    def beat(self) -> Beat:
        """When its frames are shown."""
        return Beat(self.timing.rate, self.timing.stamps)

    def frames(self) -> Iterator[Codes]:
        """Its frames; those of a round are smoothed over the seam."""
        timing, grain = self.timing, self.grain
        if not self.is_round or timing.frames < 4 * REACH:
            return self.part(timing)
        if grain:
            before = self._raw(timing.part(timing.frames - REACH, REACH))
            around = chain(before, self._raw(timing), self._raw(timing.part(0, REACH)))
            return map(self._toned, islice(smoothed(around, grain), REACH, REACH + timing.frames))
        return map(self._toned, self._closed())

    def _closed(self) -> Iterator[Codes]:
        """The frames of a round, the first and last ones averaged over the seam."""
        timing = self.timing
        ends = [timing.part(timing.frames - 2 * REACH, 2 * REACH), timing.part(0, 2 * REACH)]
        around = chain.from_iterable(self._raw(one) for one in ends)
        calm = list(islice(smoothed(around, SEAM_GRAIN), REACH, 3 * REACH))
        for number, planar in enumerate(self._raw(timing)):
            place = number if number < REACH else number - timing.frames
            yield calm[place + REACH] if -REACH <= place < REACH else planar

    def part(self, timing: ClipTiming) -> Iterator[Codes]:
        """Frames of a part of its timing."""
        frames = self._raw(timing)
        return map(self._toned, smoothed(frames, self.grain) if self.grain else frames)

    def _raw(self, timing: ClipTiming) -> Iterator[Codes]:
        reading = FrameReading(size=self.look.size, area=self.look.area, kind=PixelFormat.PLANAR)
        return frames_of(self.path, timing, reading)

    def _toned(self, planar: Codes) -> Codes:
        """A frame with its tone changed, as the still's is."""
        if self.look.tone == UNTREATED:
            return planar
        picture = Raster(srgb_of(planar))
        return planar_of(treated(picture, self.look.tone, self.look.css_px).pixels)

    def stretches(self) -> list[list[Codes]]:
        """A few frames in a row, from one place or a few."""
        frames = self.timing.frames
        count = sum(frames >= one for one in PLACES_FROM)
        places = [(number + 0.5) / count for number in range(count)]
        firsts = [int(place * max(0, frames - TRIAL_FRAMES)) for place in places]
        parts = (self.timing.part(first, TRIAL_FRAMES) for first in firsts)
        return [list(self.part(one)) for one in parts]


def density_of(size: tuple[int, int], drawn: float) -> float:
    """Px of a clip that make a CSS px where it is shown largest.

    Args:
        size: of the clip.
        drawn: CSS px across, there.
    """
    return round(max(size[0] / drawn, LEAST_DENSITY), 4)


def ordered(
    path: Path,
    facts: ClipFacts,
    loop: Loop,
    look: ClipLook,
    pace: ClipPace,
    budget: int | None = None,
) -> ClipOrder:
    """The order for a clip, its source looked at.

    Args:
        path: of the source.
        facts: of it.
        loop: what is played of it.
        look: how it is to look.
        pace: how it is to run.
        budget: most bytes of each file.
    """
    if loop.is_light:
        pace = replace(pace, begin_at=None)
    timing = timing_of(loop, facts, pace.speed, pace.most_rate, pace.begin_at)
    of_source = _bytes_of_source(facts, look, timing)
    order = ClipOrder(
        path, look, timing, budget, of_source, loop.is_round, _own(facts, look, pace),
        _plays_all(facts, loop, pace), facts.bytes, loop.is_light,
    )  # fmt: skip
    if look.keeps_grain:
        return order
    grain = max((grain_of(one) for one in order.stretches()), default=0.0)
    return replace(order, grain=round(grain, 2)) if grain >= SEEN_FROM else order


def _bytes_of_source(facts: ClipFacts, look: ClipLook, timing: ClipTiming) -> int | None:
    """What the source takes for as many frames of as many px; never more than all of it."""
    frames = facts.seconds * float(facts.rate)
    if frames < 1:
        return None
    px = look.size[0] * look.size[1] / (facts.size.width * facts.size.height)
    share = min(1.0, timing.frames / frames) ** SHORTENS * min(1.0, px) ** SHRINKS
    return max(1, int(facts.track_bytes * min(1.0, share)))


def _own(facts: ClipFacts, look: ClipLook, pace: ClipPace) -> ClipFormat | None:
    """The format in which the source's own track could be published as it is."""
    size = facts.size.rounded
    is_whole = look.size == size and (look.area.width, look.area.height) == size
    is_plain = look.tone == UNTREATED and pace.speed == 1 and float(facts.rate) <= pace.most_rate
    is_turned = facts.rotation != 0 or facts.pixel_shape != 1
    is_odd = facts.is_hdr or facts.is_interlaced or is_turned or facts.bits != 8
    if is_odd or not (is_whole and is_plain):
        return None
    codec = facts.codec.lower()
    return next((kind for kind in ClipFormat if codec.startswith(clip_codec_of(kind).tracks)), None)


def _plays_all(facts: ClipFacts, loop: Loop, pace: ClipPace) -> bool:
    frame = 1 / float(facts.rate)
    is_all = loop.begin < frame and loop.end > facts.seconds - frame and not loop.lost
    return is_all and loop.way in (AS_IT_IS, ONCE) and pace.begin_at is None
