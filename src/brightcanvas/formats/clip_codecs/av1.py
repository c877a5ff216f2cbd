"""AV1 in WebM."""

from __future__ import annotations

from collections.abc import Mapping

from brightcanvas.formats.clip_codecs.codec import ClipCodec, ClipCurve
from brightcanvas.values.clip_formats import ClipFormat


def _options(quality: int, keys: int) -> Mapping[str, str]:
    return {"crf": str(quality), "preset": "7", "g": str(keys), "svtav1-params": "tune=0"}


CODEC = ClipCodec(
    ClipFormat.AV1,
    encoder="libsvtav1",
    container="webm",
    options=_options,
    curve=ClipCurve(38, 0.055, 0.055, 63),
)
