"""The lightest clip that looks like its source.

Quality is looked for on short stretches: the logarithm of a codec's distortion to the source
rises nearly in a straight line with its constant quality. The whole clip is then encoded,
measured on frames of the real file, and encoded once more only where it missed.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.analysis.timing import ClipTiming, frames_of
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.clip_codecs import clip_codec_of
from brightcanvas.formats.clip_codecs.codec import ClipCurve
from brightcanvas.formats.clip_files import codecs_of, decoded, planar_of, srgb_of, write_clip
from brightcanvas.formats.clips import Codes
from brightcanvas.formats.moments import FrameReading
from brightcanvas.quality.metric import Original, Viewing
from brightcanvas.quality.search import log_distortion
from brightcanvas.values.clip_formats import ClipEncoding, ClipFormat
from brightcanvas.values.raster import Raster
from brightcanvas.values.tones import UNTREATED, Tone

TOO_LOW, TOO_HIGH = -0.005, 0.015
"""How far a clip's score may be from its target before it is encoded once more: what moves is
looked at less closely than what stands still, and encoding takes long."""

AIM = 0.003
MEASURED = 8
"""Frames of the real file that are compared with the source."""

TRIAL_FRAMES = 8
LONG = 144
"""Frames from which trials are made at two places instead of one."""

BUDGET_TRIES = 3


@dataclass(frozen=True)
class ClipScore:
    """How much a clip looks like its source."""

    mean: float
    worst: float
    """Of the frames that were compared."""
    second: float
    """At which that is, in the published clip."""


@dataclass(frozen=True)
class ClipFile:
    """One published clip."""

    encoding: ClipEncoding
    content: bytes
    codecs: str
    """The codecs parameter of its type (RFC 6381)."""
    size: tuple[int, int]
    timing: ClipTiming
    score: ClipScore
    encodes: int = 1

    @property
    def type(self) -> str:
        """As in ``type`` attributes, with its codecs."""
        return f'{self.encoding.format.media_type}; codecs="{self.codecs}"'


@dataclass(frozen=True)
class ClipOrder:
    """What is asked of a published clip."""

    path: Path
    timing: ClipTiming
    reading: FrameReading
    """Which part of the frames is shown, and in which size."""
    target: float
    """Least score."""
    viewing: Viewing
    budget: int | None = None
    """Most bytes; with it the target is given up where it must be."""
    tone: Tone = UNTREATED
    css_px: float = 1.0
    """Px of the clip that make a CSS px; matters to blurs only."""

    @property
    def size(self) -> tuple[int, int]:
        """Of the published clip."""
        assert self.reading.size is not None
        return self.reading.size

    def frames(self, timing: ClipTiming | None = None) -> Iterator[Codes]:
        """Its frames, or those of a part of its timing."""
        frames = frames_of(self.path, timing or self.timing, self.reading)
        return frames if self.tone == UNTREATED else map(self._toned, frames)

    def _toned(self, planar: Codes) -> Codes:
        """A frame with its tone changed, as the still's is."""
        picture = Raster(srgb_of(planar))
        return planar_of(treated(picture, self.tone, self.css_px).pixels)


def lightest_clips(order: ClipOrder, kinds: Sequence[ClipFormat]) -> Iterator[ClipFile]:
    """The lightest clip in each format that reaches the target, or fits into the budget."""
    stretches = _stretches(order)
    for kind in kinds:
        yield _lightest(order, kind, stretches)


def _lightest(order: ClipOrder, kind: ClipFormat, stretches: list[list[Codes]]) -> ClipFile:
    found = made_with(order, ClipEncoding(kind, _tried_quality(order, kind, stretches)))
    again = _missed(found, order)
    if again is not None:
        found = _better(found, made_with(order, again, found.encodes + 1), order)
    for _ in range(BUDGET_TRIES if order.budget else 0):
        lighter = _within(found, order)
        if lighter is None:
            break
        found = made_with(order, lighter, found.encodes + 1)
    return found


def _tried_quality(order: ClipOrder, kind: ClipFormat, stretches: list[list[Codes]]) -> int:
    """The quality that two trials on short stretches tell."""
    curve = clip_codec_of(kind).curve
    wanted = log_distortion(order.target + AIM)
    quality, points = curve.first, list[tuple[int, float]]()
    for _ in range(2):
        score = _trial(order, ClipEncoding(kind, quality), stretches)
        points.append((quality, log_distortion(score)))
        slope = _slope(points, curve)
        quality = _bounded(points[-1][0] + (wanted - points[-1][1]) / slope, curve)
        if abs(quality - points[-1][0]) <= 1:
            break
    return quality


