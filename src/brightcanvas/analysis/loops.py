"""How a clip can begin again without being noticed.

Frames are compared reduced, every one with every other. A round is good where the step from its
last frame to its first is like the clip's own steps: as far, and going on in the same direction.
Where no two frames match, one of three ways is left: the end fades into the beginning, where
that shows no double image; it plays forth and back, where nothing in it goes one way only; or it
plays once, and its last frame stays.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from brightcanvas.analysis.motion import (
    Field,
    Reduced,
    apart,
    camera_share,
    distances,
    doubled_share,
    jumps_somewhere,
    one_way_share,
    steps_of,
    usual_step,
    ways_of,
)
from brightcanvas.formats.clips.clip_reading import ClipFacts

LEAST_SECONDS = 1.5
LEAST_SHARE = 0.4
"""Of the stretch that a loop has to keep."""

FEWEST = 6
"""Frames of which a round can be made otherwise than as they are."""

SEEN = 1.5
"""A jump of so many usual steps from frame to frame is noticed."""

CHOSEN_BELOW = 1.25
"""A pair of frames is taken up to this jump: files add a little to it."""

NEARLY_ALL = 0.9
"""Of a round that is good as it is: for a better seam no more is given up."""

EMPTY = 3.0
"""Codes: standard deviation of a frame on which nothing is seen."""

OFF = 1.5
"""Usual steps by which the steps over a seam may differ from the clip's own, all in all."""

MOST_PAIRS = 40
"""Of the best ones, that are looked at in all their parts."""

LONGER = 0.1
"""Usual steps that a second more is worth."""

LONGER_FADED = 0.3
"""The same where the end is faded into the beginning."""

FADE_SECONDS = (0.6, 1.0, 1.6)
"""Lengths of a fade that are tried; the longest may take a quarter of what is left."""

GHOST = 0.012
"""Share of the area with a double image from which it is noticed."""

CAMERA = 0.6
"""Share of what changes that is the camera's motion from which it is played backwards."""

ONE_WAY = 0.4
"""Share of motion one way from which it isn't played backwards."""

LIGHT_BITS, LIGHT_PX = 0.01, 1280 * 720
"""For each px of each frame of so many px: half of what a thrifty file takes. Smaller frames take
more for each, larger ones less."""

LIGHT = "it is light already, so nothing of it is encoded anew"

AS_IT_IS, PAIR, FADED, BACK, ONCE = "as it is", "pair", "faded", "back", "once"


@dataclass(frozen=True)
class Loop:
    """A stretch that is played again and again, or once."""

    begin: float
    end: float
    """Seconds; the frame at ``end`` is not shown any more."""
    jump: float
    """From its last frame to its first, in usual steps from frame to frame, in the source."""
    fade: float = 0.0
    """Seconds at its end that are faded into what comes just before ``begin``."""
    lost: float = 0.0
    """Seconds of the stretch that can't be read: its source is damaged there."""
    before: float = 0.0
    """The jump of the whole stretch as it is."""
    way: str = AS_IT_IS
    """``as it is``, ``pair``, ``faded``, ``back`` (forth and back) or ``once``."""
    why: str = ""
    """What spoke against the ways that come before it; empty: nothing."""
    stamps: tuple[float, ...] = ()
    """Seconds of its frames, where they come at no steady rate."""

    @property
    def seconds(self) -> float:
        """How long it is in the source."""
        return self.end - self.begin

    def left_alone(self) -> Loop:
        """All of it, played as it is, because there is little of it."""
        if self.is_light or self.way in (AS_IT_IS, ONCE):
            return self
        return Loop(0.0, self.end, self.before, lost=self.lost, before=self.before, why=LIGHT)

    @property
    def is_light(self) -> bool:
        """Whether it is left alone because there is little of it."""
        return self.why == LIGHT

    @property
    def is_round(self) -> bool:
        """Whether it begins again."""
        return self.way != ONCE


@dataclass(frozen=True)
class LoopWish:
    """What is asked of a loop."""

    begin: float
    end: float
    """Seconds of the source between which it lies."""
    seam: str
    """How a round is closed: ``find``, ``fade``, ``back`` or ``leave``."""
    is_round: bool
    """Whether it is wanted again and again."""


def loop_of(stretch: Reduced, facts: ClipFacts, wish: LoopWish) -> Loop:
    """What is played of a clip.

    Args:
        stretch: its frames between the wish's beginning and end, one at least.
        facts: of the clip.
        wish: what is asked.
    """
    is_all = wish.begin == 0 and wish.end >= facts.seconds - 1e-3
    if wish.is_round and wish.seam == "find" and is_all and is_light(facts):
        all_of_it = whole(stretch)
        stamps = _stamps(stretch, all_of_it)
        return replace(all_of_it, lost=stretch.lost, stamps=stamps, why=LIGHT)
    return chosen_loop(stretch, wish.seam, is_round=wish.is_round)


