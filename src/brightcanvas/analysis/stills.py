"""Choosing the still that stands for a clip.

Key frames are looked at first, reduced: they need no others to be decoded. A clip with few of
them is read through. The best of these are then looked at again with their neighbours, so that
nothing within a fade or a transition is taken.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, takewhile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.lab import lab_from_light
from brightcanvas.colour.light import light_of_code
from brightcanvas.formats.clips import ClipFacts
from brightcanvas.formats.moments import FrameReading, Moment, Pace, moments
from brightcanvas.values.geometry import Rect

ACROSS = 256
"""Px of the longer side at which frames are judged."""

ENOUGH_KEYS = 24
"""Key frames with which a clip need not be read through."""

MOST_JUDGED = 240
"""Frames that are judged of a clip that is read through."""

STRIDE = 3
"""Frames from one to the next that others build on, about."""

LOOKED_AGAIN = 6
APART = 0.4
"""Seconds between two candidates, and how far their neighbours are looked at."""

NORMAL_SPREAD = 12.0
"""Standard deviation of L* from which a picture is not faded."""

GOOD_LIGHT = (35.0, 75.0)
"""Mean L* of a well exposed picture."""

BURNT, BLOCKED = 98.0, 3.0
"""L* beyond which nothing is drawn."""

CHANGE = 12.0
"""Difference in L* between neighbours APART at which half the mark for standing still is lost."""

FINEST = 1e-6

Field = NDArray[np.float32]


@dataclass(frozen=True)
class Marks:
    """How good a frame is as a still, each from 0 to 1."""

    exposed: float
    """Neither dark nor pale, nothing burnt or blocked."""
    contrasted: float
    """Not faded."""
    sharp: float
    """Against the sharpest frames of the clip."""
    settled: float = 1.0
    """Nothing changes around it: no cut, no transition."""
    calm: float = 1.0
    """Little detail under the copy."""
    clear: float = 1.0
    """Detail where the subject is."""

    @property
    def figure(self) -> float:
        """All in one: their product, so that one bad mark is not made up for by others."""
        softer = math.sqrt(self.calm * self.clear)
        return self.exposed * self.contrasted * self.sharp * self.settled * softer


@dataclass(frozen=True)
class Still:
    """A frame that could stand for the clip."""

    second: float
    marks: Marks


@dataclass(frozen=True)
class StillWish:
    """What lies above the still and what must be seen of it, in fractions of the frame."""

    copy: Rect | None = None
    subjects: tuple[Rect, ...] = ()


def best_stills(path: Path, facts: ClipFacts, wish: StillWish, count: int = 1) -> tuple[Still, ...]:
    """The best stills of a clip, the best first.

    Args:
        path: of the clip.
        facts: of its head.
        wish: what to heed.
        count: how many at most.
    """
    found = _judged(_candidates(path, facts), wish)
    ranking = sorted(found, key=lambda one: -one.marks.figure)
    chosen = _apart(ranking, max(count, LOOKED_AGAIN))
    settled = [_settled(path, facts, one) for one in chosen]
    return tuple(sorted(settled, key=lambda one: -one.marks.figure)[:count])


def reduced_size(facts: ClipFacts, across: int) -> tuple[int, int]:
    """Width and height of a reduced frame, both even."""
    scale = min(1.0, across / max(facts.size.width, facts.size.height))
    width, height = (max(2, round(side * scale / 2) * 2) for side in (
        facts.size.width, facts.size.height))  # fmt: skip
    return width, height


def _candidates(path: Path, facts: ClipFacts) -> Iterator[Moment]:
    size = reduced_size(facts, ACROSS)
    keys = list(moments(path, FrameReading(size=size, pace=Pace.KEYS)))
    if len(keys) >= ENOUGH_KEYS:
        return iter(keys)
    every = max(1, round(facts.seconds * float(facts.rate) / STRIDE / MOST_JUDGED))
    strides = moments(path, FrameReading(size=size, pace=Pace.STRIDES))
    return (one for number, one in enumerate(strides) if number % every == 0)


@dataclass(frozen=True, eq=False)
class _Sight:
    """A frame's measures, before they are compared with the rest of the clip."""

    second: float
    marks: Marks
    detail: float
    """Mean square of the differences between neighbouring px, in L*."""


