"""Which quality a clip is encoded in next, by what its files so far weighed and scored."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from brightcanvas.formats.clip_codecs.codec import ClipCurve
from brightcanvas.quality.search import log_distortion

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
class Tried:
    """One encode of a clip, or of a few of its frames."""

    quality: int
    bytes: int
    score: float


@dataclass(frozen=True)
class Aim:
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


def slope_of(tried: Sequence[Tried], curve: ClipCurve) -> float:
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


def next_quality(tried: Sequence[Tried], aim: Aim, curve: ClipCurve, slope: float) -> int | None:
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


def _at_bytes(tried: Sequence[Tried], wanted: float, curve: ClipCurve) -> float:
    """The quality at which it takes so many bytes."""
    points = [(one.quality, -math.log(one.bytes)) for one in tried]
    steps = -math.log(max(wanted, 1.0)) - points[-1][1]
    return tried[-1].quality + steps / _line(points, curve.lightens)


def _beside(tried: Sequence[Tried], quality: float, curve: ClipCurve, way: int) -> int | None:
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
