"""What would bring a clip into its budget at an acceptable score, each with the bytes it takes."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from brightcanvas.analysis.timing import ClipTiming
from brightcanvas.formats.clips.clip_codecs import clip_codec_of
from brightcanvas.formats.clips.clip_reading import Codes
from brightcanvas.formats.clips.clip_writing import Beat, srgb_of, write_clip
from brightcanvas.quality.clips.clip_order import ClipOrder
from brightcanvas.quality.clips.clip_study import FILLED, bounded, scores_of
from brightcanvas.quality.metric import Original
from brightcanvas.quality.search import log_distortion
from brightcanvas.values.file_formats import ClipEncoding
from brightcanvas.values.raster import Raster

STRETCH = 40
"""Frames on which offers are tried."""

SMALLER = (0.75, 0.5)
"""Shares of the px across that are tried."""

SOFTER = 2.0
"""CSS px of blur that are tried."""

MOST_TRIES = 4
NEAR = 0.01
"""Of the target, from which the curve tells the rest."""


@dataclass(frozen=True)
class ClipOffer:
    """One change, and what the clip would then weigh at an acceptable score."""

    change: str
    """``as it is``, ``size``, ``rate``, ``length`` or ``soften``."""
    value: float
    """Px across, frames a second, seconds, or CSS px of blur."""
    bytes: int
    """About, in the lightest format: foretold from a few frames."""


@dataclass(frozen=True)
class _Trial:
    """A changed clip, of which a stretch is tried."""

    order: ClipOrder
    look_of: ClipOrder
    """The order whose frames it is compared with."""

    def bytes_a_second(self, encoding: ClipEncoding) -> float | None:
        """At the quality that reaches the target; None where none does."""
        frames, seen = list(self.order.part(self._part)), list(self.look_of.part(self._part))
        numbers = (len(frames) // 3, len(frames) * 5 // 6)
        viewing = self.look_of.look.viewing
        originals = {number: Original(Raster(srgb_of(seen[number])), viewing) for number in numbers}
        found = self._at_target(encoding, frames, originals)
        return None if found is None else found * float(self.order.timing.rate) / len(frames)

    def bytes_now(self, encoding: ClipEncoding) -> float:
        """In one quality."""
        rate = self.order.timing.rate
        frames = list(self.order.part(self._part))
        content = write_clip(frames, self.order.look.size, Beat(rate), encoding)
        return len(content) * float(rate) / len(frames)

    @property
    def _part(self) -> ClipTiming:
        first = max(0, (self.order.timing.frames - STRETCH) // 2)
        return self.order.timing.part(first, STRETCH)

    def _at_target(
        self, encoding: ClipEncoding, frames: Sequence[Codes], originals: dict[int, Original]
    ) -> float | None:
        curve, target = clip_codec_of(encoding.format).curve, self.order.look.target
        quality = encoding.quality
        for _ in range(MOST_TRIES):
            tried = replace(encoding, quality=quality)
            beat = Beat(self.order.timing.rate)
            content = write_clip(frames, self.order.look.size, beat, tried)
            scores = scores_of(content, originals)
            score = sum(scores) / len(scores)
            steps = (log_distortion(target) - log_distortion(score)) / curve.slope
            if abs(score - target) <= NEAR:
                return len(content) * math.exp(-steps * curve.lightens)
            quality = bounded(quality + steps, curve)
        return None


def offers_for(order: ClipOrder, encoding: ClipEncoding, weight: int) -> tuple[ClipOffer, ...]:
    """What could be done, each with the bytes that it takes to reach the target.

    Args:
        order: with a budget in which its target wasn't reached.
        encoding: of the file that was made.
        weight: its bytes.
    """
    trial = _Trial(order, order)
    plain, now = trial.bytes_a_second(encoding), trial.bytes_now(encoding)
    if plain is None or not order.budget:
        return ()
    return tuple(_offers(order, encoding, weight * plain / now, plain))


def _offers(
    order: ClipOrder, encoding: ClipEncoding, needed: float, plain: float
) -> Iterator[ClipOffer]:
    yield ClipOffer("as it is", 0.0, round(needed))
    for name, value, trial in _changes(order):
        found = trial.bytes_a_second(encoding)
        if found is not None and found < plain:
            yield ClipOffer(name, value, round(needed * found / plain))
    share = FILLED * (order.budget or 0) / needed
    yield ClipOffer("length", round(order.timing.seconds * share, 1), round(needed * share))


def _changes(order: ClipOrder) -> Iterator[tuple[str, float, _Trial]]:
    look = order.look
    for share in SMALLER:
        width, height = (max(2, round(side * share / 2) * 2) for side in look.size)
        smaller = replace(order, look=replace(look, size=(width, height)))
        yield "size", float(width), _Trial(smaller, order)
    half = replace(order, timing=order.timing.sparser(2))
    yield "rate", round(float(half.timing.rate), 1), _Trial(half, half)
    if not look.tone.soften:
        tone = replace(look.tone, soften=SOFTER)
        softer = replace(order, look=replace(look, tone=tone, css_px=look.viewing.density))
        yield "soften", SOFTER, _Trial(softer, softer)
