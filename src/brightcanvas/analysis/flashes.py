"""Flashes by WCAG 2.2, success criterion 2.3.1 (three flashes or below threshold).

A general flash is a pair of opposing changes in relative luminance of 0.1 or more, the darker
side below 0.8. A red one is a pair of opposing changes of which one side is a saturated red
(R / (R + G + B) of 0.8 or more, linear) and that differ by more than 0.2 in the CIE 1976
chromaticity diagram; here along the line from white to red. Each place is followed by itself, as
both changes of a pair have to happen there. Flashes count where the places that flash together
cover more than a quarter of any field of ten degrees: 341 x 256 px of 1024 x 768, a third of the
screen each way.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.contrast import LUMINANCE_WEIGHTS
from brightcanvas.colour.spaces import light_of_code

ACROSS = 96
"""Px of the longer side at which frames are looked at."""

CHANGE, DARK = 0.1, 0.8
RED_CHANGE, RED_SHARE = 0.2, 0.8
RED_LEAST = 20 / 320
"""R - G - B from which a red is one that is seen (WCAG 2.1, the same criterion)."""

WHITE_UV = (0.1978, 0.4683)
RED_UV = (0.4507, 0.5229)
"""Chromaticities of D65 and of the red primary of sRGB (CIE 1976 u', v')."""

FIELD = 1 / 3
"""Of a side of the screen: ten degrees of vision."""
AREA = 0.25
MOST = 3
"""Flashes in any second."""

TOGETHER = 0.1
"""Seconds within which places change together."""

MOST_TURNS = 64
"""Changes of one place that are remembered: of more than a second at 60 frames a second."""

_TO_XYZ = np.array(
    [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]], np.float32
)
"""From linear sRGB (IEC 61966-2-1)."""

Plane = NDArray[np.float32]
Places = NDArray[np.bool_]
Codes = NDArray[np.uint8]


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


class _Changes:
    """Follows one measure of every px from turning point to turning point."""

    def __init__(self, first: Plane, counts: Places, least: float) -> None:
        """Begin.

        Args:
            first: the measure in the first frame.
            counts: where that frame may be the side of a change that makes it count.
            least: change that counts.
        """
        self._low, self._high = first.copy(), first.copy()
        self._low_counts, self._high_counts = counts.copy(), counts.copy()
        self._way = np.zeros(first.shape, np.int8)
        self._least = least

    def step(self, now: Plane, counts: Places) -> tuple[Places, Places]:
        """Where a rise and where a fall has just become large enough."""
        self._reach(now < self._low, now > self._high, now, counts)
        rises = (now - self._low >= self._least) & (self._low_counts | counts) & (self._way <= 0)
        falls = (self._high - now >= self._least) & (self._high_counts | counts) & (self._way >= 0)
        falls &= ~rises
        self._way[rises], self._way[falls] = 1, -1
        # From here on the next change is looked for: going on in this direction moves its start.
        turned = rises | falls
        self._reach(turned, turned, now, counts)
        return rises, falls

    def _reach(self, low: Places, high: Places, now: Plane, counts: Places) -> None:
        """Move the lowest and the highest point of the change that is under way."""
        follows_up, follows_down = (self._way > 0) & high, (self._way < 0) & low
        low, high = low | follows_up, high | follows_down
        for limit, marks, where in (
            (self._low, self._low_counts, low),
            (self._high, self._high_counts, high),
        ):
            limit[where], marks[where] = now[where], counts[where]


class _Turns:
    """When each place changed, and how often within the last second."""

    def __init__(self, shape: tuple[int, ...]) -> None:
        self._times = np.full((MOST_TURNS, *shape), -np.inf, np.float32)
        self._last = {way: np.full(shape, -np.inf, np.float32) for way in (1, -1)}
        self._counts = {way: np.zeros(shape, np.int16) for way in (1, -1)}
        self._at = 0

    def add(self, second: float, way: int, where: Places) -> int:
        """Changes that a large enough area has gone through together in the last second.

        Args:
            second: of the frame.
            way: which of both ways the light has changed, an index.
            where: the places that have changed, a mask of the picture's cells.
        """
        if not where.any():
            return 0
        slot = self._times[self._at % MOST_TURNS]
        slot[...] = -np.inf
        slot[where] = second
        self._at += 1
        counts = (self._times > second - 1.0).sum(axis=0).astype(np.int16)
        self._counts[way][where], self._last[way][where] = counts[where], second
        together = self._last[way] >= second - TOGETHER
        return _most_changes(np.where(together, self._counts[way], 0))


def _most_changes(counts: NDArray[np.int16]) -> int:
    """The largest number that more than a quarter of some field has reached."""
    most = 0
    for number in range(1, int(counts.max()) + 1):
        if not _is_large(counts >= number):
            break
        most = number
    return most


def _is_large(where: Places) -> bool:
    """Whether it is more than a quarter of any field of the screen."""
    from scipy import ndimage

    size = [max(1, round(side * FIELD)) for side in where.shape]
    share = ndimage.uniform_filter(where.astype(np.float32), size, mode="constant")
    return bool(share.max() > AREA + 1e-4)


def flashes(frames: Iterable[tuple[float, Codes]]) -> Flashes:
    """The worst second of some frames.

    Args:
        frames: second and sRGB codes, shape (height, width, 3), reduced as to ACROSS.
    """
    worst = Flashes(0, 0.0)
    for second, changes in changes_of(frames):
        if changes // 2 > worst.most:  # two changes make a flash
            worst = Flashes(changes // 2, max(0.0, second - 1.0))
    return worst


def changes_of(frames: Iterable[tuple[float, Codes]]) -> Iterator[tuple[float, int]]:
    """For each frame but the first how many changes it ends, within a second, over some area."""
    followed: list[tuple[_Changes, _Turns]] = []
    for second, codes in frames:
        measures = _measures(codes)
        if not followed:
            leasts = (CHANGE, RED_CHANGE)
            followed = [
                (_Changes(now, counts, least), _Turns(now.shape))
                for (now, counts), least in zip(measures, leasts, strict=True)
            ]
            continue
        yield (
            second,
            max(
                turns.add(second, way, where)
                for (changes, turns), (now, counts) in zip(followed, measures, strict=True)
                for way, where in zip((1, -1), changes.step(now, counts), strict=True)
            ),
        )


def _measures(codes: Codes) -> tuple[tuple[Plane, Places], tuple[Plane, Places]]:
    """Luminance and where it is dark; redness and where it is a saturated red."""
    light = light_of_code().take(codes, mode="clip")
    luminance = np.asarray(light @ np.array(LUMINANCE_WEIGHTS, np.float32))
    red, rest = light[..., 0], light[..., 1] + light[..., 2]
    is_red = (red >= RED_SHARE * (red + rest)) & (red - rest >= RED_LEAST)
    return (luminance, luminance < DARK), (_redness(light), is_red)


def _redness(light: Plane) -> Plane:
    """How far from white towards red (CIE 1976 u', v'); what is black has no colour."""
    xyz = light @ _TO_XYZ.T
    total = xyz @ np.array([1, 15, 3], np.float32)
    is_seen = total > 0.02
    total = np.where(is_seen, total, 1)
    u = np.where(is_seen, 4 * xyz[..., 0] / total, WHITE_UV[0])
    v = np.where(is_seen, 9 * xyz[..., 1] / total, WHITE_UV[1])
    way = np.subtract(RED_UV, WHITE_UV)
    way /= np.linalg.norm(way)
    return np.asarray((u - WHITE_UV[0]) * way[0] + (v - WHITE_UV[1]) * way[1], np.float32)


SLOWER = (0.8, 0.65, 0.5, 0.35, 0.25)
"""Times as fast, that are tried against flashes."""

LEAST_STRETCH = 1.5
"""Seconds that a stretch without them has to be long."""


@dataclass(frozen=True)
class Remedies:
    """What keeps a clip from flashing, each of them tried."""

    speed: float | None = None
    """Times as fast as it is."""
    stretch: tuple[float, float] | None = None
    """Seconds from and to."""
    fade: float | None = None
    """Amount of its mean colour that is mixed in."""
    fade_to: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """That colour, 0..1."""


def remedies_for(frames: Sequence[tuple[float, Codes]]) -> Remedies:
    """Slower, another stretch, calmer: the least of each that leaves three flashes a second.

    Args:
        frames: of a clip with too many: second and codes.
    """
    colour = np.mean([codes.mean(axis=(0, 1)) for _, codes in frames], axis=0)
    red, green, blue = (float(one) / 255 for one in colour)
    return Remedies(
        speed=_speed_for(frames),
        stretch=_stretch_for(frames),
        fade=_fade_for(frames, colour),
        fade_to=(red, green, blue),
    )


def _speed_for(frames: Sequence[tuple[float, Codes]]) -> float | None:
    tried = (
        (speed, flashes((second / speed, codes) for second, codes in frames)) for speed in SLOWER
    )
    return next((speed for speed, found in tried if found.is_safe), None)


def _stretch_for(frames: Sequence[tuple[float, Codes]]) -> tuple[float, float] | None:
    """The longest one between seconds that flash too often, looked at once more by itself."""
    bad = [second for second, changes in changes_of(frames) if changes // 2 > MOST]
    edges = [frames[0][0], *bad, frames[-1][0]]
    begin, end = max(pairwise(edges), key=lambda one: one[1] - one[0])
    # A second flashes too often by what ends in it: its beginning has to be left out too.
    begin += 0.05 if begin > frames[0][0] else 0.0
    end -= 1.0 if end < frames[-1][0] else 0.0
    part = [one for one in frames if begin <= one[0] <= end]
    if end - begin < LEAST_STRETCH or not flashes(part).is_safe:
        return None
    return begin, end


def _fade_for(frames: Sequence[tuple[float, Codes]], colour: NDArray[np.floating]) -> float | None:
    for amount in (0.3, 0.5, 0.7, 0.85):
        faded = (
            (second, (codes * (1 - amount) + colour * amount + 0.5).astype(np.uint8))
            for second, codes in frames
        )
        if flashes(faded).is_safe:
            return amount
    return None
