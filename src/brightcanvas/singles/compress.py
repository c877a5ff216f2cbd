"""Compressing single files, without a brief."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.formats.animations import encode_animation, frame_count, read_animation
from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.codecs.webp import WEBP
from brightcanvas.formats.drawings import cleaned, is_drawing
from brightcanvas.formats.kinds import kind_of
from brightcanvas.formats.pictures import read_picture
from brightcanvas.formats.stripping import bare
from brightcanvas.formats.survey import survey
from brightcanvas.quality.content import Content, content_of
from brightcanvas.quality.lightest import Wanted, search
from brightcanvas.quality.metric import Viewing
from brightcanvas.quality.search import Study, searched
from brightcanvas.quality.within import best_within
from brightcanvas.tasks.pictures import WORTH
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import write_whole
from brightcanvas.values.picture_formats import FileFormat

WORTH_EXACT = 0.97
"""A file that would not get smaller than this share of itself is left alone."""

WELL_KEPT = 70
"""JPEG quality below which a source has visibly lost something before."""


@dataclass(frozen=True)
class LighterOrder:
    """What is asked of the files."""

    target: float
    budget: int | None
    """Bytes of each file; with it, the target is not used."""
    density: float
    formats: tuple[FileFormat, ...]
    """None: each file keeps its own."""
    into: Path | None
    """Folder; None: beside each file, under a name of its own."""
    replace: bool
    """Whether files take the place of their source."""
    limit: float
    """Most megapixels."""


@dataclass(frozen=True)
class Compressed:
    """One file that was made, or left alone."""

    source: Path
    output: Path | None
    """None: nothing was written, and ``told`` says why."""
    before: int
    after: int
    score: float | None
    worst: float | None
    told: str


def compress(source: Path, order: LighterOrder) -> list[Compressed]:
    """Make lighter files of one picture or drawing.

    Raises:
        BrightCanvasError: it can't be used, or something is in the way.
    """
    content = _read(source)
    if is_drawing(content):
        return [_compress_drawing(source, content, order)]
    facts = survey(source, order.limit)
    if facts.kind.is_clip:
        raise BriefError(f"{source} is a clip: compress takes pictures and SVG drawings.")
    if frame_count(source) > 1:
        return [_compress_animation(source, order)]
    picture = read_picture(source)
    kind = content_of(picture)
    study = Study(picture, Viewing(order.density))
    formats = order.formats or (_own_format(source, kind),)
    return [_compress_as(source, study, kind, one, order) for one in formats]


def _read(source: Path) -> bytes:
    kind_or_drawing = source.suffix.lower() == ".svg"
    if not kind_or_drawing:
        kind_of(source)
    try:
        return source.read_bytes()
    except OSError as error:
        raise BriefError(f"{source}: it can't be read ({error.strerror or error}).") from error


def _own_format(source: Path, kind: Content) -> FileFormat:
    own = kind_of(source).format
    return own or (FileFormat.PNG if kind.is_flat else FileFormat.WEBP)


def _compress_as(
    source: Path, study: Study, kind: Content, file_format: FileFormat, order: LighterOrder
) -> Compressed:
    if file_format is FileFormat.JPEG and kind.has_alpha:
        file_format = FileFormat.PNG
    before = source.stat().st_size
    curve = next(iter(codec_of(file_format).curves), None)
    if order.budget is not None and curve:
        found = best_within(study, curve, order.budget)
    else:
        shown = kind if curve else Content(kind.has_alpha, is_flat=True)
        found = search(study, shown, Wanted(order.target, (file_format,)))[0]
    if found is None or (order.budget is not None and len(found.content) > order.budget):
        told = f"can't be had as {file_format.label} in so few bytes: fewer px, or a newer format"
        return Compressed(source, None, before, before, None, None, told)
    same = file_format is kind_of(source).format
    worth = WORTH_EXACT if found.encoding.lossless else WORTH
    if same and len(found.content) > worth * before:
        return _left_alone(source, order, before)
    output = _place(source, file_format.ending, order)
    write_whole(output, found.content)
    score = found.score
    told = _advice(source, kind, file_format)
    return Compressed(source, output, before, len(found.content), score.figure, score.worst, told)


def _left_alone(source: Path, order: LighterOrder, before: int) -> Compressed:
    """Nothing is compressed again; only what is not shown may go."""
    content = bare(source)
    if content is None or len(content) >= before:
        return Compressed(source, None, before, before, 1.0, 1.0, "light enough: left alone")
    output = _place(source, source.suffix.lstrip("."), order)
    write_whole(output, content)
    told = "light enough: only metadata taken out"
    return Compressed(source, output, before, len(content), 1.0, 1.0, told)


def _advice(source: Path, kind: Content, file_format: FileFormat) -> str:
    quality = survey(source, math.inf).jpeg_quality
    if quality is not None and quality < WELL_KEPT:
        return f"was saved at a JPEG quality of about {quality} already: start from the original"
    if file_format is FileFormat.PNG and not kind.is_flat and not kind.has_alpha:
        return "a photograph: far lighter with --formats avif,webp,jpeg"
    if file_format is FileFormat.JPEG and kind.is_flat:
        return "flat art: sharper and often lighter with --formats webp,png"
    return ""


def _compress_drawing(source: Path, content: bytes, order: LighterOrder) -> Compressed:
    clean = cleaned(content, str(source))
    if len(clean) >= len(content):
        told = "light enough: left alone"
        return Compressed(source, None, len(content), len(content), 1.0, 1.0, told)
    output = _place(source, "svg", order)
    write_whole(output, clean)
    told = "the same drawing, cleaned"
    return Compressed(source, output, len(content), len(clean), 1.0, 1.0, told)


def _compress_animation(source: Path, order: LighterOrder) -> Compressed:
    """An animated WebP, its quality searched on the middle frame; the worst frame is told."""
    before = source.stat().st_size
    animation = read_animation(source)
    middle = animation.frames[len(animation.frames) // 2]
    study = Study(middle, Viewing(order.density))
    found = searched(study, WEBP, order.target)
    lossy = encode_animation(animation, found.encoding.quality, lossless=False)
    exact = encode_animation(animation, 80, lossless=True)
    content, score, worst = lossy, found.score.figure, found.score.worst
    if len(exact) < len(lossy):
        content, score, worst = exact, 1.0, 1.0
    if len(content) >= WORTH_EXACT * before:
        return Compressed(source, None, before, before, 1.0, 1.0, "light enough: left alone")
    output = _place(source, "webp", order)
    write_whole(output, content)
    told = f"{len(animation.frames)} frames; a clip (MP4, WebM) would be lighter still"
    return Compressed(source, output, before, len(content), score, worst, told)


def _place(source: Path, ending: str, order: LighterOrder) -> Path:
    """Where a file goes; nothing is overwritten unless that was asked for."""
    if order.into:
        output = order.into / f"{source.stem}.{ending}"
    elif order.replace:
        output = source.with_suffix(f".{ending}")
    else:
        output = source.with_name(f"{source.stem}-light.{ending}")
    is_source = output.exists() and output.samefile(source)
    if output.exists() and not (order.replace and is_source):
        what = "is the source itself" if is_source else "is there already"
        raise BriefError(f"{output} {what}: name another folder with --into, or move it away.")
    return output