def _judged(candidates: Iterator[Moment], wish: StillWish) -> list[Still]:
    sights = [_sight(one, wish) for one in candidates]
    if not sights:
        return []
    finest = max(float(np.quantile([one.detail for one in sights], 0.9)), FINEST)
    return [
        Still(one.second, replace(one.marks, sharp=min(1.0, (one.detail / finest) ** 0.5)))
        for one in sights
    ]


def lightness_of(pixels: NDArray[np.uint8]) -> Field:
    """L* of sRGB codes, shape (height, width)."""
    light = light_of_code().take(pixels, mode="clip")
    return np.asarray(lab_from_light(light)[..., 0], np.float32)


def _sight(moment: Moment, wish: StillWish) -> _Sight:
    lightness = lightness_of(moment.pixels)
    detail = _detail(lightness)
    mean = float(detail.mean())
    marks = Marks(
        exposed=_exposed(lightness),
        contrasted=min(1.0, float(lightness.std()) / NORMAL_SPREAD),
        sharp=1.0,
        calm=_calm(detail, mean, wish.copy),
        clear=_clear(detail, mean, wish.subjects),
    )
    return _Sight(moment.second, marks, mean)


def _detail(lightness: Field) -> Field:
    across, down = np.diff(lightness, axis=1)[:-1], np.diff(lightness, axis=0)[:, :-1]
    return across * across + down * down


def _exposed(lightness: Field) -> float:
    mean = float(lightness.mean())
    dark, light = GOOD_LIGHT
    fit = mean / dark if mean < dark else (100 - mean) / (100 - light) if mean > light else 1.0
    lost = float(np.mean((lightness > BURNT) | (lightness < BLOCKED)))
    return max(0.0, fit) * (1 - lost)


def _calm(detail: Field, mean: float, copy: Rect | None) -> float:
    if copy is None:
        return 1.0
    return 1 / (1 + _mean_in(detail, copy) / max(mean, FINEST) / 2)


def _clear(detail: Field, mean: float, subjects: Sequence[Rect]) -> float:
    if not subjects:
        return 1.0
    within = min(_mean_in(detail, one) for one in subjects)
    return min(1.0, math.sqrt(within / max(mean, FINEST)))


def _mean_in(detail: Field, box: Rect) -> float:
    height, width = detail.shape
    rows = slice(int(box.top * (height - 1)), int(box.bottom * (height - 1)) + 1)
    columns = slice(int(box.left * (width - 1)), int(box.right * (width - 1)) + 1)
    return float(detail[rows, columns].mean())


def _apart(ranking: Sequence[Still], count: int) -> list[Still]:
    chosen: list[Still] = []
    for one in ranking:
        if all(abs(one.second - other.second) >= APART for other in chosen):
            chosen.append(one)
        if len(chosen) == count:
            break
    return chosen


def _settled(path: Path, facts: ClipFacts, still: Still) -> Still:
    """A candidate after a look at its neighbours."""
    begin, end = max(0.0, still.second - APART), still.second + APART
    reading = FrameReading(size=reduced_size(facts, ACROSS // 4), begin=begin, pace=Pace.STRIDES)
    near = [
        lightness_of(one.pixels)
        for one in takewhile(lambda one: one.second <= end, moments(path, reading))
    ]
    if len(near) < 3:
        return still
    change = float(np.abs(near[-1] - near[0]).mean())
    sudden = max(float(np.abs(b - a).mean()) for a, b in pairwise(near))
    settled = 1 / (1 + (max(change, 2 * sudden) / CHANGE) ** 2)
    return replace(still, marks=replace(still.marks, settled=settled))
