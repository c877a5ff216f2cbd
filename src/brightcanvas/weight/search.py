"""The lightest file that meets a target, for little more than the cost of making it.

The logarithm of a file's unlikeness (1 - score) falls with the codec's quality along a curve
that has nearly the same shape for all pictures; only its height differs. So one file tells
where the curve lies. Trials on a small mosaic of the picture find it; the real file is made,
measured, and made once more only if it missed. How rungs of one cut help each other is told in
``weight.lightest``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.freeing import give_back
from brightcanvas.basics.raster import Raster
from brightcanvas.media.encode import encode, for_codec, written
from brightcanvas.media.pictures import decode
from brightcanvas.weight.aside import Aside, is_large
from brightcanvas.weight.ladders import EVEN_JPEG, Ladder
from brightcanvas.weight.likeness import Original, Score, Viewing
from brightcanvas.weight.mosaic import Mosaic, Picked, pick

TOO_LOW, TOO_HIGH = -0.002, 0.005
"""How far a file's score may be from its target before it is made once more."""

AIM = 0.0015
"""How far above the target is aimed: the middle between the two."""

NEAR = 0.01
"""A trial this near to the target is near enough for the curve to tell the rest."""

MOST_TRIALS = 3

MOST_CORRECTIONS = 6
"""Once is enough nearly always; a file that is still off its target gets more."""

SCOUT = EVEN_JPEG.encoding(55, draft=True)
"""The quick trial of the whole picture by which the regions of a mosaic are picked."""


@dataclass(frozen=True)
class Found:
    """The file that was found."""

    encoding: Encoding
    content: bytes
    score: Score


def log_unlikeness(score: float) -> float:
    """The natural logarithm of 1 - score, of which scores near 1 are taken as one."""
    return math.log(max(1 - score, 1e-4))


def lift_of(found: Found, ladder: Ladder) -> float:
    """How much higher than the usual one the curve of a file's picture lies."""
    return log_unlikeness(found.score.figure) - ladder.height(found.encoding.quality)


class Study:
    """A picture whose lightest files are looked for, with what all its formats share."""

    def __init__(self, picture: Raster, viewing: Viewing) -> None:
        self._picture: Raster | None = picture
        self._aside = Aside(picture) if is_large(picture.size) else None
        self.viewing = viewing
        self._original: Original | None = None
        self._scouted: NDArray[np.float64] | None = None

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
            self._original = Original(self.picture, self.viewing)
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

    def picked(self) -> Picked | None:
        """The regions that stand for it; None where it is small itself."""
        return pick(self.original, self._scout())

    def scouted_lift(self) -> float:
        """The lift of JPEG with our own tables, as one trial of the whole picture tells."""
        figure = self.original.pooled(self._scout()).figure
        return log_unlikeness(figure) - EVEN_JPEG.height(SCOUT.quality)

    def _scout(self) -> NDArray[np.float64]:
        if self._scouted is None:
            self._scouted = self.original.regions(decode(encode(_opaque(self.picture), SCOUT)))
        return self._scouted

    def mosaic(self, picked: Picked | None) -> Mosaic | None:
        """A small picture that stands for it, made of regions picked in it or in a neighbour."""
        region = self.original.region
        if picked is None or min(self.picture.size.width, self.picture.size.height) < 2 * region:
            return None
        return Mosaic(self.picture, region, picked, self.viewing)


def _opaque(picture: Raster) -> Raster:
    return Raster(picture.pixels[..., :3]) if picture.has_alpha else picture


def tried_out(
    study: Study, mosaic: Mosaic | None, ladder: Ladder, target: float, lift: float = 0.0
) -> float:
    """Where the curve of a picture lies in one format, as trials on its mosaic tell.

    ``lift`` is where it is looked for first.
    """
    tried = set[int]()
    for _ in range(MOST_TRIALS):
        encoding = ladder.encoding(wanted_quality(ladder, target, lift), draft=True)
        if encoding.quality in tried:
            break
        tried.add(encoding.quality)
        score = trial(study, mosaic, encoding)
        lift = log_unlikeness(score) - ladder.height(encoding.quality)
        if abs(score - target - AIM) < NEAR:
            break
    return lift


