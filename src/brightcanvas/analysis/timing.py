"""Which frames of a source a published clip shows, one after the other, and when."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from brightcanvas.analysis.loops import BACK, Loop, fade_shares
from brightcanvas.formats.clips.clip_reading import ClipFacts, Codes
from brightcanvas.formats.clips.moments import FrameReading, moments

MOST_RATE = 30.0
"""Frames a second: more is not missed behind copy."""

MOST_SIZE = (1280, 720)
"""Px of the longer and of the shorter side, as it is shown."""

CLOSEST = 0.6
"""Of the usual time between frames: those of an uneven clip may come closer than at a steady
rate, but not as close as every frame of one that is twice as fast."""

HELD = 24
"""Frames that are held at once where a clip is played backwards."""


@dataclass(frozen=True)
class Run:
    """Some frames in a row, forth or back."""

    seconds: tuple[float, ...]
    """Of the source, one for each frame."""
    under: tuple[float, ...] = ()
    """Seconds of the frames that are mixed in more and more, if any."""
    shares: tuple[float, ...] = ()
    """How much of them is seen in each frame, 0..1."""

    def part(self, first: int, end: int, every: int = 1) -> Run:
        """Each frame of ``every`` many, from the index ``first`` up to, not including, ``end``."""
        taken = slice(first, end, every)
        return Run(self.seconds[taken], self.under[taken], self.shares[taken])


@dataclass(frozen=True)
class ClipTiming:
    """All frames of a published clip."""

    runs: tuple[Run, ...]
    rate: Fraction
    """Frames a second of the published clip; in the mean where it has stamps."""
    stamps: tuple[int, ...] = ()
    """Thousandths of a second at which frames are shown, and at which the last one ends; empty:
    the rate is steady."""

    @property
    def frames(self) -> int:
        """How many there are."""
        return sum(len(one.seconds) for one in self.runs)

    @property
    def seconds(self) -> float:
        """How long it takes."""
        return self.stamps[-1] / 1000 if self.stamps else float(self.frames / self.rate)

    def part(self, first: int, count: int) -> ClipTiming:
        """Some of its frames in a row, at an even rate."""
        runs, at = list[Run](), 0
        for one in self.runs:
            begin, end = max(first - at, 0), max(first + count - at, 0)
            runs.append(one.part(begin, end))
            at += len(one.seconds)
        return ClipTiming(tuple(one for one in runs if one.seconds), self.rate)

    def in_source(self, begin: float, end: float) -> tuple[float, float] | None:
        """The seconds of the source of a stretch of it; None where that isn't one going forth.

        Args:
            begin: second of the published clip, of a second round too.
            end: second of it.
        """
        if begin >= self.seconds:
            begin, end = begin - self.seconds, end - self.seconds
        rate = self.frames / self.seconds
        first, last = (int(one * rate + 1e-6) for one in (begin, end))
        runs = self.part(first, last - first + 1).runs
        seconds = runs[0].seconds if len(runs) == 1 and not runs[0].under else ()
        if last >= self.frames or len(seconds) < 2 or seconds[0] > seconds[-1]:
            return None
        return seconds[0], seconds[-1]

    def sparser(self, every: int) -> ClipTiming:
        """With one of every few frames, as long."""
        kept = tuple(one.part(0, len(one.seconds), every) for one in self.runs)
        stamps = (*self.stamps[:-1:every], self.stamps[-1]) if self.stamps else ()
        return ClipTiming(kept, self.rate / every, stamps)


def timing_of(
    loop: Loop,
    facts: ClipFacts,
    speed: float = 1.0,
    most_rate: float = MOST_RATE,
    begin_at: float | None = None,
) -> ClipTiming:
    """The timing of a loop, or of a clip that is played once.

    Args:
        loop: what is shown.
        facts: of the source.
        speed: 2 plays it twice as fast; frames are shown longer or shorter, or left out.
        most_rate: frames a second, at most.
        begin_at: second of the source with which it begins, if that lies within.
    """
    if loop.stamps:
        return _uneven(loop, speed, most_rate)
    rate = Fraction(min(float(facts.rate) * speed, most_rate)).limit_denominator(1001)
    step = speed / float(rate)
    frames = max(1, round((loop.end - loop.begin) / step))
    fade = min(round(loop.fade / step), frames - 1)
    plain = Run(_evenly(loop.begin, frames - fade, step))
    runs = [plain]
    if fade:
        under = _evenly(max(0.0, loop.begin - fade * step), fade, step)
        fading = _evenly(loop.begin + (frames - fade) * step, fade, step)
        runs.append(Run(fading, under, fade_shares(fade)))
    if loop.way == BACK:
        runs.append(Run(plain.seconds[-2:0:-1]))
    elif begin_at is not None and loop.is_round:
        runs = _turned(runs, begin_at, step)
    return ClipTiming(tuple(one for one in runs if one.seconds), rate)


def _evenly(begin: float, count: int, step: float) -> tuple[float, ...]:
    """A little after each step, so that the frame which begins there is the one that is meant."""
    return tuple(begin + (number + 0.01) * step for number in range(count))


def _turned(runs: list[Run], begin_at: float, step: float) -> list[Run]:
    """A round that begins elsewhere: its first part comes last."""
    seconds = runs[0].seconds
    before = round((begin_at - seconds[0]) / step)
    if not 0 < before < len(seconds):
        return runs
    return [Run(seconds[before:]), *runs[1:], Run(seconds[:before])]


def _uneven(loop: Loop, speed: float, most_rate: float) -> ClipTiming:
    """With the source's own time stamps; frames that come faster than allowed are left out."""
    least = speed / most_rate * CLOSEST
    kept: list[float] = []
    for second in loop.stamps:
        if not kept or second - kept[-1] >= least:
            kept.append(second)
    before = [one for one in kept if one < loop.begin - 1e-6]
    shown = [one for one in kept if one >= loop.begin - 1e-6]
    lengths = np.diff([*shown, loop.end]) / speed
    fade = len(before)
    runs = [Run(_just_after(shown[: len(shown) - fade]))]
    if fade:
        fading = _just_after(shown[len(shown) - fade :])
        runs.append(Run(fading, _just_after(before), fade_shares(fade)))
    if loop.way == BACK:
        runs.append(Run(_just_after(shown[-2:0:-1])))
        lengths = np.concatenate([lengths, lengths[-2:0:-1]])
    stamps = np.round(np.concatenate([[0.0], np.cumsum(lengths)]) * 1000).astype(int)
    rate = Fraction(len(lengths) / float(lengths.sum())).limit_denominator(1001)
    whole = tuple(one for one in runs if one.seconds)
    return ClipTiming(whole, rate, tuple(int(one) for one in stamps))


