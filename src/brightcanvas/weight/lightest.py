"""The lightest files of a rung, in every format that serves it.

One rung of a cut is searched; it guides the others. How much further a codec's curve lies from
the guide's follows from one trial on the same mosaic, and from what the quicker codecs' files
of the rung have shown already: JPEG first, then WebP, then AVIF, whose files take longest, so
that they are made once.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.raster import Raster
from brightcanvas.media.encode import encode
from brightcanvas.weight.content import Content
from brightcanvas.weight.ladders import AVIF, EVEN_JPEG, FULL_AVIF, JPEGS, WEBP, Ladder
from brightcanvas.weight.likeness import Score
from brightcanvas.weight.mosaic import Mosaic, Picked
from brightcanvas.weight.nearly import nearly_same
from brightcanvas.weight.palette import colours_of, reduced
from brightcanvas.weight.search import (
    TOO_LOW,
    Found,
    Study,
    lift_of,
    lightest,
    trial_lift,
    tried_out,
    wanted_quality,
)

DENSITY_MOVE = -1.0
"""How much higher a curve lies where the picture is seen twice as densely, about."""

EVIDENCE: Mapping[FileFormat, Mapping[str, float]] = {
    FileFormat.JPEG: {"mosaic": 0.95},
    FileFormat.WEBP: {"JPEG": 1.15},
    FileFormat.AVIF: {"mosaic": 0.2, "JPEG": 0.4, "WebP": 0.55},
}
"""How much a trial on the mosaic, the density at which the rung is seen, and its files in other
formats count for a format's move; fitted over the rungs of photographs."""

PALETTES = (256, 128, 64, 32, 16, 8)
TINY = 4000
"""Bytes of a drawing below which nothing is gained by trying further formats."""

WORST_OF_FEW = 0.06
"""How far the worst region of a picture in few colours may lie below the target: what goes wrong
there is a colour that is missing, not a little noise."""

NEAR_BITS = (3, 2, 1)


@dataclass(frozen=True)
class Known:
    """What the guide knows of one codec."""

    lift: float
    trial_lift: float | None = None
    """Of a trial on its mosaic; None where it has none."""


@dataclass(frozen=True)
class Guide:
    """What a searched rung tells the others of its cut."""

    density: float
    picked: Picked | None
    known: Mapping[str, Known]
    """By the name of the ladder; only those that were used."""


@dataclass(frozen=True)
class Wanted:
    """What is asked of the files of a rung."""

    target: float
    """Least score as displayed."""
    formats: tuple[FileFormat, ...] = (FileFormat.AVIF, FileFormat.WEBP, FileFormat.JPEG)


def search(study: Study, content: Content, wanted: Wanted) -> tuple[tuple[Found, ...], Guide]:
    """The files of a rung that is searched on its own, newest first, and what it tells others."""
    if not _is_photograph(content):
        return drawn(study, content, wanted), Guide(study.viewing.density, None, {})
    picked = study.picked()
    mosaic = study.mosaic(picked)
    found: list[Found] = []
    known: dict[str, Known] = {}
    for ladder, lift in _ladders(study, mosaic, wanted):
        one = lightest(study, ladder, wanted.target, lift)
        on_mosaic = trial_lift(study, mosaic, ladder, one.encoding.quality) if mosaic else None
        known[ladder.name] = Known(lift_of(one, ladder), on_mosaic)
        found.insert(0, one)
    return tuple(found), Guide(study.viewing.density, picked, known)


def follow(study: Study, content: Content, wanted: Wanted, guide: Guide) -> tuple[Found, ...]:
    """The files of a rung beside one that was searched, newest first."""
    if not _is_photograph(content):
        return drawn(study, content, wanted)
    mosaic = study.mosaic(guide.picked)
    away = DENSITY_MOVE * math.log2(study.viewing.density / guide.density)
    found: list[Found] = []
    moves: dict[str, float] = {}
    for ladder in _guided(guide):
        known, kind = guide.known[ladder.name], ladder.settings.format
        evidence = {"density": away, **moves}
        if mosaic and known.trial_lift is not None and "mosaic" in EVIDENCE[kind]:
            quality = wanted_quality(ladder, wanted.target, known.lift + away)
            evidence["mosaic"] = trial_lift(study, mosaic, ladder, quality) - known.trial_lift
        one = lightest(
            study, ladder, wanted.target, known.lift + _move(EVIDENCE[kind], evidence, away)
        )
        moves[kind.label] = lift_of(one, ladder) - known.lift
        found.insert(0, one)
    return tuple(found)


