"""The lightest file that meets a target, for little more than the cost of making it.

The logarithm of a file's distortion (1 - score) falls with the codec's quality along a curve
that has nearly the same shape for all pictures; only its height differs. So one file tells
where the curve lies. A quick trial of the picture finds it; the real file is made, measured, and
made once more only if it missed.
"""

from __future__ import annotations

import ctypes
import math
import sys
import tempfile
import weakref
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from brightcanvas.colour.resample import resize
from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.codecs.codec import RateCurve
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.formats.pictures.picture_writing import encode, for_codec, written
from brightcanvas.quality.metric import Original, Score, Viewing
from brightcanvas.values.file_formats import Encoding
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.raster import Raster

LARGE = 8_000_000
"""Px of a picture from which memory matters more than time."""


def is_large(size: Size) -> bool:
    """Whether memory matters more than time."""
    return size.width * size.height > LARGE


class Aside:
    """A picture kept in a nameless file, which is gone when nobody needs it any more."""

    def __init__(self, picture: Raster) -> None:
        self._shape = picture.pixels.shape
        self._file = tempfile.TemporaryFile()  # noqa: SIM115 - closed with its owner
        weakref.finalize(self, self._file.close)
        picture.pixels.tofile(self._file)

    def picture(self) -> Raster:
        """The picture, read back."""
        self._file.seek(0)
        return Raster(np.fromfile(self._file, np.uint8).reshape(self._shape))


def give_back() -> None:
    """Hand back what the C library keeps of freed memory; nothing happens where it can't.

    Linux's keeps freed blocks of up to 32 MB for later, so that what many pictures have left
    behind stands beside the largest one.
    """
    if sys.platform == "linux":
        trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
        if trim is not None:
            trim(0)


TOO_LOW, TOO_HIGH = -0.002, 0.006
"""How far a file's score may be from its target before it is made once more."""

NEAR = 0.012
"""A quick trial this near to the target is near enough for the curve to tell the rest."""

BYTES_FALL = 0.75
"""By how much the logarithm of the bytes rises as that of the distortion falls, about."""

OUT_OF_REACH = 4.0
"""Times the bytes of the best quality: what counts for a target that it does not reach."""

MOST_TRIALS = 2

MOST_CORRECTIONS = 6
"""Once is enough nearly always; a file that is still off its target gets more."""


@dataclass(frozen=True)
class Found:
    """The file that was found."""

    encoding: Encoding
    content: bytes
    score: Score
    size: tuple[int, int] = (0, 0)
    """Width and height in px."""


@dataclass(frozen=True)
class ScoreRange:
    """Scores between which a file is good enough, and not too good."""

    low: float
    high: float

    @property
    def middle(self) -> float:
        """What is aimed at."""
        return (self.low + self.high) / 2


@dataclass(frozen=True)
class Prediction:
    """What quick trials tell of the lightest file."""

    bytes: float
    """Many times too many where the target is out of reach."""
    lift: float


def log_distortion(score: float) -> float:
    """The natural logarithm of 1 - score, of which scores near 1 are taken as one."""
    return math.log(max(1 - score, 1e-4))


def lift_of(found: Found, curve: RateCurve) -> float:
    """How much higher than the usual one the curve of a file's picture lies."""
    return log_distortion(found.score.figure) - curve.height(found.encoding.quality)


