"""Flashes by WCAG 2.2, success criterion 2.3.1 (three flashes or below threshold).

A general flash is a pair of opposing changes in relative luminance of 0.1 or more, the darker
side below 0.8. A red one is a pair of opposing changes to or from a saturated red (red at
least 0.8 of the sum) that change (R - G - B) * 320 by more than 20. They count where more than
a quarter of any field of ten degrees flashes at once: a third of a screen each way at the
distance from which WCAG reckons.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import takewhile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from brightcanvas.analysis.stills import reduced_size
from brightcanvas.colour.contrast import LUMINANCE_WEIGHTS
from brightcanvas.colour.light import light_of_code
from brightcanvas.formats.clips import ClipFacts
from brightcanvas.formats.moments import FrameReading, moments

ACROSS = 64
"""Px of the longer side at which frames are looked at."""

CHANGE, DARK = 0.1, 0.8
RED_CHANGE, RED_SHARE, RED_SCALE = 20.0, 0.8, 320.0
FIELD = 1 / 3
"""Of a side of the screen: ten degrees of vision."""
AREA = 0.25
MOST = 3
"""Flashes in any second."""

Plane = NDArray[np.float32]


@dataclass(frozen=True)
class Flashes:
    """The worst second of a clip."""

    most: int
    """Flashes in it."""
    second: float
    """When it begins; 0 without any."""

    @property
    def is_safe(self) -> bool:
        """Whether there are no more than three in any second."""
        return self.most <= MOST


def flashes_of(path: Path, facts: ClipFacts, begin: float, end: float, speed: float) -> Flashes:
    """The worst second of a stretch of a clip, by the clock of the one who watches it.

    Args:
        path: of the clip.
        facts: of it.
        begin: second of the source.
        end: second of the source, not included.
        speed: 2 plays it twice as fast.
    """
    reading = FrameReading(size=reduced_size(facts, ACROSS), begin=begin)
    shown = takewhile(lambda one: one.second < end, moments(path, reading))
    return flashes(((one.second - begin) / speed, one.pixels) for one in shown)


class _Changes:
    """Follows one measure of every px from turning point to turning point."""

    def __init__(self, first: Plane, least: float) -> None:
        self._low, self._high = first.copy(), first.copy()
        self._way = np.zeros(first.shape, np.int8)
        self._least = least

    def step(
        self, now: Plane, counts_low: NDArray[np.bool_] | None = None
    ) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Where a rise and where a fall has just become large enough."""
        self._low, self._high = np.minimum(self._low, now), np.maximum(self._high, now)
        dark = self._low < DARK if counts_low is None else counts_low
        rises = (now - self._low >= self._least) & dark & (self._way <= 0)
        dark_now = now < DARK if counts_low is None else counts_low
        falls = (self._high - now >= self._least) & dark_now & (self._way >= 0) & ~rises
        self._way[rises], self._way[falls] = 1, -1
        turned = rises | falls
        self._low[turned], self._high[turned] = now[turned], now[turned]
        # Going on in the same direction moves the turning point along.
        up, down = self._way > 0, self._way < 0
        self._low[up & (now >= self._high)] = now[up & (now >= self._high)]
        self._high[down & (now <= self._low)] = now[down & (now <= self._low)]
        return rises, falls


def flashes(frames: Iterable[tuple[float, NDArray[np.uint8]]]) -> Flashes:
    """The worst second of some frames (second, sRGB codes), reduced as to ACROSS."""
    turns: dict[str, list[tuple[float, int]]] = {"general": [], "red": []}
    for second, kind, way in _turns(frames):
        known = turns[kind]
        if not known or known[-1][1] != way:
            known.append((second, way))
    return max((_worst([at for at, _ in one]) for one in turns.values()), key=lambda one: one.most)


def _turns(frames: Iterable[tuple[float, NDArray[np.uint8]]]) -> Iterator[tuple[float, str, int]]:
    """Changes of a large enough part of the screen: second, kind, up or down."""
    general: _Changes | None = None
    red: _Changes | None = None
    was_red: NDArray[np.bool_] | None = None
    for second, codes in frames:
        light = light_of_code().take(codes, mode="clip")
        luminance = np.asarray(light @ np.array(LUMINANCE_WEIGHTS, np.float32))
        redness, is_red = _redness(light)
        if general is None or red is None or was_red is None:
            general, red = _Changes(luminance, CHANGE), _Changes(redness, RED_CHANGE)
            was_red = is_red
            continue
        steps = {
            "general": general.step(luminance),
            "red": red.step(redness, is_red | was_red),
        }
        was_red = (was_red & (redness > 0)) | is_red
        for kind, (rises, falls) in steps.items():
            for way, where in ((1, rises), (-1, falls)):
                if _is_large(where):
                    yield second, kind, way


def _redness(light: Plane) -> tuple[Plane, NDArray[np.bool_]]:
    red, rest = light[..., 0], light[..., 1] + light[..., 2]
    total = np.maximum(red + rest, 1e-6)
    redness = np.maximum(red - rest, 0) * np.float32(RED_SCALE)
    return np.asarray(redness, np.float32), red / total >= RED_SHARE


def _is_large(where: NDArray[np.bool_]) -> bool:
    """Whether more than a quarter of any field of the screen changes."""
    from scipy import ndimage

    if not where.any():
        return False
    size = [max(1, round(side * FIELD)) for side in where.shape]
    share = ndimage.uniform_filter(where.astype(np.float32), size, mode="constant")
    return bool(share.max() > AREA)


def _worst(turns: list[float]) -> Flashes:
    """Two turns make a flash."""
    best, first = Flashes(0, 0.0), 0
    for last, second in enumerate(turns):
        while second - turns[first] > 1.0:
            first += 1
        count = (last - first + 1) // 2
        if count > best.most:
            best = Flashes(count, turns[first])
    return best