def _slope(points: Sequence[tuple[int, float]], curve: ClipCurve) -> float:
    """Of the line through two trials, kept near to the usual one."""
    if len(points) < 2:
        return curve.slope
    (a, low), (b, high) = points[-2:]
    return min(max((high - low) / (b - a), curve.slope / 2), curve.slope * 2)


def _bounded(quality: float, curve: ClipCurve) -> int:
    return min(max(round(quality), 1), curve.last)


def _stretches(order: ClipOrder) -> list[list[Codes]]:
    timing = order.timing
    places = (0.25, 0.75) if timing.frames >= LONG else (0.4,)
    firsts = [int(place * max(0, timing.frames - TRIAL_FRAMES)) for place in places]
    return [list(order.frames(timing.part(first, TRIAL_FRAMES))) for first in firsts]


def _trial(order: ClipOrder, encoding: ClipEncoding, stretches: list[list[Codes]]) -> float:
    scores = []
    for frames in stretches:
        content = write_clip(frames, order.size, order.timing.rate, encoding)
        picked = {number: frames[number] for number in (len(frames) // 3, len(frames) * 2 // 3)}
        scores += _compared(order, picked, content)
    return sum(score for _, score in scores) / len(scores)


def _compared(
    order: ClipOrder, picked: Mapping[int, Codes], content: bytes
) -> list[tuple[float, float]]:
    """Second and score of some frames of a file, by the source's frames with their numbers."""
    found = []
    for number, (second, shown) in enumerate(decoded(content)):
        if number in picked:
            original = Original(Raster(srgb_of(picked[number])), order.viewing)
            found.append((second, original.score(Raster(shown)).figure))
    return found


def made_with(order: ClipOrder, encoding: ClipEncoding, encodes: int = 1) -> ClipFile:
    """The whole clip in one encoding; frames to compare it with are kept on the way.

    Args:
        order: what is asked of the clip.
        encoding: codec and quality.
        encodes: how often it was encoded, this time included.
    """
    frames, picked = order.timing.frames, dict[int, Codes]()
    wanted = {int((place + 0.5) * frames / MEASURED) for place in range(MEASURED)}

    def passing() -> Iterator[Codes]:
        for number, codes in enumerate(order.frames()):
            if number in wanted:
                picked[number] = codes
            yield codes

    content = write_clip(passing(), order.size, order.timing.rate, encoding)
    scores = _compared(order, picked, content)
    second, worst = min(scores, key=lambda one: one[1])
    score = ClipScore(sum(score for _, score in scores) / len(scores), worst, second)
    return ClipFile(encoding, content, codecs_of(content), order.size, order.timing, score, encodes)


def _missed(found: ClipFile, order: ClipOrder) -> ClipEncoding | None:
    """The encoding that comes nearer to the target; None where there is nothing to gain."""
    off = found.score.mean - order.target
    if TOO_LOW <= off <= TOO_HIGH:
        return None
    kind, quality = found.encoding.format, found.encoding.quality
    curve = clip_codec_of(kind).curve
    away = log_distortion(order.target + AIM) - log_distortion(found.score.mean)
    step = 1 if off > 0 else -1
    moved = quality + step * max(1, round(abs(away) / curve.slope))
    again = ClipEncoding(kind, _bounded(moved, curve))
    return None if again == found.encoding else again


def _better(first: ClipFile, second: ClipFile, order: ClipOrder) -> ClipFile:
    """The lighter of those that reach the target; else the nearer one."""
    both = (first, second)
    reaching = [one for one in both if one.score.mean >= order.target + TOO_LOW]
    if reaching:
        return min(reaching, key=lambda one: len(one.content))
    return max(both, key=lambda one: one.score.mean)


def _within(found: ClipFile, order: ClipOrder) -> ClipEncoding | None:
    """The encoding that should fit into the budget; None where it does, or can't."""
    over = len(found.content) / (order.budget or len(found.content))
    kind, quality = found.encoding.format, found.encoding.quality
    curve = clip_codec_of(kind).curve
    if over <= 1 or quality >= curve.last:
        return None
    steps = max(1, round(math.log(over) / curve.lightens + 0.5))
    return ClipEncoding(kind, _bounded(quality + steps, curve))
