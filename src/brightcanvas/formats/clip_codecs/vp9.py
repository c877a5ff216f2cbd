"""VP9 in WebM."""

from __future__ import annotations

from collections.abc import Mapping

from brightcanvas.formats.clip_codecs.codec import ClipCodec, ClipCurve
from brightcanvas.values.clip_formats import ClipFormat


def _options(quality: int, keys: int) -> Mapping[str, str]:
    return {
        "crf": str(quality), "b": "0", "deadline": "good", "cpu-used": "4", "row-mt": "1",
        "g": str(keys),
    }  # fmt: skip


CODEC = ClipCodec(
    ClipFormat.VP9,
    encoder="libvpx-vp9",
    container="webm",
    options=_options,
    curve=ClipCurve(36, 0.05, 0.055, 63),
    tracks=("vp09.00.",),
)
