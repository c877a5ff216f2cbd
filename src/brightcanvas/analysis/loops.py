"""Where a clip can begin again without being noticed.

Frames are compared reduced, every one with every other. A loop is good where the step from its
last frame to its first is like the clip's own steps there. Where no two frames match, the end
is faded into the beginning.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise, takewhile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from brightcanvas.analysis.stills import reduced_size
from brightcanvas.formats.clips import ClipFacts
from brightcanvas.formats.moments import FrameReading, moments

ACROSS = 64
"""Px of the longer side at which frames are compared."""

MOST_FRAMES = 1500
"""That are compared; of a longer clip every second or third one."""

LEAST_SECONDS = 1.5
LEAST_SHARE = 0.4
"""Of the stretch that a loop has to keep."""

SEEN = 2.0
"""A jump of so many usual steps from frame to frame is noticed."""

LONGER = 0.02
"""Usual steps that a second more is worth."""

STILLNESS = 0.5
"""Codes; steps smaller than this are taken for it: noise moves too."""

FADE_SECONDS = 0.6

Field = NDArray[np.float32]


@dataclass(frozen=True)
class Loop:
    """A stretch that is played again and again."""

    begin: float
    end: float
    """Seconds; the frame at ``end`` is not shown any more."""
    jump: float
    """From its last frame to its first, in usual steps from frame to frame."""
    fade: float = 0.0
    """Seconds at its end that are faded into what comes just before ``begin``."""
    lost: float = 0.0
    """Seconds of the stretch that can't be read: its source is damaged there."""
    before: float = 0.0
    """The jump of the whole stretch as it is."""

    @property
    def is_seamless(self) -> bool:
        """Whether nobody notices where it begins again."""
        return self.jump <= SEEN


@dataclass(frozen=True, eq=False)
class Reduced:
    """All frames of a stretch, reduced."""

    seconds: tuple[float, ...]
    frames: Field
    """Codes, shape (frames, values)."""
    end: float
    """When the last frame has been shown."""
    lost: float = 0.0
    """Seconds after it that can't be read."""


def reduced(path: Path, facts: ClipFacts, begin: float, end: float) -> Reduced:
    """The frames from one second up to another.

    Args:
        path: of the clip.
        facts: of it.
        begin: second of the source.
        end: second of the source, not included.
    """
    every = max(1, round((end - begin) * float(facts.rate) / MOST_FRAMES))
    reading = FrameReading(size=reduced_size(facts, ACROSS), begin=begin)
    seconds, frames = [], []
    running = takewhile(lambda one: one.second < end - 1e-6, moments(path, reading))
    for number, one in enumerate(running):
        if number % every == 0:
            seconds.append(one.second)
            frames.append(one.pixels.ravel())
    values = np.array(frames, np.uint8)
    step = every / float(facts.rate)
    last = min(end, seconds[-1] + step) if seconds else end
    missing = min(end, facts.seconds) - last
    lost = missing if missing > 2 * step else 0.0
    return Reduced(tuple(seconds), values.astype(np.float32), last, lost)


def usual_step(frames: Field) -> float:
    """The median change from one frame to the next, in codes."""
    if len(frames) < 2:
        return STILLNESS
    steps = [_apart(a, b) for a, b in pairwise(frames)]
    return max(float(np.median(steps)), STILLNESS)


def whole(stretch: Reduced) -> Loop:
    """All of a stretch, with the jump that it makes."""
    frames = stretch.frames
    jump = _apart(frames[-1], frames[0]) / usual_step(frames)
    return Loop(stretch.seconds[0], stretch.end, jump, before=jump)


def chosen_loop(stretch: Reduced, seam: str, *, is_round: bool) -> Loop:
    """What is played of a stretch.

    Args:
        stretch: with one frame at least.
        seam: where a round begins again: ``find``, ``fade`` or ``leave``.
        is_round: whether it is played again and again.
    """
    if not is_round or seam == "leave":
        found = whole(stretch)
    elif seam == "fade":
        found = faded(stretch)
    else:
        found = best_loop(stretch)
    return replace(found, lost=stretch.lost)


def best_loop(stretch: Reduced) -> Loop:
    """All of it if it is a loop; else the pair of frames that match best; else with a fade."""
    as_it_is = whole(stretch)
    if as_it_is.is_seamless or len(stretch.seconds) < 4:
        return as_it_is
    found = _best_pair(stretch)
    if found is not None and found.is_seamless:
        return replace(found, before=as_it_is.jump)
    return faded(stretch)


def faded(stretch: Reduced, fade: float = FADE_SECONDS) -> Loop:
    """A loop whose end is faded into its beginning, which is cut off there."""
    as_it_is, frames = whole(stretch), stretch.frames
    step = (stretch.end - stretch.seconds[0]) / len(frames)
    count = min(round(fade / step), len(frames) // 3)
    if count < 1:
        return as_it_is
    share = count / (count + 1)
    last = frames[-1] * (1 - share) + frames[count - 1] * share
    jump = _apart(last, frames[count]) / usual_step(frames)
    begin = stretch.seconds[count]
    return Loop(begin, stretch.end, jump, begin - stretch.seconds[0], before=as_it_is.jump)


def _best_pair(stretch: Reduced) -> Loop | None:
    """The first and last frame whose step over the seam is most like one of the clip's own.

    From the last frame to the first it should be as far as between neighbours there, and to the
    second as far as to the next but one: so it neither jumps nor stops nor turns back.
    """
    apart = _distances(stretch.frames)
    seconds = np.array(stretch.seconds)
    ends = np.append(seconds[1:], stretch.end)
    firsts = len(seconds) - 2
    one, two = np.diag(apart, 1)[:firsts], np.diag(apart, 2)
    cost = np.abs(apart[:, :firsts] - one) + np.abs(apart[:, 1 : firsts + 1] - two)
    length = ends[:, None] - seconds[None, :firsts]
    allowed = length >= _least_length(stretch) - 1e-6
    if not allowed.any():
        return None
    # Of pairs that match alike the longer loop is the better one.
    usual = usual_step(stretch.frames)
    cost = np.where(allowed, cost - LONGER * usual * length, np.inf)
    last, first = (int(place) for place in np.unravel_index(int(cost.argmin()), cost.shape))
    return Loop(stretch.seconds[first], float(ends[last]), float(apart[last, first]) / usual)


def _least_length(stretch: Reduced) -> float:
    return max(LEAST_SECONDS, LEAST_SHARE * (stretch.end - stretch.seconds[0]))


def _distances(frames: Field) -> Field:
    """Root mean squares of the differences between any two frames."""
    centred = frames - frames.mean(axis=0)
    squares = (centred * centred).sum(axis=1)
    between = squares[:, None] + squares[None, :] - 2 * centred @ centred.T
    return np.asarray(np.sqrt(np.maximum(between, 0) / frames.shape[1]), np.float32)


def _apart(one: Field, other: Field) -> float:
    return float(np.sqrt(np.mean((one - other) ** 2)))
