"""H.264 in MP4, its index at the front: it plays everywhere."""

from __future__ import annotations

from collections.abc import Mapping

from brightcanvas.formats.clip_codecs.codec import ClipCodec, ClipCurve
from brightcanvas.values.clip_formats import ClipFormat


def _options(quality: int, keys: int) -> Mapping[str, str]:
    return {
        "crf": str(quality), "preset": "slow", "profile": "high", "g": str(keys),
        "x264-params": "log-level=none",
    }  # fmt: skip


CODEC = ClipCodec(
    ClipFormat.H264,
    encoder="libx264",
    container="mp4",
    options=_options,
    curve=ClipCurve(27, 0.10, 0.115, 51),
    tracks=("avc1.42", "avc1.4d", "avc1.64"),
    container_options={"movflags": "faststart"},
)
