"""Facts of a source, read from its head without decoding its pixels."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.formats import drawing_cuts, pictures
from brightcanvas.formats.codecs import codec_of
from brightcanvas.formats.heads import Head
from brightcanvas.formats.kinds import Kind, kind_of
from brightcanvas.values.digests import digest_of
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.limits import LARGEST_SOURCE

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
    head = _read_head(path, kind)
    _check_size(path, head.size, limit)
    if kind.format and not codec_of(kind.format).is_whole(path.read_bytes()):
        raise SourceError(
            f"{path}: the file is damaged or cut short: its end is missing."
            " Save or upload it again."
        )
    return SourceFacts(
        path=path,
        kind=kind,
        size=head.size,
        has_alpha=head.has_alpha,
        bytes=path.stat().st_size,
        digest=digest_of(path),
        jpeg_quality=head.jpeg_quality,
        seconds=head.seconds,
    )


def _read_head(path: Path, kind: Kind) -> Head:
    if kind.is_drawing:
        return drawing_cuts.read_drawing_head(path)
    if not kind.is_clip:
        return pictures.read_head(path, kind)
    from brightcanvas.formats.clips import read_head

    return read_head(path)


def _check_size(path: Path, size: Size, limit: float) -> None:
    megapixels = size.width * size.height / 1e6
    if megapixels > limit:
        raise SourceError(
            f"{path}: {size} px are {plain_number(round(megapixels, 1))} megapixels, more than the"
            f" limit of {plain_number(limit)}. Save it smaller, or raise --largest-source."
        )
    if max(size.width, size.height) > LONGEST_SIDE:
        raise SourceError(f"{path}: {size} px; no side may be longer than {LONGEST_SIDE} px.")
