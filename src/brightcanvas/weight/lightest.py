"""The lightest files of a picture, in every format that serves it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.raster import Raster
from brightcanvas.media.encode import encode
from brightcanvas.weight.content import Content
from brightcanvas.weight.ladders import AVIF, FULL_AVIF, FULL_JPEG, JPEGS, WEBP, Ladder
from brightcanvas.weight.likeness import Score
from brightcanvas.weight.nearly import nearly_same
from brightcanvas.weight.palette import colours_of, reduced
from brightcanvas.weight.search import (
    TOO_HIGH,
    TOO_LOW,
    Found,
    Study,
    best_jpeg,
    foretold,
    lightest,
    searched,
)

PALETTES = (256, 128, 64, 32, 16, 8)
TINY = 4000
"""Bytes of a drawing below which nothing is gained by trying further formats."""

WORST_OF_FEW = 0.06
"""How far the worst region of a picture in few colours may lie below the target: what goes wrong
there is a colour that is missing, not a little noise."""

NEAR_BITS = (3, 2, 1)


@dataclass(frozen=True)
class Wanted:
    """What is asked of the files of a picture."""

    target: float
    """Least score as displayed."""
    formats: tuple[FileFormat, ...] = (FileFormat.AVIF, FileFormat.WEBP, FileFormat.JPEG)
    is_rare: bool = False
    """Whether few people load it: then one found sooner, a little heavier, will do."""
    lifts: tuple[tuple[str, float], ...] = ()
    """Where the picture's curves are looked for first, by the names of ladders. Of JPEG only the
    tables named here are tried, if any are."""
    shrink: float = 1.0
    """Share of the px across that files have (0..1]."""


def search(study: Study, content: Content, wanted: Wanted) -> tuple[Found, ...]:
    """The lightest files, newest first."""
    if not is_photograph(content):
        return drawn(study, content, wanted)
    return tuple(_photographs(study, wanted))


def is_photograph(content: Content) -> bool:
    """Whether lossy formats serve a picture best."""
    return not content.is_flat and not content.has_alpha


def _photographs(study: Study, wanted: Wanted) -> Iterator[Found]:
    lifts = dict(wanted.lifts)
    small = study.shrunk(wanted.shrink)
    for kind in wanted.formats:
        found = _lightest_in(small, kind, wanted, lifts)
        yield _with_more_colour(study, wanted.target, found)


def _lightest_in(
    study: Study, kind: FileFormat, wanted: Wanted, lifts: Mapping[str, float]
) -> Found:
    known = next((one for one in LADDERS if _is(one, kind) and one.name in lifts), None)
    if kind is FileFormat.JPEG:
        ladder, lift = (known, lifts[known.name]) if known else best_jpeg(study, wanted.target)
    else:
        ladder = known or next(one for one in LADDERS if _is(one, kind))
        lift = lifts.get(ladder.name, 0.0)
        if not (known and wanted.is_rare):  # else a trial would take as long as the file
            lift = foretold(study, ladder, wanted.target, lift).lift
    if kind is FileFormat.AVIF and wanted.is_rare:
        ladder = _hasty(ladder)
    return lightest(study, ladder, wanted.target, lift, SEEN_BY_FEW if wanted.is_rare else TOO_HIGH)


LADDERS = (AVIF, WEBP, *JPEGS)


def _is(ladder: Ladder, kind: FileFormat) -> bool:
    return ladder.settings.format is kind


def _with_more_colour(study: Study, target: float, found: Found) -> Found:
    """With colour in every px, where a file falls short without: few px are seen large then."""
    if found.score.figure >= target + TOO_LOW or found.encoding.full_colour:
        return found
    fuller = {FileFormat.AVIF: FULL_AVIF, FileFormat.JPEG: FULL_JPEG}.get(found.encoding.format)
    if fuller is None:
        return found
    other = searched(study, fuller, target)
    return max(found, other, key=lambda one: one.score.figure)


SEEN_BY_FEW = 0.015
"""How far above its target the score of a file may be that few people load."""


def _hasty(ladder: Ladder) -> Ladder:
    return replace(ladder, settings=replace(ladder.settings, hasty=True))


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
    exact = _lossless(study, few, Encoding(FileFormat.WEBP, lossless=True))
    if len(exact.content) <= TINY:
        return [exact]
    tried = []
    if FileFormat.AVIF in wanted.formats:
        tried.append(searched(study, FULL_AVIF if content.is_flat else AVIF, wanted.target))
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
