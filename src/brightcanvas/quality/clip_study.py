"""A clip that is being made: its frames, what files are compared with, and trials of a few."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from brightcanvas.formats.clip_codecs import clip_codec_of
from brightcanvas.formats.clip_files import Beat, decoded, srgb_of, write_clip
from brightcanvas.formats.clips import Codes
from brightcanvas.quality.clip_order import ClipOrder
from brightcanvas.quality.clip_played import Played, played
from brightcanvas.quality.clip_steps import Aim, Tried, bounded, slope_of
from brightcanvas.quality.metric import Original
from brightcanvas.quality.search import log_distortion
from brightcanvas.values.clip_formats import ClipEncoding, ClipFormat
from brightcanvas.values.raster import Raster
from brightcanvas.values.work import FramesDone, frame_done

MEASURED = 6
"""Frames of the real file that are compared with the source."""

FAR = 8
"""Steps of quality from which a second trial is made."""

HELD_BYTES = 320_000_000
"""Of frames that are kept between the encodes of a clip; a larger one is read anew."""


@dataclass(frozen=True, eq=False)
class _Stretch:
    """A few frames in a row, and what those are like that are looked at."""

    frames: Sequence[Codes]
    originals: Mapping[int, Original]


@dataclass
class Study:
    """What all formats of a clip share while they are made."""

    order: ClipOrder
    _frames: list[Codes] = field(default_factory=list)
    _originals: dict[int, Original] = field(default_factory=dict)
    _stretches: list[_Stretch] = field(default_factory=list)

    @property
    def aim(self) -> Aim:
        """What is asked of each file."""
        return Aim(self.order.look.target, self.order.limit)

    def foretold(self, kind: ClipFormat) -> tuple[int, float]:
        """The quality that reaches the target, and the slope there, by trials of a few frames."""
        curve = clip_codec_of(kind).curve
        wanted = self.aim.distortion - curve.settles
        quality, tried = curve.first, list[Tried]()
        for _ in range(2):
            tried.append(self._trial(ClipEncoding(kind, quality)))
            away = (wanted - log_distortion(tried[-1].score)) / slope_of(tried, curve)
            quality = bounded(tried[-1].quality + away, curve)
            if abs(quality - tried[-1].quality) <= FAR:
                break
        return quality, slope_of(tried, curve)

    def made(self, encoding: ClipEncoding) -> tuple[bytes, Played]:
        """The whole clip in one encoding, and what is measured on it."""
        order = self.order
        frames = self._told(encoding.format)
        content = write_clip(frames, order.look.size, order.beat, encoding)
        return content, played(content, order.timing, self._originals, is_round=order.is_round)

    def _told(self, kind: ClipFormat) -> Iterator[Codes]:
        """All frames, of each of which is told."""
        name = f"{self.order.path.name} at {self.order.look.size[0]} px, {kind.label}"
        total = self.order.timing.frames
        for number, planar in enumerate(self._all_frames()):
            frame_done(FramesDone(name, number + 1, total))
            yield planar

    def _all_frames(self) -> Iterator[Codes]:
        """All of them; kept where they are not too many."""
        if self._frames:
            yield from self._frames
            return
        count, (width, height) = self.order.timing.frames, self.order.look.size
        is_kept = count * width * height * 3 / 2 <= HELD_BYTES
        compared = {int((place + 0.5) * count / MEASURED) for place in range(MEASURED)}
        kept: list[Codes] = []
        for number, planar in enumerate(self.order.frames()):
            if number in compared and number not in self._originals:
                self._originals[number] = self._original(planar)
            if is_kept:
                kept.append(planar)
            yield planar
        self._frames = kept

    def _original(self, planar: Codes) -> Original:
        return Original(Raster(srgb_of(planar)), self.order.look.viewing)

    def _trial(self, encoding: ClipEncoding) -> Tried:
        """The mean score of short stretches."""
        if not self._stretches:
            self._stretches = [self._stretch(one) for one in self.order.stretches()]
        size, beat, total = self.order.look.size, Beat(self.order.timing.rate), 0
        scores: list[float] = []
        for one in self._stretches:
            content = write_clip(one.frames, size, beat, encoding)
            total += len(content)
            scores += scores_of(content, one.originals)
        return Tried(encoding.quality, total, sum(scores) / len(scores))

    def _stretch(self, frames: Sequence[Codes]) -> _Stretch:
        compared = {len(frames) // 3, len(frames) * 5 // 6}
        return _Stretch(frames, {number: self._original(frames[number]) for number in compared})


def scores_of(content: bytes, originals: Mapping[int, Original]) -> list[float]:
    """Of some frames of a short file, by their numbers."""
    return [
        originals[number].score(Raster(shown)).figure
        for number, (_, shown) in enumerate(decoded(content))
        if number in originals
    ]
