"""AV1 in WebM."""

from __future__ import annotations

from collections.abc import Mapping

from brightcanvas.formats.clip_codecs.codec import ClipCodec, ClipCurve
from brightcanvas.values.clip_formats import ClipFormat


def _options(quality: int, keys: int) -> Mapping[str, str]:
    # The encoder's own shifting of bits within a frame costs half as many bytes again for what
    # our score, and the eye behind copy, hardly see; its search for what screens show (text,
    # windows) takes fifteen times as long on drawn clips, for a tenth of the bytes.
    # Short groups of frames keep those in their middle as good as those at their ends.
    tuning = "tune=2:aq-mode=0:scm=0:hierarchical-levels=3"
    return {"crf": str(quality), "preset": "5", "g": str(keys), "svtav1-params": tuning}


CODEC = ClipCodec(
    ClipFormat.AV1,
    encoder="libsvtav1",
    container="webm",
    options=_options,
    curve=ClipCurve(38, 0.05, 0.073, 63, settles=0.14),
    tracks=("av01.0.",),
)
