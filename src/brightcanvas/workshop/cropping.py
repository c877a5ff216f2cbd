"""A single exact crop, without a brief."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.basics.errors import BriefError
from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.shapes import Rect, Size, Span
from brightcanvas.framing.compromise import Order, frame
from brightcanvas.framing.wishes import Wish
from brightcanvas.media.encode import encode
from brightcanvas.media.pictures import read_picture
from brightcanvas.media.survey import SourceFacts, survey
from brightcanvas.tone.resample import resize
from brightcanvas.weight.content import content_of
from brightcanvas.weight.formats import AVIF, JPEG, PNG, WEBP
from brightcanvas.workshop.files import write_whole

_BY_ENDING = {"jpg": JPEG, "jpeg": JPEG, "png": PNG, "webp": WEBP, "avif": AVIF}


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
    facts = survey(source, limit)
    if facts.kind.is_clip:
        raise BriefError(f"{source} is a clip: crop takes a picture.")
    if output:
        _check_output(output, source)
    picture = read_picture(source)
    wanted = subject.scaled(facts.size)
    wish = Wish(facts.size, Span(to.aspect, to.aspect), (wanted,))
    area = frame(Order(wish)).cut.area
    result = resize(picture, area, int(to.width), int(to.height))
    if output is None:
        ending = "png" if picture.has_alpha or content_of(picture).is_flat else "jpg"
        output = source.with_name(f"{source.stem}-{to.width:.0f}x{to.height:.0f}.{ending}")
        _check_output(output, source)
    content = encode(result, _encoding(output, has_alpha=result.has_alpha))
    write_whole(output, content)
    return Crop(
        output, len(content), area, facts, area.contains(wanted, 0.01), to.width / area.width
    )


def _check_output(output: Path, source: Path) -> None:
    if output.suffix.lower().lstrip(".") not in _BY_ENDING:
        raise BriefError(f"{output}: the ending must be .jpg, .png, .webp or .avif.")
    if output.exists():
        same = "is the source itself" if output.samefile(source) else "is there already"
        raise BriefError(f"{output} {same}: name another file with --output.")


def _encoding(output: Path, *, has_alpha: bool) -> Encoding:
    encoding = _BY_ENDING[output.suffix.lower().lstrip(".")]
    if has_alpha and encoding.format is FileFormat.JPEG:
        raise BriefError(f"{output}: JPEG can't hold transparency; use .png, .webp or .avif.")
    return encoding
