"""The best file within a number of bytes."""

from __future__ import annotations

import math

from brightcanvas.formats.codecs.codec import RateCurve
from brightcanvas.formats.encode import encode
from brightcanvas.formats.pictures import decode
from brightcanvas.quality.search import Found, Study

MOST_TRIALS = 7
NEAR = 0.97
"""A file that fills this much of its budget is not tried to be improved."""

GROWTH = 0.03
"""By how much the logarithm of the bytes rises with each step of quality, about."""


def best_within(study: Study, curve: RateCurve, budget: int) -> Found | None:
    """The file of the highest quality that is no larger than a budget.

    Args:
        study: of the picture.
        curve: of the format.
        budget: bytes.

    Returns:
        None where even the lowest quality is larger.
    """
    low, high = curve.qualities[0] - 1, curve.qualities[-1] + 1
    quality, best = float((low + high) // 2), None
    for _ in range(MOST_TRIALS):
        encoding = curve.encoding(min(max(quality, low + 1), high - 1))
        content = encode(study.picture, encoding)
        share = len(content) / budget
        if share <= 1:
            low, best = encoding.quality, (encoding, content)
        else:
            high = encoding.quality
        if high - low <= 1 or NEAR <= share <= 1:
            break
        quality = encoding.quality - math.log(share / math.sqrt(NEAR)) / GROWTH
        if not low < round(quality) < high:
            quality = (low + high) / 2
    if best is None:
        return None
    encoding, content = best
    return Found(encoding, content, study.original.score(decode(content)))
