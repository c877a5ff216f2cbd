"""Which frames of a source a published clip shows, one after the other."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from brightcanvas.analysis.loops import Loop
from brightcanvas.formats.clips import ClipFacts, Codes
from brightcanvas.formats.moments import FrameReading, moments

MOST_RATE = 30.0
"""Frames a second: more is not missed behind copy."""

MOST_SIZE = (1280, 720)


@dataclass(frozen=True)
class Stretch:
    """Some frames in a row."""

    begin: float
    """Second of the first one."""
    frames: int
    under: float | None = None
    """Second from which frames are mixed in more and more, if any."""


@dataclass(frozen=True)
class ClipTiming:
    """All frames of a published clip."""

    stretches: tuple[Stretch, ...]
    rate: Fraction
    """Frames a second of the published clip."""
    step: float
    """Seconds of the source from one frame to the next."""

    @property
    def frames(self) -> int:
        """How many there are."""
        return sum(one.frames for one in self.stretches)

    @property
    def seconds(self) -> float:
        """How long it takes."""
        return float(self.frames / self.rate)

    def part(self, first: int, count: int) -> ClipTiming:
        """Some of its frames in a row; a fade that is cut through is left out."""
        stretches, at = [], 0
        for one in self.stretches:
            begin, end = max(first, at), min(first + count, at + one.frames)
            if begin < end:
                stretches.append(Stretch(one.begin + (begin - at) * self.step, end - begin))
            at += one.frames
        return ClipTiming(tuple(stretches), self.rate, self.step)


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
    rate = Fraction(min(float(facts.rate) * speed, most_rate)).limit_denominator(1001)
    step = speed / float(rate)
    frames = max(1, round((loop.end - loop.begin) / step))
    fade = min(round(loop.fade / step), frames - 1)
    plain = Stretch(loop.begin, frames - fade)
    stretches = [plain]
    if fade:
        under = loop.begin - fade * step
        stretches.append(Stretch(loop.begin + (frames - fade) * step, fade, max(0.0, under)))
    if begin_at is not None:
        stretches = _turned(stretches, begin_at, step)
    return ClipTiming(tuple(one for one in stretches if one.frames), rate, step)


def _turned(stretches: list[Stretch], begin_at: float, step: float) -> list[Stretch]:
    """A round that begins elsewhere: its first part comes last."""
    first = stretches[0]
    before = round((begin_at - first.begin) / step)
    if not 0 < before < first.frames:
        return stretches
    rest = Stretch(first.begin + before * step, first.frames - before)
    return [rest, *stretches[1:], Stretch(first.begin, before)]


def frames_of(path: Path, timing: ClipTiming, reading: FrameReading) -> Iterator[Codes]:
    """The frames of a timing; only as many are held as are being mixed."""
    for one in timing.stretches:
        frames = _at_steps(path, reading, one.begin, one.frames, timing.step)
        if one.under is None:
            yield from frames
        else:
            others = _at_steps(path, reading, one.under, one.frames, timing.step)
            for number, (out, into) in enumerate(zip(frames, others, strict=False)):
                yield _mixed(out, into, (number + 1) / (one.frames + 1))


def _mixed(out: Codes, into: Codes, share: float) -> Codes:
    mixed = out * np.float32(1 - share) + into * np.float32(share)
    return np.asarray(mixed + np.float32(0.5)).astype(np.uint8)


def _at_steps(
    path: Path, reading: FrameReading, begin: float, count: int, step: float
) -> Iterator[Codes]:
    """The frame that is shown at each of some seconds at even steps; the last one holds on."""
    asked = FrameReading(reading.size, reading.area, begin, planar=reading.planar)
    seconds = iter(begin + (number + 0.01) * step for number in range(count))
    shown: Codes | None = None
    wanted = next(seconds, None)
    for one in moments(path, asked):
        while wanted is not None and one.second > wanted and shown is not None:
            yield shown
            wanted = next(seconds, None)
        if wanted is None:
            return
        shown = one.pixels
    while wanted is not None and shown is not None:
        yield shown
        wanted = next(seconds, None)


def published_size(
    width: float, height: float, most: tuple[int, int] = MOST_SIZE
) -> tuple[int, int]:
    """The size in which a part of a source is published: even, never larger than it is.

    Args:
        width: of the part, px.
        height: of the part, px.
        most: width and height at most, px.
    """
    scale = min(1.0, most[0] / width, most[1] / height)
    even = (max(2, int(side * scale / 2 + 1e-6) * 2) for side in (width, height))
    return next(even), next(even)
