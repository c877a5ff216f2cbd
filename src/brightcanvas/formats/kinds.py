"""What kind of file something is, by its first bytes and not its name; what heads tell."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.formats.codecs import codec_like
from brightcanvas.values.errors import SourceError
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.geometry import Size


@dataclass(frozen=True)
class FileKind:
    """A kind of file, as people call it."""

    name: str
    is_clip: bool = False
    format: FileFormat | None = None
    """Of pictures that are in a format which we write too."""
    codec: str = ""
    """The picture codec's name in the library; empty for clips and drawings."""
    is_drawing: bool = False
    is_paged: bool = False
    """Whether several pictures in it are pages of one, and no frames: the first is taken."""


GIF = FileKind("GIF", codec="GIF")
TIFF = FileKind("TIFF", codec="TIFF", is_paged=True)
HEIC = FileKind("HEIC", codec="HEIF", is_paged=True)
SVG = FileKind("SVG", is_drawing=True)
MP4 = FileKind("MP4", is_clip=True)
MOV = FileKind("MOV", is_clip=True)
WEBM = FileKind("WebM", is_clip=True)
MATROSKA = FileKind("Matroska", is_clip=True)
AVI = FileKind("AVI", is_clip=True)

WANTED = (
    "a JPEG, PNG, WebP, AVIF, HEIC, TIFF or GIF picture, an SVG drawing, or an MP4, MOV, WebM, MKV"
    " or AVI clip"
)

_OTHERS = (
    (b"%PDF", "a PDF document"),
    (b"8BPS", "a layered picture document"),
    (b"BM", "a BMP picture"),
    (b"PK\x03\x04", "a ZIP archive"),
    (b"ID3", "a sound file"),
    (b"OggS", "an Ogg file"),
    (b"RIFF", "a RIFF file"),
)


_TIFF_STARTS = (b"II*\x00", b"MM\x00*", b"II+\x00", b"MM\x00+")
"""TIFF 6.0, section 2, in both orders of bytes; BigTIFF after them."""

_HEIC_BRANDS = (b"heic", b"heix", b"heim", b"heis", b"mif1", b"msf1")
"""ISO/IEC 23008-12, annex B: still pictures, coded with HEVC as a rule."""


def kind_of_content(content: bytes, name: str) -> FileKind:
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


def _known(head: bytes) -> FileKind | None:
    if codec := codec_like(head):
        return FileKind(codec.format.label, format=codec.format, codec=codec.library_name)
    if head[4:8] == b"ftyp":
        return _boxed(head[8:12])
    if head[:4] == b"RIFF" and head[8:12] == b"AVI ":
        return AVI
    if head[:4] == b"\x1aE\xdf\xa3":
        return WEBM if b"webm" in head[:64] else MATROSKA
    if head.startswith(b"GIF8"):
        return GIF
    if head[:4] in _TIFF_STARTS:
        return TIFF
    return SVG if is_drawing(head) else None


def is_drawing(content: bytes) -> bool:
    """Whether a file's first bytes look like an SVG drawing."""
    head = content[:4096].removeprefix(b"\xef\xbb\xbf").lstrip().lower()
    is_page = head.startswith((b"<!doctype html", b"<html"))
    return head.startswith(b"<") and b"<svg" in head and not is_page


def _boxed(brand: bytes) -> FileKind | None:
    """Files of ISO 14496-12 boxes, by their major brand."""
    if brand in _HEIC_BRANDS:
        return HEIC
    return MOV if brand == b"qt  " else MP4


def _described(head: bytes) -> str:
    if head.lstrip()[:1] == b"<":
        return "a text file (HTML or XML)"
    return next((name for start, name in _OTHERS if head.startswith(start)), "no picture or clip")


@dataclass(frozen=True)
class Head:
    """Facts that need no pixels."""

    size: Size
    has_alpha: bool = False
    jpeg_quality: int | None = None
    seconds: float | None = None
    pages: int = 1
    """In the file; the first one is taken."""
