"""A published clip as a browser plays it: decoded, compared, its seam and its flashes measured."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from brightcanvas.analysis.flashes import ACROSS as FLASHES_ACROSS
from brightcanvas.analysis.flashes import Flashes, Remedies, flashes, remedies_for
from brightcanvas.analysis.loops import SEEN
from brightcanvas.analysis.motion import STILLNESS, Field, apart
from brightcanvas.analysis.timing import ClipTiming
from brightcanvas.formats.clips.clip_reading import Codes
from brightcanvas.formats.clips.clip_writing import decoded_frames, luma_shown, shown_of
from brightcanvas.quality.metric import Original
from brightcanvas.values.raster import Raster

UNSEEN = 1.0
"""Codes of 255, root mean square, up to which nobody sees a jump."""


@dataclass(frozen=True)
class ClipScore:
    """How much a clip looks like its source."""

    mean: float
    worst: float
    """Of the frames that were compared."""
    second: float
    """At which that is, in the published clip."""


@dataclass(frozen=True)
class Played:
    """What is measured on the frames that browsers decode."""

    score: ClipScore
    jump: float
    """From the last frame to the first, in the median step from frame to frame."""
    jump_codes: float
    """The same in codes of 255: root mean square of all px."""
    flashes: Flashes
    """Of two rounds, or of one where it plays once."""
    remedies: Remedies | None
    """Where it flashes too often."""

    @property
    def jumps(self) -> bool:
        """Whether it is noticed where it begins again.

        In a clip that hardly moves what a codec does anew is many of its steps, and not seen.
        """
        return self.jump > SEEN and self.jump_codes > UNSEEN


def played(
    content: bytes, timing: ClipTiming, originals: Mapping[int, Original], *, is_round: bool
) -> Played:
    """Measure a file.

    Args:
        content: of the file.
        timing: which frames of its source it shows.
        originals: some of them by their numbers.
        is_round: whether it begins again.
    """
    scores: list[tuple[float, float]] = []
    walk, small = _Walk(), list[tuple[float, Codes]]()
    for number, frame in enumerate(decoded_frames(content)):
        second, size = frame.time or 0.0, (frame.width, frame.height)
        if number in originals:
            shown = Raster(shown_of(frame))
            scores.append((originals[number].score(shown).figure, second))
        walk.on(luma_shown(frame))
        small.append((second, shown_of(frame, _within(size, FLASHES_ACROSS))))
    rounds = _twice(small) if is_round else small
    found = flashes(rounds)
    remedies = None if found.is_safe else _remedies(rounds, timing)
    return Played(_score_of(scores), walk.jump, walk.over, found, remedies)


def _remedies(frames: list[tuple[float, Codes]], timing: ClipTiming) -> Remedies:
    """Those that were found, a stretch in seconds of the source, as briefs state them."""
    found = remedies_for(frames)
    stretch = timing.in_source(*found.stretch) if found.stretch else None
    return replace(found, stretch=stretch)


def _score_of(scores: list[tuple[float, float]]) -> ClipScore:
    if not scores:  # the source itself
        return ClipScore(1.0, 1.0, 0.0)
    worst, second = min(scores)
    return ClipScore(sum(score for score, _ in scores) / len(scores), worst, second)


def _within(size: tuple[int, int], across: int) -> tuple[int, int]:
    scale = min(1.0, across / max(size))
    width, height = (max(2, round(side * scale / 2) * 2) for side in size)
    return width, height


class _Walk:
    """The steps of a clip, frame by frame."""

    def __init__(self) -> None:
        self._first: Field | None = None
        self._last: Field | None = None
        self._steps: list[float] = []

    def on(self, frame: Field) -> None:
        """One frame further."""
        if self._last is None:
            self._first = frame
        else:
            self._steps.append(apart(self._last, frame))
        self._last = frame

    @property
    def jump(self) -> float:
        """From the last frame to the first, in usual steps."""
        if not self._steps:
            return 0.0
        return self.over / max(float(np.median(self._steps)), STILLNESS)

    @property
    def over(self) -> float:
        """From the last frame to the first, in codes."""
        return 0.0 if self._first is None or self._last is None else apart(self._last, self._first)


def _twice(frames: list[tuple[float, Codes]]) -> list[tuple[float, Codes]]:
    """Two rounds: flashes over the seam count too."""
    if len(frames) < 2:
        return frames
    length = frames[-1][0] - frames[0][0] + (frames[-1][0] - frames[0][0]) / (len(frames) - 1)
    return frames + [(second + length, codes) for second, codes in frames]
