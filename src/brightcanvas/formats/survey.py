"""Facts of a source, read from its head without decoding its pixels."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.formats import drawing_cuts, pictures
from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.kinds import Kind
from brightcanvas.formats.loaded import Loaded, kind_of, load
from brightcanvas.formats.unchanged import check_unchanged, file_digest, moment_of
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.limits import LARGEST_SOURCE

LEAST_CLIP = 16
"""Px of a clip's side: encoders take no less than a block."""

LONGEST_SIDE = 65_500
"""Pixels. No format that is written here holds more on one side."""


@dataclass(frozen=True)
class SourceFacts:
    """What a source is, before anything is decoded."""

    path: Path
    kind: Kind
    size: Size
    """Upright, in px; of a drawing as it counts, see ``drawing_cuts``."""
    has_alpha: bool
    bytes: int
    digest: str
    """SHA-256 of the file, in hex."""
    jpeg_quality: int | None = None
    """How it was last compressed, estimated; JPEG only."""
    seconds: float | None = None
    """Length of a clip."""


def survey(path: Path, limit: float = LARGEST_SOURCE) -> SourceFacts:
    """Look at a source.

    Args:
        path: of the picture, drawing or clip.
        limit: most megapixels that are accepted.

    Raises:
        SourceError: it can't be used; the message says why.
    """
    kind = kind_of(path)
    return _survey_clip(path, kind, limit) if kind.is_clip else survey_of(load(path), limit)


def survey_of(file: Loaded, limit: float = LARGEST_SOURCE) -> SourceFacts:
    """Look at a picture or a drawing, see ``survey``."""
    kind, read_head = file.kind, pictures.read_head
    head = (drawing_cuts.read_drawing_head if kind.is_drawing else read_head)(file)
    _check_size(file.name, head.size, limit)
    if kind.format and not codec_of(kind.format).is_whole(file.content):
        raise SourceError(
            f"{file.name}: the file is damaged or cut short: its end is missing."
            " Save or upload it again."
        )
    return SourceFacts(
        path=file.path,
        kind=kind,
        size=head.size,
        has_alpha=head.has_alpha,
        bytes=len(file.content),
        digest=file.digest,
        jpeg_quality=head.jpeg_quality,
    )


def _survey_clip(path: Path, kind: Kind, limit: float) -> SourceFacts:
    from brightcanvas.formats.clips import read_head

    moment = moment_of(path)
    digest = file_digest(path)
    head = read_head(path)
    _check_size(str(path), head.size, limit)
    if min(head.size.width, head.size.height) < LEAST_CLIP:
        raise SourceError(f"{path}: {head.size} px are no clip for a page.")
    check_unchanged(path, moment, digest)
    return SourceFacts(
        path, kind, head.size, head.has_alpha, moment.bytes, digest, None, head.seconds
    )


def _check_size(path: str, size: Size, limit: float) -> None:
    megapixels = size.width * size.height / 1e6
    if megapixels > limit:
        raise SourceError(
            f"{path}: {size} px are {plain_number(round(megapixels, 1))} megapixels, more than the"
            f" limit of {plain_number(limit)}. Save it smaller, or raise --largest-source."
        )
    if max(size.width, size.height) > LONGEST_SIDE:
        raise SourceError(f"{path}: {size} px; no side may be longer than {LONGEST_SIDE} px.")
