"""Choosing the still that stands for a clip.

Key frames are looked at first, reduced: they need no others to be decoded. A clip with few of
them is read through. The best of these are then looked at again with their neighbours, so that
nothing within a fade or a transition is taken.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, takewhile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.spaces import lab_from_light, light_of_code
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.clips.clip_reading import ClipFacts
from brightcanvas.formats.clips.moments import ClipFrame, FrameReading, Pace, moments
from brightcanvas.values.colours import Tone
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

ACROSS = 256
"""Px of the longer side at which frames are judged."""

ENOUGH_KEYS = 24
"""Key frames with which a clip need not be read through."""

MOST_JUDGED = 240
"""Frames that are judged of a clip that is read through."""

STRIDE = 3
"""Frames from one to the next that others build on, about."""

LOOKED_AGAIN = 6
"""Looks that are looked at again, and how many of each."""
OF_EACH = 3

LEAST_OFFERED = 3
"""Stills that are offered of a clip that shows the same all along, if it is long enough."""

WORTH = 0.2
"""Of the best one's mark: what has less isn't offered."""

APART = 0.4
"""Seconds between two candidates, and how far their neighbours are looked at."""

NORMAL_SPREAD = 12.0
"""Standard deviation of L* of a picture that is neither faded nor full of contrast."""

NORMAL_DETAIL = 2.0
"""Root mean square of what neighbours differ by, in L*, of a picture that is neither soft nor
sharp."""

NORMAL_CHROMA = 12.0
"""Mean chroma of a picture that is neither grey nor colourful."""

APART_IN_LOOK = 5.0
"""Mean difference in L* of small versions from which two stills show different things."""

SMALL = (9, 16)
"""Rows and columns of a small version."""

DULL = 0.3
"""Mark below which a still is dull."""

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
    """By itself, and against the sharpest frames of the clip."""
    coloured: float = 1.0
    """Not grey, from a half on."""
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
        plain = self.exposed * self.contrasted * self.sharp * self.coloured
        return plain * self.settled * softer

    @property
    def is_dull(self) -> bool:
        """Whether nobody would choose it."""
        return self.figure < DULL


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
    """The best stills of a clip, the best first, each of something else as far as there is.

    Args:
        path: of the clip.
        facts: of its head.
        wish: what to heed.
        count: how many at most.
    """
    found = _judged(_candidates(path, facts), wish)
    ranking = sorted(found, key=lambda one: -one.still.marks.figure)
    chosen = _of_each_look(ranking, max(count, LOOKED_AGAIN))
    small = {one.still.second: one.small for one in chosen}
    settled = (_settled(path, facts, one.still) for one in chosen)
    again = sorted(settled, key=lambda one: (-one.marks.figure, one.second))
    worth = [one for one in again if one.marks.figure >= WORTH * again[0].marks.figure]
    return tuple(_with_others(_each_of_its_own(worth, small), worth)[:count])


def reduced_size(facts: ClipFacts, across: int) -> tuple[int, int]:
    """Width and height of a reduced frame, both even."""
    scale = min(1.0, across / max(facts.size.width, facts.size.height))
    width, height = (max(2, round(side * scale / 2) * 2) for side in (
        facts.size.width, facts.size.height))  # fmt: skip
    return width, height


def _candidates(path: Path, facts: ClipFacts) -> Iterator[ClipFrame]:
    size = reduced_size(facts, ACROSS)
    keys = list(moments(path, FrameReading(size=size, pace=Pace.KEYS)))
    if len(keys) >= ENOUGH_KEYS:
        return iter(keys)
    every = max(1, round(facts.seconds * float(facts.rate) / STRIDE / MOST_JUDGED))
    strides = moments(path, FrameReading(size=size, pace=Pace.STRIDES))
    return (one for number, one in enumerate(strides) if number % every == 0)


@dataclass(frozen=True, eq=False)
class _Judged:
    """A candidate, and a small version to compare it by."""

    still: Still
    small: Field


@dataclass(frozen=True, eq=False)
class _Sight:
    """A frame's measures, before they are compared with the rest of the clip."""

    second: float
    marks: Marks
    detail: float
    """Mean square of the differences between neighbouring px, in L*."""
    small: Field


def _judged(candidates: Iterator[ClipFrame], wish: StillWish) -> list[_Judged]:
    viewport_boxes = [_sight(one, wish) for one in candidates]
    if not viewport_boxes:
        return []
    finest = max(float(np.quantile([one.detail for one in viewport_boxes], 0.9)), FINEST)
    return [
        _Judged(Still(one.second, _with_sharpness(one, finest)), one.small)
        for one in viewport_boxes
    ]


