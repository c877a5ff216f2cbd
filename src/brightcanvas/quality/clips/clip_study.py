"""A clip that is being made: its frames, what files are compared with, and trials of a few."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from brightcanvas.formats.clips.clip_codecs import ClipCurve, clip_codec_of
from brightcanvas.formats.clips.clip_reading import Codes
from brightcanvas.formats.clips.clip_writing import Beat, decoded, srgb_of, write_clip
from brightcanvas.quality.clips.clip_order import ClipOrder
from brightcanvas.quality.clips.clip_played import Played, played
from brightcanvas.quality.metric import Original
from brightcanvas.quality.search import log_distortion
from brightcanvas.values.file_formats import ClipEncoding, ClipFormat
from brightcanvas.values.raster import Raster
from brightcanvas.values.work import FramesDone, frame_done

TOO_LOW = -0.005
"""How far a clip's score may be below its target: what moves is looked at less closely than what
stands still, and encoding takes long."""

AIM = 0.006
"""How far above it is aimed."""

TOO_HEAVY = 1.4
"""Times the bytes that the target takes, about, from which a clip is encoded again."""

SPENT = 0.85
"""Of the bytes that are allowed: less is not enough where the score needs more."""

FILLED = 0.95
"""Of them that is aimed at."""


@dataclass(frozen=True)
class ClipTrial:
    """One encode of a clip, or of a few of its frames."""

    quality: int
    bytes: int
    score: float


@dataclass(frozen=True)
class QualityTarget:
    """What is asked of a file."""

    target: float
    """Least score."""
    limit: int | None
    """Most bytes."""

    @property
    def distortion(self) -> float:
        """The logarithm that is aimed at."""
        return log_distortion(self.target + AIM)


def bounded(quality: float, curve: ClipCurve) -> int:
    """As a codec has it."""
    return min(max(round(quality), 1), curve.last)


def slope_of(tried: Sequence[ClipTrial], curve: ClipCurve) -> float:
    """By how much the logarithm of the distortion rises with each step, by the last two encodes.

    Kept near to the usual one: two points tell little of a line.
    """
    points = [(one.quality, log_distortion(one.score)) for one in tried]
    return _line(points, curve.slope)


def _line(points: Sequence[tuple[int, float]], usual: float) -> float:
    if len(points) < 2 or points[-1][0] == points[-2][0]:
        return usual
    (a, low), (b, high) = points[-2:]
    return min(max((high - low) / (b - a), usual / 2), usual * 2)


def next_quality(
    tried: Sequence[ClipTrial], aim: QualityTarget, curve: ClipCurve, slope: float
) -> int | None:
    """The quality that comes nearer to what is asked; None where there is little to gain.

    Args:
        tried: encodes of the whole clip, the last one last.
        aim: what is asked.
        curve: of the codec.
        slope: what trials told, for one encode; see ``slope_of``.
    """
    last = tried[-1]
    if aim.limit is not None and last.bytes > aim.limit:
        return _beside(tried, _at_bytes(tried, aim.limit * FILLED, curve), curve, +1)
    slope = slope_of(tried, curve) if len(tried) > 1 else slope
    away = (aim.distortion - log_distortion(last.score)) / slope
    if last.score >= aim.target + TOO_LOW:
        is_heavy = math.exp(away * curve.lightens) > TOO_HEAVY and last.quality < curve.last
        return _beside(tried, last.quality + away, curve, +1) if is_heavy else None
    if aim.limit is None:
        return _beside(tried, last.quality + away, curve, -1)
    if last.bytes > SPENT * aim.limit:
        return None
    lowest = _at_bytes(tried, aim.limit * FILLED, curve)
    return _beside(tried, max(last.quality + away, lowest), curve, -1)


def _at_bytes(tried: Sequence[ClipTrial], wanted: float, curve: ClipCurve) -> float:
    """The quality at which it takes so many bytes."""
    points = [(one.quality, -math.log(one.bytes)) for one in tried]
    steps = -math.log(max(wanted, 1.0)) - points[-1][1]
    return tried[-1].quality + steps / _line(points, curve.lightens)


def _beside(tried: Sequence[ClipTrial], quality: float, curve: ClipCurve, way: int) -> int | None:
    """A step on at least, and between those that are known to miss on either side."""
    last, known = tried[-1].quality, {one.quality for one in tried}
    wanted = bounded(quality, curve)
    if way > 0:
        beyond = min((one for one in known if one > last), default=curve.last + 1)
        wanted = min(max(wanted, last + 1), beyond - 1)
    else:
        beyond = max((one for one in known if one < last), default=0)
        wanted = max(min(wanted, last - 1), beyond + 1)
    return None if wanted in known or not 1 <= wanted <= curve.last else wanted


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
class ClipStudy:
    """What all formats of a clip share while they are made."""

    order: ClipOrder
    _frames: list[Codes] = field(default_factory=list)
    _originals: dict[int, Original] = field(default_factory=dict)
    _stretches: list[_Stretch] = field(default_factory=list)

    @property
    def aim(self) -> QualityTarget:
        """What is asked of each file."""
        return QualityTarget(self.order.look.target, self.order.limit)

    def predicted(self, kind: ClipFormat) -> tuple[int, float]:
        """The quality that reaches the target, and the slope there, by trials of a few frames."""
        curve = clip_codec_of(kind).curve
        wanted = self.aim.distortion - curve.settles
        quality, tried = curve.first, list[ClipTrial]()
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

    def _trial(self, encoding: ClipEncoding) -> ClipTrial:
        """The mean score of short stretches."""
        if not self._stretches:
            self._stretches = [self._stretch(one) for one in self.order.stretches()]
        size, beat, total = self.order.look.size, Beat(self.order.timing.rate), 0
        scores: list[float] = []
        for one in self._stretches:
            content = write_clip(one.frames, size, beat, encoding)
            total += len(content)
            scores += scores_of(content, one.originals)
        return ClipTrial(encoding.quality, total, sum(scores) / len(scores))

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
