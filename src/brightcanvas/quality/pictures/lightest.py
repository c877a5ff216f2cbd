"""The lightest files of a picture, in every format that serves it."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum
from typing import Protocol, TypeVar

import numpy as np

from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.codecs.avif import AVIF, FULL_AVIF
from brightcanvas.formats.codecs.codec import PictureCodec, RateCurve
from brightcanvas.formats.codecs.webp import WEBP
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.quality.metric import Score
from brightcanvas.quality.pictures.content import Content
from brightcanvas.quality.pictures.palette import colours_of, reduced
from brightcanvas.quality.search import (
    TOO_HIGH,
    TOO_LOW,
    Found,
    Study,
    best_of,
    lift_of,
    lightest,
    predicted,
    searched,
    wanted_quality,
)
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster

PALETTES = (256, 128, 64, 32, 16, 8)
TINY = 4000
"""Bytes of a drawing below which nothing is gained by trying further formats."""

WORST_OF_FEW = 0.06
"""How far the worst region of a picture in few colours may lie below the target: what goes wrong
there is a colour that is missing, not a little noise."""

NEAR_BITS = (3, 2, 1)


class Care(Enum):
    """How near to its target a file is brought: how far above it its score may be."""

    MUCH = 0.003
    """About a step of a codec's quality."""
    USUAL = TOO_HIGH
    LITTLE = 0.015
    """Found sooner, and a little heavier: few people load it."""


@dataclass(frozen=True)
class PictureTarget:
    """What is asked of the files of a picture."""

    target: float
    """Least score as displayed."""
    formats: tuple[FileFormat, ...] = (FileFormat.AVIF, FileFormat.WEBP, FileFormat.JPEG)
    care: Care = Care.USUAL
    lifts: tuple[tuple[str, float], ...] = ()
    """Where the picture's curves are looked for first, by the names of curves. Of JPEG only the
    tables named here are tried, if any are."""
    shrink: float = 1.0
    """Share of the px across that a JPEG has (0..1]."""


def search(study: Study, content: Content, wanted: PictureTarget) -> tuple[Found, ...]:
    """The lightest files, newest first; formats that can't hold so many px give way."""
    held = tuple(one for one in wanted.formats if codec_of(one).holds(study.picture.size))
    is_photo = is_photograph(content)
    wanted = replace(wanted, formats=held or (FileFormat.AVIF if is_photo else FileFormat.PNG,))
    return tuple(_photographs(study, wanted)) if is_photo else drawn(study, content, wanted)


def is_photograph(content: Content) -> bool:
    """Whether lossy formats serve a picture best."""
    return not content.is_flat and not content.has_alpha


def _photographs(study: Study, wanted: PictureTarget) -> Iterator[Found]:
    for kind in wanted.formats:
        codec = codec_of(kind)
        if len(codec.curves) > 1:
            found = _lightest_of_several(study, codec.curves, wanted)
        else:
            found = _lightest_newer(study, codec, wanted)
        yield _with_more_colour(study, wanted.target, found)


def _lightest_newer(study: Study, codec: PictureCodec, wanted: PictureTarget) -> Found:
    [curve] = codec.curves
    lifts, is_hasty = dict(wanted.lifts), wanted.care is Care.LITTLE
    lift = lifts.get(curve.name, 0.0)
    if not (is_hasty and curve.name in lifts):  # else a trial would take as long as the file
        lift = predicted(study, curve, wanted.target, lift).lift
    if is_hasty and codec.hastens:
        curve = replace(curve, settings=replace(curve.settings, hasty=True))
    return lightest(study, curve, wanted.target, lift, wanted.care.value)


def _lightest_of_several(study: Study, curves: Sequence[RateCurve], wanted: PictureTarget) -> Found:
    """With fewer px where trials said so, unless the first file shows that it lacks them."""
    known = [(one, lift) for one in curves for name, lift in wanted.lifts if name == one.name]
    curve, lift = known[0] if known else best_of(curves, study, wanted.target)
    if wanted.shrink < 1:
        small = study.shrunk(wanted.shrink)
        first = small.made(curve.encoding(wanted_quality(curve, wanted.target, lift), draft=True))
        if lift_of(first, curve) < lift + LACKING:
            lift = lift_of(first, curve)
            return lightest(small, curve, wanted.target, lift, wanted.care.value)
    return lightest(study, curve, wanted.target, lift, wanted.care.value)


LACKING = 0.6
"""How much higher than it was foretold the curve of a file lies that lacks px."""


def _with_more_colour(study: Study, target: float, found: Found) -> Found:
    """With colour in every px, where a file falls short without: few px are seen large then."""
    if found.score.figure >= target + TOO_LOW or found.encoding.full_colour:
        return found
    fuller = codec_of(found.encoding.format).fuller
    if fuller is None:
        return found
    other = searched(study, fuller, target)
    return max(found, other, key=lambda one: one.score.figure)


def drawn(study: Study, content: Content, wanted: PictureTarget) -> tuple[Found, ...]:
    """The files of flat art, and of pictures with transparency, newest first.

    Where a lossless WebP is lighter than the AVIF, it takes its place.
    """
    few = _few_colours(study, wanted.target)
    found: list[Found] = []
    if FileFormat.AVIF in wanted.formats or FileFormat.WEBP in wanted.formats:
        found += _newer_drawn(study, few, content, wanted)
    if FileFormat.JPEG in wanted.formats or FileFormat.PNG in wanted.formats:
        # A JPEG can't hold what is drawn: a PNG takes its place.
        found.append(_lossless(study, few, Encoding(FileFormat.PNG, lossless=True)))
    return tuple(found)


