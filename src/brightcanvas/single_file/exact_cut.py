"""A single exact crop, without a brief."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.colour.resample import resize
from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.loaded import kind_of
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.formats.survey import SourceFacts, read_source
from brightcanvas.framing.compromise import CutOrder, frame
from brightcanvas.framing.wishes import CutWish
from brightcanvas.quality.metric import Viewing
from brightcanvas.quality.pictures.content import Content, content_of
from brightcanvas.quality.pictures.lightest import PictureTarget, is_photograph, search
from brightcanvas.quality.search import Study
from brightcanvas.values.errors import BriefError
from brightcanvas.values.file_formats import WRITTEN, Encoding, FileFormat, format_of_ending
from brightcanvas.values.files import write_whole
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.raster import Raster
from brightcanvas.values.targets import DEFAULT_LEVEL, LEVELS


@dataclass(frozen=True)
class Crop:
    """What a crop came to."""

    file: Path
    bytes: int
    area: Rect
    """What was taken of the source, in source px."""
    facts: SourceFacts
    subject_in_view: bool
    enlarged: float
    """How many times a source pixel is stretched; at most 1 where the source is large enough."""


def crop(source: Path, to: Size, subject: Rect, output: Path | None, limit: float) -> Crop:
    """Cut the largest part of a picture that has the wanted shape, round the subject.

    Args:
        source: of the picture.
        to: exact size of the result in px.
        subject: what must stay in view, in fractions of the source.
        output: where to write; None makes a name beside the source.
        limit: most megapixels of the source.

    Raises:
        BrightCanvasError: the source can't be used, or the output is in the way.
    """
    if kind_of(source).is_clip:
        raise BriefError(f"{source} is a clip: crop takes a picture.")
    if output:
        check_output(output, source)
    facts, picture = read_source(source, limit)
    wanted = subject.scaled(facts.size)
    wish = CutWish(facts.size, Span(to.aspect, to.aspect), (wanted,))
    area = frame(CutOrder(wish)).cut.area
    result = resize(picture, area, int(to.width), int(to.height))
    if output is None:
        ending = "png" if picture.has_alpha or content_of(picture).is_flat else "jpg"
        output = source.with_name(f"{source.stem}-{to.width:.0f}x{to.height:.0f}.{ending}")
        check_output(output, source)
    content = lightest_file(result, format_of(output, to, has_alpha=result.has_alpha))
    write_whole(output, content)
    return Crop(
        output, len(content), area, facts, area.contains(wanted, 0.01), to.width / area.width
    )


def check_output(output: Path, source: Path) -> None:
    """Refuse a file name that says no format, or that is taken.

    Raises:
        BriefError: saying which of both.
    """
    _format_named(output)
    if output.exists():
        same = "is the source itself" if output.samefile(source) else "is there already"
        raise BriefError(f"{output} {same}: name another file with --output.")


def lightest_file(picture: Raster, file_format: FileFormat) -> bytes:
    """The lightest file of a picture that looks like it; a photograph as PNG is exact."""
    wanted = PictureTarget(LEVELS[DEFAULT_LEVEL], (file_format,))
    kind = content_of(picture)
    if file_format is FileFormat.PNG and is_photograph(kind):
        return encode(picture, Encoding(FileFormat.PNG, lossless=True))
    if file_format is FileFormat.PNG:
        kind = Content(kind.has_alpha, is_flat=True)
    elif file_format is FileFormat.JPEG:
        kind = Content(has_alpha=False, is_flat=False)
    return search(Study(picture, Viewing()), kind, wanted)[0].content


def format_of(output: Path, size: Size, *, has_alpha: bool) -> FileFormat:
    """The format that a file's name says.

    Raises:
        BriefError: it says none, or one that can't hold what is transparent, or so many px.
    """
    file_format = _format_named(output)
    codec = codec_of(file_format)
    if not codec.holds(size):
        raise BriefError(
            f"{output}: {file_format.label} holds {codec.longest} px on a side at most; use .avif"
            " or .png."
        )
    if has_alpha and file_format is FileFormat.JPEG:
        raise BriefError(f"{output}: JPEG can't hold transparency; use .png, .webp or .avif.")
    return file_format


def _format_named(output: Path) -> FileFormat:
    found = format_of_ending(output.suffix.lstrip("."))
    if found is None:
        *most, last = (f".{one.ending}" for one in WRITTEN)
        raise BriefError(f"{output}: the ending must be {', '.join(most)} or {last}.")
    return found