def _with_sharpness(one: _Sight, finest: float) -> Marks:
    among_others = min(1.0, math.sqrt(one.detail / finest))
    return replace(one.marks, sharp=one.marks.sharp * among_others)


def lightness_of(pixels: NDArray[np.uint8]) -> Field:
    """L* of sRGB codes, shape (height, width)."""
    return np.asarray(_lab(pixels)[..., 0], np.float32)


def _lab(pixels: NDArray[np.uint8]) -> Field:
    light = light_of_code().take(pixels, mode="clip")
    return np.asarray(lab_from_light(light), np.float32)


def _sight(moment: ClipFrame, wish: StillWish) -> _Sight:
    lab = _lab(moment.pixels)
    detail = _detail(lab[..., 0])
    return _Sight(
        moment.second, _marks(lab, detail, wish), float(detail.mean()), _small(lab[..., 0])
    )


def marks_of(pixels: NDArray[np.uint8], wish: StillWish) -> Marks:
    """The marks of a picture by itself, reduced as to ACROSS: sRGB codes, (height, width, 3)."""
    lab = _lab(pixels)
    return _marks(lab, _detail(lab[..., 0]), wish)


def _marks(lab: Field, detail: Field, wish: StillWish) -> Marks:
    mean = float(detail.mean())
    chroma = float(np.hypot(lab[..., 1], lab[..., 2]).mean())
    return Marks(
        exposed=_exposed(lab[..., 0]),
        contrasted=_share(float(lab[..., 0].std()), NORMAL_SPREAD),
        sharp=_share(math.sqrt(mean), NORMAL_DETAIL),
        coloured=0.5 + 0.5 * _share(chroma, NORMAL_CHROMA),
        calm=_calm(detail, mean, wish.copy),
        clear=_clear(detail, mean, wish.subjects),
    )


def _share(value: float, normal: float) -> float:
    """0 for nothing, 0.63 for what is normal, towards 1 for much: marks that spread."""
    return 1 - math.exp(-value / normal)


def _small(lightness: Field) -> Field:
    rows, columns = (min(a, b) for a, b in zip(SMALL, lightness.shape, strict=True))
    height, width = lightness.shape[0] // rows, lightness.shape[1] // columns
    part = lightness[: rows * height, : columns * width]
    return np.asarray(part.reshape(rows, height, columns, width).mean(axis=(1, 3)))


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


def _of_each_look(ranking: Sequence[_Judged], looks: int) -> list[_Judged]:
    """The best ones of what looks different, a few of each: their neighbours are yet to be seen."""
    groups: list[list[_Judged]] = []
    for one in ranking:
        group = next((group for group in groups if not _unlike(one.small, group[0].small)), None)
        if group is None and len(groups) < looks:
            groups.append([one])
        elif group is not None and len(group) < OF_EACH and _is_apart(one, group):
            group.append(one)
    return [one for group in groups for one in group]


def _is_apart(one: _Judged, others: Sequence[_Judged]) -> bool:
    return all(abs(one.still.second - other.still.second) >= APART for other in others)


def _each_of_its_own(ranking: Sequence[Still], small: Mapping[float, Field]) -> list[Still]:
    chosen: list[Still] = []
    for one in ranking:
        if all(_unlike(small[one.second], small[other.second]) for other in chosen):
            chosen.append(one)
    return chosen


def _with_others(chosen: list[Still], ranking: Sequence[Still]) -> list[Still]:
    """With a few other moments, where a clip shows but one or two things."""
    others = [one for one in ranking if one not in chosen]
    return chosen + others[: max(0, LEAST_OFFERED - len(chosen))]


def _unlike(one: Field, other: Field) -> bool:
    """Whether two small versions show different things, in whatever light."""
    apart = (one - one.mean()) - (other - other.mean())
    return float(np.abs(apart).mean()) > APART_IN_LOOK


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


LIGHTER = (0.2, 0.4, 0.6)
"""Amounts of ``lighten`` that are tried."""


@dataclass(frozen=True)
class Lift:
    """What would make a dull still less dull."""

    lighten: float
    """Amount, as a tone has it."""
    figure: float
    """Its mark with that."""


def lift_for(pixels: NDArray[np.uint8], wish: StillWish) -> Lift | None:
    """The least lightening that makes the most of it; None where none helps much.

    Args:
        pixels: of a dull still, reduced as to ACROSS: sRGB codes, (height, width, 3).
        wish: what is heeded.
    """
    plain = marks_of(pixels, wish).figure
    tried = [
        Lift(amount, marks_of(treated(Raster(pixels), Tone(lighten=amount)).pixels, wish).figure)
        for amount in LIGHTER
    ]
    best = max(tried, key=lambda one: one.figure)
    return best if best.figure > HELPS * plain else None


HELPS = 1.3
"""Times the mark from which something helps."""
