"""What kind of file something is, by its first bytes and not by its name."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.formats.codecs import codec_like
from brightcanvas.formats.drawings import is_drawing
from brightcanvas.values.errors import SourceError
from brightcanvas.values.picture_formats import FileFormat


@dataclass(frozen=True)
class Kind:
    """A kind of file, as people call it."""

    name: str
    is_clip: bool = False
    format: FileFormat | None = None
    """Of pictures that are in a format which we write too."""
    codec: str = ""
    """The picture codec's name in the library; empty for clips and drawings."""
    is_drawing: bool = False


GIF = Kind("GIF", codec="GIF")
SVG = Kind("SVG", is_drawing=True)
MP4 = Kind("MP4", is_clip=True)
MOV = Kind("MOV", is_clip=True)
WEBM = Kind("WebM", is_clip=True)
MATROSKA = Kind("Matroska", is_clip=True)
AVI = Kind("AVI", is_clip=True)

WANTED = (
    "a JPEG, PNG, WebP, AVIF or GIF picture, an SVG drawing, or an MP4, MOV, WebM, MKV or AVI clip"
)

_OTHERS = (
    (b"%PDF", "a PDF document"),
    (b"8BPS", "a layered picture document"),
    (b"II*\x00", "a TIFF picture"),
    (b"MM\x00*", "a TIFF picture"),
    (b"BM", "a BMP picture"),
    (b"PK\x03\x04", "a ZIP archive"),
    (b"ID3", "a sound file"),
    (b"OggS", "an Ogg file"),
    (b"RIFF", "a RIFF file"),
)


def kind_of_content(content: bytes, name: str) -> Kind:
    """The kind of a file by its content, or by the beginning of it.

    Args:
        content: its first 4096 bytes, or more.
        name: for messages.

    Raises:
        SourceError: it is of no kind that can be used.
    """
    if not content:
        raise SourceError(f"{name}: the file is empty. Wanted: {WANTED}.")
    kind = _known(content)
    if kind is None:
        raise SourceError(f"{name}: this is {_described(content)}. Wanted: {WANTED}.")
    return kind


def _known(head: bytes) -> Kind | None:
    if codec := codec_like(head):
        return Kind(codec.format.label, format=codec.format, codec=codec.library_name)
    if head[4:8] == b"ftyp":
        return _boxed(head[8:12])
    if head[:4] == b"RIFF" and head[8:12] == b"AVI ":
        return AVI
    if head[:4] == b"\x1aE\xdf\xa3":
        return WEBM if b"webm" in head[:64] else MATROSKA
    if head.startswith(b"GIF8"):
        return GIF
    return SVG if is_drawing(head) else None


def _boxed(brand: bytes) -> Kind | None:
    """Files of ISO 14496-12 boxes, by their major brand."""
    if brand in (b"heic", b"heix", b"mif1", b"msf1"):
        return None
    return MOV if brand == b"qt  " else MP4


def _described(head: bytes) -> str:
    if head[4:8] == b"ftyp":
        return "a HEIC picture, which browsers don't show; export it as JPEG"
    if head.lstrip()[:1] == b"<":
        return "a text file (HTML or XML)"
    return next((name for start, name in _OTHERS if head.startswith(start)), "no picture or clip")
