"""Pictures, clips and drawings: damaged, huge, without end."""

from __future__ import annotations

import io
import random
import struct
import zlib
from fractions import Fraction
from functools import cache

import numpy as np
from PIL import Image

from bench.hostile.case import Case, brief, mutated
from brightcanvas.formats.clips.clip_writing import Beat, planar_of, write_clip
from brightcanvas.values.file_formats import ClipEncoding, ClipFormat

SIZE = (64, 40)


@cache
def picture(kind: str, mode: str = "RGB") -> bytes:
    """A whole one."""
    noise = np.random.default_rng(1).integers(0, 256, (SIZE[1] // 4, SIZE[0] // 4, 3), np.uint8)
    image = Image.fromarray(noise).resize(SIZE).convert(mode)
    out = io.BytesIO()
    many = {"save_all": True, "append_images": [image.rotate(9)] * 3} if kind == "GIF" else {}
    image.save(out, kind, **many)
    return out.getvalue()


PICTURES = [
    ("a.jpg", "JPEG", "RGB"), ("a.jpg", "JPEG", "CMYK"), ("a.png", "PNG", "RGBA"),
    ("a.png", "PNG", "P"), ("a.png", "PNG", "1"), ("a.png", "PNG", "I;16"),
    ("a.webp", "WEBP", "RGBA"),
    ("a.avif", "AVIF", "RGB"), ("a.gif", "GIF", "P"),
]  # fmt: skip


def damaged_picture(by: random.Random) -> Case:
    """A picture with some bytes changed."""
    name, kind, mode = by.choice(PICTURES)
    content = mutated(picture(kind, mode), by)
    return _with(by, name, content, f"damaged {kind}")


def _with(by: random.Random, name: str, content: bytes, told: str) -> Case:
    calls = (
        ["build"], ["build"], ["plan"], ["sheet"], ["compress", name], ["subject", name],
        ["crop", name, "--to", "30x20", "--output", "out.png"], ["build", "--draft"],
        ["compress", name, "--formats", "avif,webp,jpeg,png", "--into", "new"],
        ["trials", name, "--copy", "0.1,0.1,0.5,0.5"],
    )  # fmt: skip
    return Case(told, {name: content, "brief.toml": brief(name)}, by.choice(calls))


def bomb(by: random.Random) -> Case:
    """A few bytes that say they are a huge picture."""
    make = by.choice((_png_bomb, _gif_bomb, _apng_bomb, _jpeg_bomb, _wide))
    name, content = make(by)
    return _with(by, name, content, f"bomb {make.__name__}")


def _chunk(kind: bytes, content: bytes) -> bytes:
    return (
        struct.pack(">I", len(content)) + kind + content
        + struct.pack(">I", zlib.crc32(kind + content))
    )  # fmt: skip


def _png(width: int, height: int, extra: bytes = b"", depth: int = 8, kind: int = 0) -> bytes:
    head = struct.pack(">IIBBBBB", width, height, depth, kind, 0, 0, 0)
    row = min(width * depth * {0: 1, 2: 3, 6: 4}[kind] // 8 + 1, 100_000)
    squeeze = zlib.compressobj(9)
    body = b"".join(squeeze.compress(bytes(row)) for _ in range(min(height, 3000)))
    body += squeeze.flush()
    parts = _chunk(b"IHDR", head) + extra + _chunk(b"IDAT", body) + _chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + parts


def _png_bomb(by: random.Random) -> tuple[str, bytes]:
    size = by.choice(((10000, 10000), (100000, 100), (2**31 - 1, 2**31 - 1), (11000, 10900)))
    return "a.png", _png(*size, depth=by.choice((1, 8)), kind=0)


def _apng_bomb(by: random.Random) -> tuple[str, bytes]:
    frames = by.choice((50, 5000, 2**31))
    return "a.png", _png(3000, 3000, _chunk(b"acTL", struct.pack(">II", frames, 0)))


def _gif_bomb(by: random.Random) -> tuple[str, bytes]:
    side = by.choice((5000, 20000, 65535))
    frame = b"," + struct.pack("<HHHHB", 0, 0, 9, 9, 0) + b"\x02\x02\x4c\x01\x00"
    head = b"GIF89a" + struct.pack("<HHBBB", side, side, 0x80, 0, 0) + bytes(6)
    return "a.gif", head + frame * by.choice((1, 500, 2000)) + b";"


def _jpeg_bomb(by: random.Random) -> tuple[str, bytes]:
    content = bytearray(picture("JPEG"))
    at = content.index(b"\xff\xc0") + 5
    content[at : at + 4] = struct.pack(">HH", *by.choice(((65000, 65000), (10000, 11000))))
    return "a.jpg", bytes(content)


def _wide(by: random.Random) -> tuple[str, bytes]:
    out = io.BytesIO()
    Image.new("L", by.choice(((17000, 3), (3, 17000), (65000, 1), (1, 1)))).save(out, "PNG")
    return "a.png", out.getvalue()


@cache
def clip(kind: ClipFormat) -> bytes:
    """A whole one of half a second."""
    rng = np.random.default_rng(2)
    frames = [planar_of(rng.integers(0, 256, (32, 48, 3), np.uint8)) for _ in range(12)]
    return write_clip(frames, (48, 32), Beat(Fraction(24)), ClipEncoding(kind, 60))


def damaged_clip(by: random.Random) -> Case:
    """A clip with some bytes changed."""
    kind = by.choice((ClipFormat.H264, ClipFormat.VP9))
    name = f"a.{kind.ending}"
    content = mutated(clip(kind), by)
    calls = (
        ["plan"], ["poster", name], ["transcode", name, "--into", "new"], ["build"],
        ["subject", name], ["build", "--draft"],
    )  # fmt: skip
    text = brief(name) + b"[backdrop.clip]\n"
    return Case(f"damaged {kind.name}", {name: content, "brief.toml": text}, by.choice(calls))


DRAWING = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" \
viewBox="0 0 400 300">{inner}</svg>"""


def drawing(by: random.Random) -> Case:
    """A drawing that explodes, or that is damaged."""
    if by.random() < 0.4:
        inner = '<style>.a{fill:url(#g)}</style><path class="a" d="M0 0L9 9 3-8z"/><text>a</text>'
        content = mutated(DRAWING.format(inner=inner).encode(), by)
        return _with(by, "a.svg", content, "damaged drawing")
    name, inner = by.choice(list(EXPLODING.items()))
    case = _with(by, "a.svg", DRAWING.format(inner=inner).encode(), f"drawing {name}")
    limits = {"BRIGHT_CANVAS_DRAWING_SECONDS": "8"}
    return Case(case.name, case.files, case.call, env=limits)


def _chain(element: str, count: int) -> str:
    return "".join(
        f'<{element} id="m{one}" patternUnits="userSpaceOnUse" width="2" height="2">'
        f'<rect width="400" height="300" style="fill:url(#m{one + 1});mask:url(#m{one + 1})"/>'
        f'<rect width="9" height="9" style="mask:url(#m{one + 1})"/></{element}>'
        for one in range(count)
    )


RECT = '<rect width="400" height="300" {more}/>'
EXPLODING = {
    "masks": _chain("mask", 25) + RECT.format(more='style="mask:url(#m0)"'),
    "patterns": _chain("pattern", 12) + RECT.format(more='fill="url(#m0)"'),
    "turbulence": '<filter id="f"><feTurbulence baseFrequency=".5" numOctaves="9999"/></filter>'
    + RECT.format(more='filter="url(#f)"'),
    "convolution": '<filter id="f"><feConvolveMatrix order="99" kernelMatrix="'
    + "1 " * 9801 + '"/></filter>' + RECT.format(more='filter="url(#f)"'),
    "offset": '<filter id="f"><feOffset dx="1e30"/></filter>'
    + RECT.format(more='filter="url(#f)"'),
    "markers": '<marker id="m" markerWidth="9" markerHeight="9">'
    + '<path d="M0 0L9 9"/>' * 800 + '</marker><path marker-mid="url(#m)" d="M0 0'
    + "L1 1L2 5" * 30000 + '"/>',
    "layers": '<g opacity=".5">' * 45 + RECT.format(more="") + "</g>" * 45,
    "dashes": '<circle r="1e8" stroke="#000" stroke-dasharray=".0001"/>',
    "entities": "&lol;" * 100,
    "embedded": '<image width="400" height="300" href="data:image/png;base64,iVBORw0KGgo="/>',
    "numbers": f'<rect width="{"9" * 5000}" height="nan" transform="scale(1e300)"/>',
    "deep": "<g>" * 3000 + "</g>" * 3000,
}  # fmt: skip