class Study:
    """A picture whose lightest files are looked for, with what all its formats share."""

    def __init__(
        self,
        picture: Raster,
        viewing: Viewing,
        shown: Raster | None = None,
        original: Original | None = None,
    ) -> None:
        """Begin a study.

        Args:
            picture: what is encoded.
            viewing: how it is seen.
            shown: the same at the px of the screen, where these are more; it is what files are
                compared with.
            original: what files are compared with, where it is made ready already.
        """
        self._picture: Raster | None = picture
        self._aside = Aside(picture) if is_large(picture.size) else None
        self._shown = shown
        self.viewing = viewing
        self._original = original
        self._made: dict[Encoding, Found] = {}

    @property
    def picture(self) -> Raster:
        """The picture; a large one is read back after the codec had its memory."""
        if self._picture is None:
            assert self._aside is not None
            self._picture = self._aside.picture()
        return self._picture

    @property
    def original(self) -> Original:
        """The picture as others are compared with it."""
        if self._original is None:
            self._original = Original(self._shown or self.picture, self.viewing)
        return self._original

    def encoded(self, encoding: Encoding) -> bytes:
        """The whole picture as a file.

        A large picture, and what comparisons need of it, make room for the codec meanwhile.
        """
        if self._aside is None:
            return encode(self.picture, encoding)
        self._original = None
        image = for_codec(self.picture, encoding)
        self._picture = None
        give_back()
        return written(image, encoding)

    def made(self, encoding: Encoding) -> Found:
        """The picture as a file, with its score; each is made once."""
        if encoding not in self._made:
            self._made[encoding] = self._make(encoding)
        return self._made[encoding]

    def _make(self, encoding: Encoding) -> Found:
        content = self.encoded(encoding)
        shown = decode(content)  # before the original is needed again: both take room
        size = shown.size.rounded
        return Found(encoding, content, self.original.score(shown), size)

    def shrunk(self, share: float) -> Study:
        """Of a file with a share of the px across, compared with the same picture."""
        if share == 1:
            return self
        size = self.picture.size
        width = max(1, round(size.width * share))
        area = Rect(0, 0, size.width, size.height)
        small = resize(self.picture, area, width, max(1, round(width / size.aspect)))
        shown = None if self._aside is None else self.picture
        return Study(small, self.viewing, shown, self.original if shown is None else None)


def predicted(study: Study, curve: RateCurve, target: float, lift: float = 0.0) -> Prediction:
    """What quick trials tell of the lightest file of a picture, in one format.

    Args:
        study: of the picture.
        curve: of the format.
        target: the score wanted.
        lift: where the picture's curve is looked for first.
    """
    lower = codec_of(curve.settings.format).drafted_lower
    tried = list[Found]()
    for _ in range(MOST_TRIALS):
        encoding = curve.encoding(wanted_quality(curve, target, lift + lower), draft=True)
        if tried and encoding == tried[-1].encoding:
            break
        tried.append(study.made(encoding))
        lift = lift_of(tried[-1], curve) - lower
        if abs(tried[-1].score.figure - target) < NEAR:
            break
    last = tried[-1]
    if last.score.figure < target - NEAR and last.encoding.quality >= curve.qualities[-1]:
        return Prediction(OUT_OF_REACH * len(last.content), lift)
    off = log_distortion(last.score.figure) - log_distortion(target)
    return Prediction(len(last.content) * math.exp(BYTES_FALL * off), lift)


def searched(study: Study, curve: RateCurve, target: float, lift: float = 0.0) -> Found:
    """The lightest file of a picture; ``lift`` is where its curve is looked for first.

    Args:
        study: of the picture.
        curve: of the format.
        target: the least score, 0 to 1.
        lift: how much higher than the usual curve the picture's is looked for first.
    """
    return lightest(study, curve, target, predicted(study, curve, target, lift).lift)


def lightest(
    study: Study, curve: RateCurve, target: float, lift: float, too_high: float = TOO_HIGH
) -> Found:
    """The lightest file of a picture, in one format, that reaches a target.

    Args:
        study: of the picture.
        curve: of the format.
        target: the score wanted.
        lift: how much higher than the usual one its curve lies, as far as is known.
        too_high: how far above the target a score may be.
    """
    window = ScoreRange(target + TOO_LOW, target + too_high)
    tried = [_made(study, curve.encoding(wanted_quality(curve, window.middle, lift)))]
    while len(tried) <= MOST_CORRECTIONS:
        encoding = _corrected(curve, tried, window)
        if encoding is None:
            break
        tried.append(_made(study, encoding))
    return in_full(study, _best(tried, window))