def _move(weights: Mapping[str, float], evidence: Mapping[str, float], otherwise: float) -> float:
    """The evidence that there is, weighted; what is missing is taken to say the same."""
    there = {name: weight for name, weight in weights.items() if name in evidence}
    if not there:
        return otherwise
    told = sum(weight * evidence[name] for name, weight in there.items())
    return told * sum(weights.values()) / sum(there.values())


def _is_photograph(content: Content) -> bool:
    return not content.is_flat and not content.has_alpha


def _ladders(study: Study, mosaic: Mosaic | None, wanted: Wanted) -> list[tuple[Ladder, float]]:
    """Those of a photograph, the quickest first, each with its curve's lift by trials."""
    target = wanted.target
    ladders: list[tuple[Ladder, float]] = []
    if FileFormat.JPEG in wanted.formats:
        ladders.append(_best_jpeg(study, mosaic, target))
    others = [one for one in (WEBP, AVIF) if one.settings.format in wanted.formats]
    near = study.scouted_lift()
    return ladders + [(one, tried_out(study, mosaic, one, target, near)) for one in others]


def _guided(guide: Guide) -> list[Ladder]:
    return [one for one in (*JPEGS, WEBP, AVIF) if one.name in guide.known]


def _best_jpeg(study: Study, mosaic: Mosaic | None, target: float) -> tuple[Ladder, float]:
    """The tables and the sampling of colour with which the mosaic is lightest at the target.

    How high the curve lies the scout tells better, which was the whole picture.
    """
    near = study.scouted_lift()
    lifts = {ladder: tried_out(study, mosaic, ladder, target, near) for ladder in JPEGS}

    def weight(ladder: Ladder) -> int:
        quality = wanted_quality(ladder, target, lifts[ladder])
        picture = mosaic.picture if mosaic else study.picture
        return len(encode(picture, ladder.encoding(quality)))

    best = min(JPEGS, key=weight)
    off = near - lifts[EVEN_JPEG] if mosaic else 0.0
    return best, lifts[best] + off


def drawn(study: Study, content: Content, wanted: Wanted) -> tuple[Found, ...]:
    """The files of flat art, and of pictures with transparency, newest first."""
    few = _few_colours(study, wanted.target)
    exact = _lossless(study, few, Encoding(FileFormat.WEBP, lossless=True))
    is_tiny = len(exact.content) <= TINY
    found: list[Found] = []
    for kind in _drawn_formats(wanted):
        if kind is FileFormat.PNG:
            found.append(_lossless(study, few, Encoding(FileFormat.PNG, lossless=True)))
        elif kind is FileFormat.WEBP:
            found.append(exact if is_tiny else _lightest_webp(study, exact, wanted, content))
        elif not is_tiny or FileFormat.WEBP not in wanted.formats:
            found.append(_searched(study, FULL_AVIF if content.is_flat else AVIF, wanted))
    return tuple(found)


def _drawn_formats(wanted: Wanted) -> tuple[FileFormat, ...]:
    """A JPEG can't hold what is drawn: a PNG takes its place."""
    stand_in = {FileFormat.JPEG: FileFormat.PNG}
    return tuple(stand_in.get(one, one) for one in wanted.formats)


def _searched(study: Study, ladder: Ladder, wanted: Wanted) -> Found:
    mosaic = study.mosaic(study.picked())
    lift = tried_out(study, mosaic, ladder, wanted.target)
    return lightest(study, ladder, wanted.target, lift)


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
    candidates = [exact, _searched(study, WEBP, wanted)]
    for bits in NEAR_BITS if content.is_flat else ():
        picture = nearly_same(study.picture, bits)
        score = study.original.score(picture)
        if score.figure >= wanted.target + TOO_LOW:
            content_near = encode(picture, exact.encoding)
            candidates.append(Found(exact.encoding, content_near, score))
            break
    reaching = [one for one in candidates if one.score.figure >= wanted.target + TOO_LOW]
    return min(reaching, key=lambda one: len(one.content))