def is_light(facts: ClipFacts) -> bool:
    """Whether a clip's track has so few bits that it is best left alone."""
    px, frames = facts.size.width * facts.size.height, facts.seconds * float(facts.rate)
    return bool(facts.track_bytes * 8 < LIGHT_BITS * px * (LIGHT_PX / px) ** 0.2 * frames)


def chosen_loop(stretch: Reduced, seam: str, *, is_round: bool) -> Loop:
    """What is played of a stretch.

    Args:
        stretch: with one frame at least.
        seam: how a round is closed: ``find``, ``fade``, ``back`` or ``leave``.
        is_round: whether it is wanted again and again.
    """
    as_it_is = whole(stretch)
    if not is_round:
        found = replace(as_it_is, way=ONCE)
    elif seam == "leave" or len(stretch.seconds) < FEWEST:
        found = as_it_is
    elif seam == "fade":
        found = _best_fade(stretch, distances(stretch.frames))[0]
    elif seam == "back":
        found = _forth_and_back(stretch)
    else:
        found = best_loop(stretch)
    return replace(found, lost=stretch.lost, before=as_it_is.jump, stamps=_stamps(stretch, found))


def _stamps(stretch: Reduced, loop: Loop) -> tuple[float, ...]:
    if stretch.is_even or stretch.every > 1:
        return ()
    begin, end = loop.begin - loop.fade - 1e-6, loop.end - 1e-6
    return tuple(one for one in stretch.seconds if begin <= one < end)


def whole(stretch: Reduced) -> Loop:
    """All of a stretch, with the jump that it makes."""
    jump = apart(stretch.frames[-1], stretch.frames[0]) / usual_step(stretch.frames)
    return Loop(stretch.seconds[0], stretch.end, jump, before=jump)


def best_loop(stretch: Reduced) -> Loop:
    """The best way to begin again, and what spoke against the others."""
    as_it_is = whole(stretch)
    if _is_empty(stretch.frames[0]) and _is_empty(stretch.frames[-1]) and as_it_is.jump < SEEN:
        return as_it_is
    goes_on = _goes_on(stretch.frames) and not jumps_somewhere(stretch.frames, 0, -1)
    if goes_on and as_it_is.jump <= CHOSEN_BELOW:
        return as_it_is
    apart_by = distances(stretch.frames)
    pair = _best_pair(stretch, apart_by)
    if goes_on and (pair is None or pair.seconds < NEARLY_ALL * as_it_is.seconds):
        return as_it_is
    if pair is not None:
        return pair
    fade, ghost = _best_fade(stretch, apart_by)
    why = "no two frames match"
    if ghost <= GHOST:
        return replace(fade, why=why)
    why += f", a fade would show two pictures at once on {ghost:.0%} of the area"
    is_camera = camera_share(stretch.frames) >= CAMERA
    one_way = 0.0 if is_camera else one_way_share(ways_of(stretch.frames))
    if one_way <= ONE_WAY:
        return replace(_forth_and_back(stretch), why=why)
    why += f", and {one_way:.0%} of the motion goes one way only"
    return replace(as_it_is, way=ONCE, why=why)


def _is_empty(frame: Field) -> bool:
    """Whether nothing is seen: clips that come out of black and go back into it are rounds."""
    return float(frame.std()) < EMPTY


def _goes_on(frames: Field) -> bool:
    """Whether all of it is a round already.

    Over the seam it moves about as far as beside it, and twice as far in two steps as there: so
    it neither jumps nor stops nor turns back.
    """
    usual = usual_step(frames)
    over = apart(frames[-1], frames[0])
    beside = [apart(frames[-2], frames[-1]), apart(frames[0], frames[1])]
    two_over = apart(frames[-2], frames[0]) + apart(frames[-1], frames[1])
    two_beside = apart(frames[-3], frames[-1]) + apart(frames[0], frames[2])
    off = max(0.0, abs(over - sum(beside) / 2) - abs(beside[0] - beside[1]) / 2)
    return over <= SEEN * usual and off + abs(two_over - two_beside) / 2 <= OFF * usual