def _just_after(seconds: Sequence[float]) -> tuple[float, ...]:
    return tuple(one + 1e-4 for one in seconds)


def frames_of(path: Path, timing: ClipTiming, reading: FrameReading) -> Iterator[Codes]:
    """The frames of a timing; only a few are held at once."""
    for run in timing.runs:
        frames = _at(path, reading, run.seconds)
        if not run.under:
            yield from frames
        else:
            others = _at(path, reading, run.under)
            for out, into, share in zip(frames, others, run.shares, strict=False):
                yield _mixed(out, into, share)


def _mixed(out: Codes, into: Codes, share: float) -> Codes:
    mixed = out * np.float32(1 - share) + into * np.float32(share)
    return np.asarray(mixed + np.float32(0.5)).astype(np.uint8)


def _at(path: Path, reading: FrameReading, seconds: Sequence[float]) -> Iterator[Codes]:
    """The frame that is shown at each of some seconds, which go up or down."""
    if len(seconds) < 2 or seconds[0] <= seconds[-1]:
        yield from _forth(path, reading, seconds)
        return
    for begin in range(0, len(seconds), HELD):
        part = seconds[begin : begin + HELD]
        yield from reversed(list(_forth(path, reading, part[::-1])))


def _forth(path: Path, reading: FrameReading, seconds: Sequence[float]) -> Iterator[Codes]:
    """The frame that is shown at each of some seconds in their order; the last one holds on."""
    asked = FrameReading(reading.size, reading.area, max(0.0, seconds[0]), kind=reading.kind)
    left = iter(seconds)
    shown: Codes | None = None
    wanted = next(left, None)
    for one in moments(path, asked):
        while wanted is not None and one.second > wanted and shown is not None:
            yield shown
            wanted = next(left, None)
        if wanted is None:
            return
        shown = one.pixels
    while wanted is not None and shown is not None:
        yield shown
        wanted = next(left, None)


def published_size(
    width: float, height: float, most: tuple[int, int] = MOST_SIZE
) -> tuple[int, int]:
    """The size in which a part of a source is published: even, never larger than it is.

    Args:
        width: of the part, px.
        height: of the part, px.
        most: px of the longer and of the shorter side at most, however it is held.
    """
    longer, shorter = max(most), min(most)
    scale = min(1.0, longer / max(width, height), shorter / min(width, height))
    even = (max(2, int(side * scale / 2 + 1e-6) * 2) for side in (width, height))
    return next(even), next(even)