def _newer_drawn(
    study: Study, few: tuple[Raster, Score], content: Content, wanted: PictureTarget
) -> list[Found]:
    newest = FULL_AVIF if content.is_flat else AVIF
    if not codec_of(FileFormat.WEBP).holds(study.picture.size):
        return [searched(study, newest, wanted.target)]
    exact = _lossless(study, few, Encoding(FileFormat.WEBP, lossless=True))
    if len(exact.content) <= TINY:
        return [exact]
    tried = []
    if FileFormat.AVIF in wanted.formats:
        tried.append(searched(study, newest, wanted.target))
    if FileFormat.WEBP in wanted.formats:
        return [*tried, _lightest_webp(study, exact, wanted, content)]
    return [min((*tried, exact), key=lambda one: len(one.content))]


def _few_colours(study: Study, target: float) -> tuple[Raster, Score]:
    """The picture in the fewest colours that reach the target; as it is where none do."""
    colours = colours_of(study.picture)
    best = study.picture, Score(1.0, 1.0)
    for count in PALETTES:
        if count >= len(colours.codes):
            continue
        picture = reduced(study.picture, count, colours)
        score = study.original.score(picture)
        if score.figure < target + TOO_LOW or score.worst < target - WORST_OF_FEW:
            break
        best = picture, score
    return best


def _lossless(study: Study, few: tuple[Raster, Score], encoding: Encoding) -> Found:
    """In few colours or in all of them, whichever is lighter."""
    picture, score = few
    found = Found(encoding, encode(picture, encoding), score)
    if picture is study.picture:
        return found
    exact = Found(encoding, encode(study.picture, encoding), Score(1.0, 1.0))
    return min(exact, found, key=lambda one: len(one.content))


def _lightest_webp(study: Study, exact: Found, wanted: PictureTarget, content: Content) -> Found:
    """Lossless as it was made already, nearly lossless, or lossy."""
    candidates = [exact, searched(study, WEBP, wanted.target)]
    for bits in NEAR_BITS if content.is_flat else ():
        picture = nearly_same(study.picture, bits)
        score = study.original.score(picture)
        if score.figure >= wanted.target + TOO_LOW:
            content_near = encode(picture, exact.encoding)
            candidates.append(Found(exact.encoding, content_near, score))
            break
    reaching = [one for one in candidates if one.score.figure >= wanted.target + TOO_LOW]
    return min(reaching, key=lambda one: len(one.content))


def nearly_same(picture: Raster, bits: int) -> Raster:
    """The picture with its lowest bits rounded away where neighbours differ anyway.

    Even areas and smooth slopes stay as they are: rounding would band them.

    Args:
        picture: any.
        bits: how many of the eight are given up.
    """
    pixels = picture.pixels.astype(np.int16)
    step = 1 << bits
    rough = np.zeros(pixels.shape[:2], bool)
    across = np.abs(np.diff(pixels, axis=1)).max(axis=2) >= step
    down = np.abs(np.diff(pixels, axis=0)).max(axis=2) >= step
    rough[:, 1:] |= across
    rough[:, :-1] |= across
    rough[1:] |= down
    rough[:-1] |= down
    rounded = np.clip((pixels + step // 2) // step * step, 0, 255)
    return Raster(np.where(rough[..., None], rounded, pixels).astype(np.uint8))


class Weighed(Protocol):
    """Anything with a weight in bytes."""

    @property
    def bytes(self) -> int:
        """Its weight."""


W = TypeVar("W", bound=Weighed)


def worth_keeping(newest_first: Sequence[W]) -> tuple[W, ...]:
    """Without the formats that came out no lighter than an older one.

    The oldest always stays: it is what every browser can show.
    """
    kept: list[W] = []
    for one in reversed(newest_first):
        if not kept or one.bytes < min(other.bytes for other in kept):
            kept.insert(0, one)
    return tuple(kept)


MOST_TRIALS = 7
NEAR = 0.97
"""A file that fills this much of its budget is not tried to be improved."""

GROWTH = 0.03
"""By how much the logarithm of the bytes rises with each step of quality, about."""


def best_within(study: Study, curve: RateCurve, budget: int) -> Found | None:
    """The file of the highest quality that is no larger than a budget.

    Args:
        study: of the picture.
        curve: of the format.
        budget: bytes.

    Returns:
        None where even the lowest quality is larger.
    """
    low, high = curve.qualities[0] - 1, curve.qualities[-1] + 1
    quality, best = float((low + high) // 2), None
    for _ in range(MOST_TRIALS):
        encoding = curve.encoding(min(max(quality, low + 1), high - 1))
        content = encode(study.picture, encoding)
        share = len(content) / budget
        if share <= 1:
            low, best = encoding.quality, (encoding, content)
        else:
            high = encoding.quality
        if high - low <= 1 or NEAR <= share <= 1:
            break
        quality = encoding.quality - math.log(share / math.sqrt(NEAR)) / GROWTH
        if not low < round(quality) < high:
            quality = (low + high) / 2
    if best is None:
        return None
    encoding, content = best
    return Found(encoding, content, study.original.score(decode(content)))