def _best_pair(stretch: Reduced, apart_by: Field) -> Loop | None:
    """The first and last frame whose steps over the seam are most like the clip's own.

    From the last frame to the first it should be as far as to the one that followed it, to the
    second as far as to the next but one, and from the last but one as far as it was.
    """
    seconds = np.array(stretch.seconds)
    ends = np.append(seconds[1:], stretch.end)
    count, usual = len(seconds), usual_step(stretch.frames)
    one, two = np.diag(apart_by, 1), np.diag(apart_by, 2)
    lasts, firsts = slice(1, count - 2), slice(0, count - 2)
    cost = np.abs(apart_by[lasts, firsts] - one[1:-1, None])
    cost += np.abs(apart_by[lasts, 1 : count - 1] - two[1:, None])
    cost += np.abs(apart_by[0 : count - 3, firsts] - two[:-1, None])
    length = ends[lasts, None] - seconds[None, firsts]
    within = _mean_steps(one)[lasts, firsts]
    allowed = (
        (length >= _least_length(stretch) - 1e-6)
        & (apart_by[lasts, firsts] <= CHOSEN_BELOW * within)
        & (cost <= OFF * within)
    )
    if not allowed.any():
        return None
    # Of pairs that match alike the longer loop is the better one.
    cost = np.where(allowed, cost - LONGER * usual * length, np.inf)
    for place in np.argsort(cost, axis=None)[: min(MOST_PAIRS, int(allowed.sum()))]:
        last, first = (int(one) for one in np.unravel_index(int(place), cost.shape))
        if not jumps_somewhere(stretch.frames, first, last + 1):
            inside = usual_step(stretch.frames[first : last + 2])
            jump = float(apart_by[last + 1, first]) / inside
            if jump <= CHOSEN_BELOW:
                return Loop(stretch.seconds[first], float(ends[last + 1]), jump, way=PAIR)
    return None


def _mean_steps(steps: Field) -> Field:
    """The mean of the steps from each frame (columns) to each later one (rows)."""
    passed = np.concatenate([[0.0], np.cumsum(steps)])
    count = np.arange(len(passed))
    between = np.maximum(count[:, None] - count[None, :], 1)
    return np.asarray((passed[:, None] - passed[None, :]) / between, np.float32)


def _least_length(stretch: Reduced) -> float:
    return max(LEAST_SECONDS, LEAST_SHARE * (stretch.end - stretch.seconds[0]))


def _best_fade(stretch: Reduced, apart_by: Field) -> tuple[Loop, float]:
    """The fade in which what fades out is most like what fades in, and its double image.

    The images go together from ``count`` frames before the end on; what is mixed in comes just
    before the beginning, which is cut off there.
    """
    found = [_fade_of(stretch, apart_by, one) for one in FADE_SECONDS]
    return min(found, key=lambda one: (one[1] > GHOST, one[0].jump > SEEN, one[1]))


def _fade_of(stretch: Reduced, apart_by: Field, seconds: float) -> tuple[Loop, float]:
    total = len(stretch.seconds)
    count = max(1, min(round(seconds / stretch.step), total // 4))
    least = min(total, round(_least_length(stretch) / stretch.step) + count)
    best, cost, usual = (count, total), np.inf, usual_step(stretch.frames)
    for gap in range(max(1, least - count), total - count + 1):
        diagonal = apart_by.diagonal(gap)
        sums = np.convolve(diagonal, np.ones(count, np.float32), "valid") / count
        sums -= LONGER_FADED * usual * gap * stretch.step
        at = int(sums.argmin())
        if sums[at] < cost:
            best, cost = (at + count, at + count + gap), float(sums[at])
    first, end = best
    return _faded(stretch, first, end, count)


def _faded(stretch: Reduced, first: int, end: int, count: int) -> tuple[Loop, float]:
    frames, seconds = stretch.frames, stretch.seconds
    out, into = frames[end - count : end], frames[first - count : first]
    shares = fade_shares(count)
    last = out[-1] * (1 - shares[-1]) + into[-1] * shares[-1]
    jump = apart(last, frames[min(first, len(frames) - 1)]) / usual_step(frames)
    middle = count // 2
    ghost = doubled_share(out[middle], into[middle])
    closing = seconds[end] if end < len(seconds) else stretch.end
    fade = seconds[first] - seconds[first - count]
    return Loop(seconds[first], closing, jump, fade, way=FADED), ghost


def fade_shares(count: int) -> tuple[float, ...]:
    """How much of what fades in is seen in each frame: slowly at both ends, 0..1."""
    even = ((number + 1) / (count + 1) for number in range(count))
    return tuple(one * one * (3 - 2 * one) for one in even)


def _forth_and_back(stretch: Reduced) -> Loop:
    """Half of the stretch, to and fro: it turns where least moves."""
    frames, seconds = stretch.frames, stretch.seconds
    steps = steps_of(frames)
    total = len(seconds)
    length = max(3, total // 2 + 1)
    ends = [steps[at] + steps[min(at + length - 2, total - 2)] for at in range(total - length + 1)]
    first = int(np.argmin(ends))
    last = first + length
    jump = float(steps[first]) / usual_step(frames)
    closing = seconds[last] if last < total else stretch.end
    return Loop(seconds[first], closing, jump, way=BACK)
