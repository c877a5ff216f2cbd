"""A picture's file without what browsers don't need to show it; its pixels stay as they are."""

from __future__ import annotations

import struct
from pathlib import Path

from PIL import Image

from brightcanvas.formats.kinds import kind_of
from brightcanvas.formats.pictures import explained, orientation_of

_JPEG_KEPT = (0xE0, 0xEE)
"""Markers of JFIF's head and of the colour transform (APP14); the other APPn and comments go."""
_PNG_KEPT = (b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND", b"sRGB", b"gAMA")
_WEBP_DROPPED = (b"EXIF", b"XMP ")
_EXIF_AND_XMP = 0b0000_1100
"""Flags in a WebP's extended head (RFC 9649, section 2.7)."""


def bare(path: Path) -> bytes | None:
    """The file without metadata, or None where its pixels can't be kept as they are.

    That is so where they are turned by a note on orientation, or where a colour profile other
    than sRGB says what they mean.
    """
    kind = kind_of(path)
    with explained(path), Image.open(path, formats=[kind.codec]) as image:
        if orientation_of(image) != 1 or image.info.get("icc_profile"):
            return None
        if getattr(image, "n_frames", 1) > 1:
            return None
    strip = {"JPEG": _bare_jpeg, "PNG": _bare_png, "WEBP": _bare_webp}.get(kind.codec)
    return strip(path.read_bytes()) if strip else None


def _bare_jpeg(content: bytes) -> bytes:
    """Segments up to the first scan are looked at (ITU-T T.81, annex B)."""
    kept, at = [content[:2]], 2
    while at + 4 <= len(content) and content[at] == 0xFF and content[at + 1] != 0xDA:
        marker = content[at + 1]
        end = at + 2 + struct.unpack(">H", content[at + 2 : at + 4])[0]
        is_note = 0xE0 <= marker <= 0xEF or marker == 0xFE
        if not is_note or marker in _JPEG_KEPT:
            kept.append(content[at:end])
        at = end
    return b"".join([*kept, content[at:]])


def _bare_png(content: bytes) -> bytes:
    kept, at = [content[:8]], 8
    while at + 12 <= len(content):
        length, kind = struct.unpack(">I4s", content[at : at + 8])
        if kind in _PNG_KEPT:
            kept.append(content[at : at + 12 + length])
        at += 12 + length
    return b"".join(kept)


def _bare_webp(content: bytes) -> bytes:
    chunks, at = [], 12
    while at + 8 <= len(content):
        kind, length = content[at : at + 4], struct.unpack("<I", content[at + 4 : at + 8])[0]
        end = at + 8 + length + length % 2
        chunk = content[at:end]
        if kind == b"VP8X":
            chunk = chunk[:8] + bytes([chunk[8] & ~_EXIF_AND_XMP]) + chunk[9:]
        if kind not in _WEBP_DROPPED:
            chunks.append(chunk)
        at = end
    body = b"WEBP" + b"".join(chunks)
    return b"RIFF" + struct.pack("<I", len(body)) + body
