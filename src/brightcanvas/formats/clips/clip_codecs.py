"""The clip formats: one declaration each of encoder, container, and how files fare.

A format's line in ``values/file_formats.py`` tells the others what it is called.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from brightcanvas.values.file_formats import ClipFormat


@dataclass(frozen=True)
class ClipCurve:
    """How a codec's clips usually fare."""

    first: int
    """Quality that is tried first."""
    slope: float
    """By how much the logarithm of the distortion rises for each step of quality."""
    lightens: float
    """By how much the logarithm of the bytes falls for each step."""
    last: int
    """The lowest quality there is."""
    settles: float = 0.0
    """By how much the logarithm of the distortion of a whole clip is above that of its first
    frames, about."""


@dataclass(frozen=True)
class ClipCodec:
    """One format of clips."""

    format: ClipFormat
    encoder: str
    """What the codec library calls it."""
    container: str
    options: Callable[[int, int], Mapping[str, str]]
    """For the encoder, from its quality and the frames between two key frames."""
    curve: ClipCurve
    tracks: tuple[str, ...]
    """How tracks begin to name themselves (RFC 6381) that every player of the format plays."""
    container_options: Mapping[str, str] = field(default_factory=dict)


def _av1_options(quality: int, keys: int) -> Mapping[str, str]:
    # The encoder's own shifting of bits within a frame costs half as many bytes again for what
    # our score, and the eye behind copy, hardly see; its search for what screens show (text,
    # windows) takes fifteen times as long on drawn clips, for a tenth of the bytes.
    # Short groups of frames keep those in their middle as good as those at their ends.
    tuning = "tune=2:aq-mode=0:scm=0:hierarchical-levels=3"
    return {"crf": str(quality), "preset": "5", "g": str(keys), "svtav1-params": tuning}


AV1 = ClipCodec(
    ClipFormat.AV1,
    encoder="libsvtav1",
    container="webm",
    options=_av1_options,
    curve=ClipCurve(38, 0.05, 0.073, 63, settles=0.14),
    tracks=("av01.0.",),
    container_options={"fflags": "bitexact"},  # no random number: the same clip, the same file
)


def _vp9_options(quality: int, keys: int) -> Mapping[str, str]:
    return {
        "crf": str(quality), "b": "0", "deadline": "good", "cpu-used": "4", "row-mt": "1",
        "g": str(keys),
    }  # fmt: skip


VP9 = ClipCodec(
    ClipFormat.VP9,
    encoder="libvpx-vp9",
    container="webm",
    options=_vp9_options,
    curve=ClipCurve(36, 0.05, 0.055, 63),
    tracks=("vp09.00.",),
    container_options={"fflags": "bitexact"},  # no random number: the same clip, the same file
)


def _h264_options(quality: int, keys: int) -> Mapping[str, str]:
    # Some of the encoder's quick paths round as memory happens to be: the same frames came out
    # as ten different files in thirty. What doesn't depend on the machine is the same each time.
    return {
        "crf": str(quality), "preset": "slow", "profile": "high", "g": str(keys),
        "x264-params": "log-level=none:cpu-independent=1",
    }  # fmt: skip


H264 = ClipCodec(
    ClipFormat.H264,
    encoder="libx264",
    container="mp4",
    options=_h264_options,
    curve=ClipCurve(27, 0.10, 0.115, 51),
    tracks=("avc1.42", "avc1.4d", "avc1.64"),
    container_options={"movflags": "faststart"},
)


_CODECS = {codec.format: codec for codec in (AV1, VP9, H264)}


def clip_codec_of(clip_format: ClipFormat) -> ClipCodec:
    """The codec of a format."""
    return _CODECS[clip_format]
