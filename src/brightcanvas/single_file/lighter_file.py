"""Compressing single files, without a brief."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.codecs.webp import WEBP
from brightcanvas.formats.drawings.drawing_cleaning import cleaned
from brightcanvas.formats.kinds import FileKind
from brightcanvas.formats.loaded import Loaded, kind_of, load
from brightcanvas.formats.pictures.picture_reading import picture_of
from brightcanvas.formats.pictures.picture_writing import (
    bare,
    encode,
    encode_animation,
    frame_count,
    read_animation,
)
from brightcanvas.formats.survey import SourceFacts, survey_of
from brightcanvas.quality.metric import Score, Viewing
from brightcanvas.quality.pictures.content import Content, content_of
from brightcanvas.quality.pictures.lightest import PictureTarget, best_within, is_photograph, search
from brightcanvas.quality.search import Found, Study, searched
from brightcanvas.tasks.picture_tasks import WORTH
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.files import write_whole

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
    if kind_of(source).is_clip:
        raise BriefError(f"{source} is a clip: compress takes pictures and SVG drawings.")
    file = load(source)
    if file.kind.is_drawing:
        return [_compress_drawing(file, order)]
    facts = survey_of(file, order.limit)
    if frame_count(file) > 1:
        return [_compress_animation(file, order)]
    picture = picture_of(file)
    kind = content_of(picture)
    study = Study(picture, Viewing(order.density))
    formats = order.formats or (_own_format(facts.kind, kind),)
    return [_compress_as(facts, file, study, kind, one, order) for one in formats]


def _own_format(own: FileKind, kind: Content) -> FileFormat:
    return own.format or (FileFormat.PNG if kind.is_flat else FileFormat.WEBP)


def _compress_as(
    facts: SourceFacts,
    file: Loaded,
    study: Study,
    kind: Content,
    file_format: FileFormat,
    order: LighterOrder,
) -> Compressed:
    source, before = file.path, facts.bytes
    if file_format is FileFormat.JPEG and kind.has_alpha:
        file_format = FileFormat.PNG
    codec = codec_of(file_format)
    if not codec.holds(facts.size):
        told = f"can't be had as {file_format.label}: it holds {codec.longest} px on a side at most"
        return Compressed(source, None, before, before, None, None, told)
    curve = next(iter(codec.curves), None)
    if order.budget is not None and curve:
        found = best_within(study, curve, order.budget)
    else:
        found = _lightest(study, kind, file_format, order.target)
    if found is None or (order.budget is not None and len(found.content) > order.budget):
        told = f"can't be had as {file_format.label} in so few bytes: fewer px, or a newer format"
        return Compressed(source, None, before, before, None, None, told)
    same = file_format is file.kind.format
    worth = WORTH_EXACT if found.encoding.lossless else WORTH
    if same and len(found.content) > worth * before:
        return _left_alone(file, order)
    output = _written(file, file_format.ending, found.content, order)
    score = found.score
    told = _advice(facts, kind, file_format)
    return Compressed(source, output, before, len(found.content), score.figure, score.worst, told)


def _lightest(study: Study, kind: Content, file_format: FileFormat, target: float) -> Found:
    """The lightest file in exactly that format, though another one may serve better."""
    codec = codec_of(file_format)
    if not codec.curves and is_photograph(kind):  # few colours would be seen
        encoding = Encoding(file_format, lossless=True)
        return Found(encoding, encode(study.picture, encoding), Score(1.0, 1.0))
    if not codec.curves:
        kind = Content(kind.has_alpha, is_flat=True)
    elif file_format is FileFormat.JPEG:
        kind = Content(has_alpha=False, is_flat=False)
    found = search(study, kind, PictureTarget(target, (file_format,)))[0]
    if found.encoding.format is file_format:
        return found
    return searched(study, codec.fuller or codec.curves[0], target)


def _left_alone(file: Loaded, order: LighterOrder) -> Compressed:
    """Nothing is compressed again; only what is not shown may go."""
    source, before = file.path, len(file.content)
    content = bare(file)
    if content is None or len(content) >= before:
        return Compressed(source, None, before, before, 1.0, 1.0, "light enough: left alone")
    output = _written(file, source.suffix.lstrip("."), content, order)
    told = "light enough: only metadata taken out"
    return Compressed(source, output, before, len(content), 1.0, 1.0, told)


def _advice(facts: SourceFacts, kind: Content, file_format: FileFormat) -> str:
    if facts.pages > 1:
        return f"the first of its {facts.pages} pages"
    quality = facts.jpeg_quality
    if quality is not None and quality < WELL_KEPT:
        return f"was saved at a JPEG quality of about {quality} already: start from the original"
    if file_format is FileFormat.PNG and not kind.is_flat and not kind.has_alpha:
        return "a photograph: far lighter with --formats avif,webp,jpeg"
    if file_format is FileFormat.JPEG and kind.is_flat:
        return "flat art: sharper and often lighter with --formats webp,png"
    return ""


def _compress_drawing(file: Loaded, order: LighterOrder) -> Compressed:
    source, content = file.path, file.content
    clean = cleaned(content, file.name)
    if len(clean) >= len(content):
        told = "light enough: left alone"
        return Compressed(source, None, len(content), len(content), 1.0, 1.0, told)
    output = _written(file, "svg", clean, order)
    told = "the same drawing, cleaned"
    return Compressed(source, output, len(content), len(clean), 1.0, 1.0, told)


def _compress_animation(file: Loaded, order: LighterOrder) -> Compressed:
    """An animated WebP, its quality searched on the middle frame; the worst frame is told."""
    source, before = file.path, len(file.content)
    animation = read_animation(file, order.limit)
    if not codec_of(FileFormat.WEBP).holds(animation.frames[0].size):
        told = "too many px on a side for an animated WebP: left alone"
        return Compressed(source, None, before, before, 1.0, 1.0, told)
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
    output = _written(file, "webp", content, order)
    told = f"{len(animation.frames)} frames; a clip (MP4, WebM) would be lighter still"
    return Compressed(source, output, before, len(content), score, worst, told)


def _written(file: Loaded, ending: str, content: bytes, order: LighterOrder) -> Path:
    """Write a file that was made of a source; where it went."""
    output = _place(file.path, ending, order)
    if output.exists() and load(output).digest != file.digest:
        raise SourceError(f"{output}: it was changed while it was compressed, and is left alone.")
    write_whole(output, content)
    return output


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
