"""The codecs parameter of RFC 6381, read from what the stream itself says."""

from __future__ import annotations

import av

from brightcanvas.formats.bits import Bits

LEVELS_VP9 = (
    (10, 36_864, 829_440),
    (11, 73_728, 2_764_800),
    (20, 122_880, 4_608_000),
    (21, 245_760, 9_216_000),
    (30, 552_960, 20_736_000),
    (31, 983_040, 36_864_000),
    (40, 2_228_224, 83_558_400),
    (41, 2_228_224, 160_432_128),
    (50, 8_912_896, 311_951_360),
    (51, 8_912_896, 588_251_136),
)
"""Level, most samples of a frame, most samples a second (VP9 levels, WebM project)."""


def codec_name(stream: av.VideoStream) -> str:
    """Such as ``avc1.4D401F``; the codec's plain name where no parameter is defined for it."""
    name = stream.codec_context.codec.canonical_name
    extra = stream.codec_context.extradata or b""
    if name == "h264" and len(extra) > 3 and extra[0] == 1:
        return f"avc1.{extra[1:4].hex().upper()}"
    if name == "av1" and len(extra) > 3 and extra[0] & 0x80:
        return av1_name(extra)
    if name == "vp9":
        return vp9_name(stream.width, stream.height, float(stream.average_rate or 30))
    return str(name)


def av1_name(box: bytes) -> str:
    """Of an ``av1C`` box (AV1 in ISOBMFF, sections 2.3 and 5): profile, level, tier, depth."""
    bits = Bits(box[1:4])
    profile, level = bits.read(3), bits.read(5)
    tier, high, twelve = bits.read(1), bits.read(1), bits.read(1)
    depth = 12 if twelve else 10 if high else 8
    return f"av01.{profile}.{level:02d}{'H' if tier else 'M'}.{depth:02d}"


def vp9_name(width: int, height: int, rate: float) -> str:
    """Profile 0 and 8 bit, with the least level that holds the size and the rate.

    Args:
        width: of the frames, px.
        height: of the frames, px.
        rate: frames a second.
    """
    samples = width * height
    fitting = (
        level
        for level, most, each_second in LEVELS_VP9
        if samples <= most and samples * rate <= each_second
    )
    return f"vp09.00.{next(fitting, 52)}.08"
