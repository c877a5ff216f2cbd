"""The lightest files of a picture, in every format that serves it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum

from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.codecs.avif import AVIF, FULL_AVIF
from brightcanvas.formats.codecs.codec import PictureCodec, RateCurve
from brightcanvas.formats.codecs.webp import WEBP
from brightcanvas.formats.encode import encode
from brightcanvas.quality.content import Content
from brightcanvas.quality.metric import Score
from brightcanvas.quality.near_lossless import nearly_same
from brightcanvas.quality.palette import colours_of, reduced
from brightcanvas.quality.search import (
    TOO_HIGH,
    TOO_LOW,
    Found,
    Study,
    best_of,
    foretold,
    lift_of,
    lightest,
    searched,
    wanted_quality,
)
from brightcanvas.values.picture_formats import Encoding, FileFormat
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
class Wanted:
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


def search(study: Study, content: Content, wanted: Wanted) -> tuple[Found, ...]:
    """The lightest files, newest first; formats that can't hold so many px give way."""
    held = tuple(one for one in wanted.formats if codec_of(one).holds(study.picture.size))
    is_photo = is_photograph(content)
    wanted = replace(wanted, formats=held or (FileFormat.AVIF if is_photo else FileFormat.PNG,))
    return tuple(_photographs(study, wanted)) if is_photo else drawn(study, content, wanted)


def is_photograph(content: Content) -> bool:
    """Whether lossy formats serve a picture best."""
    return not content.is_flat and not content.has_alpha


def _photographs(study: Study, wanted: Wanted) -> Iterator[Found]:
    for kind in wanted.formats:
        codec = codec_of(kind)
        if len(codec.curves) > 1:
            found = _lightest_of_several(study, codec.curves, wanted)
        else:
            found = _lightest_newer(study, codec, wanted)
        yield _with_more_colour(study, wanted.target, found)


def _lightest_newer(study: Study, codec: PictureCodec, wanted: Wanted) -> Found:
    [curve] = codec.curves
    lifts, is_hasty = dict(wanted.lifts), wanted.care is Care.LITTLE
    lift = lifts.get(curve.name, 0.0)
    if not (is_hasty and curve.name in lifts):  # else a trial would take as long as the file
        lift = foretold(study, curve, wanted.target, lift).lift
    if is_hasty and codec.hastens:
        curve = replace(curve, settings=replace(curve.settings, hasty=True))
    return lightest(study, curve, wanted.target, lift, wanted.care.value)


def _lightest_of_several(study: Study, curves: Sequence[RateCurve], wanted: Wanted) -> Found:
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


def drawn(study: Study, content: Content, wanted: Wanted) -> tuple[Found, ...]:
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
    study: Study, few: tuple[Raster, Score], content: Content, wanted: Wanted
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


def _lightest_webp(study: Study, exact: Found, wanted: Wanted, content: Content) -> Found:
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