def trial(study: Study, mosaic: Mosaic | None, encoding: Encoding) -> float:
    """The score of a mosaic, or of a small picture itself, in some encoding."""
    content = encode(mosaic.picture if mosaic else study.picture, encoding)
    judge: Mosaic | Original = mosaic or study.original
    return judge.score(decode(content)).figure


def trial_lift(study: Study, mosaic: Mosaic, ladder: Ladder, quality: float) -> float:
    """The lift that one trial at a quality tells."""
    encoding = ladder.encoding(quality, draft=True)
    return log_unlikeness(trial(study, mosaic, encoding)) - ladder.height(encoding.quality)


def searched(study: Study, ladder: Ladder, target: float) -> Found:
    """The lightest file of a single picture that nothing is known of yet."""
    mosaic = study.mosaic(study.picked())
    return lightest(study, ladder, target, tried_out(study, mosaic, ladder, target))


def lightest(study: Study, ladder: Ladder, target: float, lift: float) -> Found:
    """The lightest file of a picture, in one format, that reaches a target.

    Args:
        study: of the picture.
        ladder: of the format.
        target: the score wanted.
        lift: how much higher than the usual one its curve lies, as far as is known.
    """
    tried = [_made(study, ladder.encoding(wanted_quality(ladder, target, lift)))]
    while len(tried) <= MOST_CORRECTIONS:
        encoding = _corrected(ladder, tried, target)
        if encoding is None:
            break
        tried.append(_made(study, encoding))
    return in_full(study, _best(tried, target))


def wanted_quality(ladder: Ladder, target: float, lift: float) -> float:
    """The quality at which a picture's curve reaches a target."""
    return ladder.quality(log_unlikeness(target + AIM) - lift)


def in_full(study: Study, found: Found) -> Found:
    """A JPEG from coarse to fine or from top to bottom, whichever is smaller: same pixels."""
    if found.encoding.format is not FileFormat.JPEG:
        return found
    scans = [replace(found.encoding, progressive=one) for one in (True, False)]
    contents = [study.encoded(one) for one in scans]
    content, encoding = min(zip(contents, scans, strict=True), key=lambda one: len(one[0]))
    return replace(found, encoding=encoding, content=content)


def _made(study: Study, encoding: Encoding) -> Found:
    is_jpeg = encoding.format is FileFormat.JPEG  # whose drafts have the same pixels
    content = study.encoded(replace(encoding, draft=True) if is_jpeg else encoding)
    shown = decode(content)  # before the original is needed again: both take room
    return Found(encoding, content, study.original.score(shown))


def _corrected(ladder: Ladder, tried: Sequence[Found], target: float) -> Encoding | None:
    """Nearer to the target than the last one; None where there is nothing to gain.

    Above all that fell short and below all that were too good: a step up can score lower, and
    would be tried again and again.
    """
    last = tried[-1]
    if TOO_LOW <= last.score.figure - target <= TOO_HIGH:
        return None
    short = [one for one in tried if one.score.figure < target + TOO_LOW]
    ample = [one for one in tried if one.score.figure > target + TOO_HIGH]
    low = max((_quality(one) + ladder.step for one in short), default=ladder.qualities[0])
    high = min((_quality(one) - ladder.step for one in ample), default=ladder.qualities[-1])
    low = min(low, ladder.qualities[-1])  # the best there is, where a whole step goes beyond it
    if low > high:
        return None
    if short and ample:
        wanted = _between(short, ample, target)
    else:
        wanted = wanted_quality(ladder, target, lift_of(last, ladder))
    encoding = ladder.encoding(min(max(wanted, low), high))
    return None if any(one.encoding == encoding for one in tried) else encoding


def _between(short: Sequence[Found], ample: Sequence[Found], target: float) -> float:
    """The quality at which a straight line from the best that fell short meets the target."""
    ends = max(short, key=_quality), min(ample, key=_quality)
    heights = [-log_unlikeness(one.score.figure) for one in ends]
    return float(np.interp(-log_unlikeness(target + AIM), heights, [_quality(one) for one in ends]))


def _quality(found: Found) -> int:
    return found.encoding.quality


def _best(tried: Sequence[Found], target: float) -> Found:
    """The lightest that reaches the target; else the nearest to it."""
    reaching = [one for one in tried if one.score.figure - target >= TOO_LOW]
    if reaching:
        return min(reaching, key=lambda one: len(one.content))
    return max(tried, key=lambda one: one.score.figure)