def best_of(
    curves: Sequence[RateCurve], study: Study, target: float, lift: float = 0.0
) -> tuple[RateCurve, float]:
    """With which of a format's ways a picture is lightest.

    Args:
        curves: the ways.
        study: of the picture.
        target: the least score, 0 to 1.
        lift: how much higher than the usual curve the picture's is looked for first.

    Returns:
        Its usual curve, and how much higher the picture's lies.
    """
    tried = {curve: predicted(study, curve, target, lift) for curve in curves}
    best = min(curves, key=lambda curve: tried[curve].bytes)
    return best, tried[best].lift


def wanted_quality(curve: RateCurve, target: float, lift: float) -> float:
    """The quality at which a picture's curve reaches a target.

    Args:
        curve: of the format.
        target: a score, 0 to 1.
        lift: how much higher than the usual curve the picture's lies.
    """
    return curve.quality(log_distortion(target) - lift)


def in_full(study: Study, found: Found) -> Found:
    """The smallest packing of a file, where its format has several: same pixels."""
    packings = codec_of(found.encoding.format).packings
    if packings is None:
        return found
    ways = packings(found.encoding)
    contents = [study.encoded(one) for one in ways]
    content, encoding = min(zip(contents, ways, strict=True), key=lambda one: len(one[0]))
    return replace(found, encoding=encoding, content=content)


def _made(study: Study, encoding: Encoding) -> Found:
    if codec_of(encoding.format).packings is None:
        return study.made(encoding)
    drafted = study.made(replace(encoding, draft=True))  # its pixels are the same
    return replace(drafted, encoding=encoding)


def _corrected(curve: RateCurve, tried: Sequence[Found], window: ScoreRange) -> Encoding | None:
    """Nearer to the target than the last one; None where there is nothing to gain.

    Above all that fell short and below all that were too good: a step up can score lower, and
    would be tried again and again.
    """
    last = tried[-1]
    if window.low <= last.score.figure <= window.high:
        return None
    short = [one for one in tried if one.score.figure < window.low]
    ample = [one for one in tried if one.score.figure > window.high]
    low = max((_quality(one) + curve.step for one in short), default=curve.qualities[0])
    high = min((_quality(one) - curve.step for one in ample), default=curve.qualities[-1])
    low = min(low, curve.qualities[-1])  # the best there is, where a whole step goes beyond it
    if low > high:
        return None
    if not short and _falls_short(curve, last, window):
        return None
    if short and ample:
        wanted = _between(short, ample, window.middle)
    elif len(tried) > 1:
        wanted = _beyond(tried, curve, window.middle)
    else:
        wanted = wanted_quality(curve, window.middle, lift_of(last, curve))
    encoding = curve.encoding(min(max(wanted, low), high))
    return None if any(one.encoding == encoding for one in tried) else encoding


def _falls_short(curve: RateCurve, found: Found, window: ScoreRange) -> bool:
    """Whether a file is too good, but the next lower quality is not good enough."""
    lower = lift_of(found, curve) + curve.height(_quality(found) - curve.step)
    return lower > log_distortion(window.low)


def _between(short: Sequence[Found], ample: Sequence[Found], target: float) -> float:
    """The quality at which a straight line from the best that fell short meets the target."""
    ends = max(short, key=_quality), min(ample, key=_quality)
    heights = [-log_distortion(one.score.figure) for one in ends]
    return float(np.interp(-log_distortion(target), heights, [_quality(one) for one in ends]))


def _beyond(tried: Sequence[Found], curve: RateCurve, target: float) -> float:
    """The quality at which the line through the last two meets the target; at least a step on."""
    one, two = tried[-2:]
    rise = log_distortion(two.score.figure) - log_distortion(one.score.figure)
    steps = _quality(two) - _quality(one)
    if not steps or rise / steps >= 0:
        return wanted_quality(curve, target, lift_of(two, curve))
    missing = log_distortion(target) - log_distortion(two.score.figure)
    return _quality(two) + missing / (rise / steps)


def _quality(found: Found) -> int:
    return found.encoding.quality


def _best(tried: Sequence[Found], window: ScoreRange) -> Found:
    """The lightest that reaches the target; else the nearest to it."""
    reaching = [one for one in tried if one.score.figure >= window.low]
    if reaching:
        return min(reaching, key=lambda one: len(one.content))
    return max(tried, key=lambda one: one.score.figure)
