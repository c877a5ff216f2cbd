"""Suggested subjects: the time for 24 megapixels, and hits on photographs of your own.

``python -m bench.attention truth.json`` checks photographs: the file maps each picture's path
(beside it) to the box of its one clear subject, ``[left, top, right, bottom]`` in fractions.
"""

from __future__ import annotations

import json
import statistics
import sys
import time
from pathlib import Path

import numpy as np

from brightcanvas.analysis.saliency import suggest_subject
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.values.raster import Raster

LARGE = (4000, 6000, 3)
ROUNDS = 5


def measure_time() -> None:
    """Print how long a suggestion takes for a large decoded picture."""
    picture = Raster(np.random.default_rng(1).integers(0, 256, LARGE, np.uint8))
    suggest_subject(picture)
    seconds = []
    for _ in range(ROUNDS):
        begin = time.perf_counter()
        suggest_subject(picture)
        seconds.append(time.perf_counter() - begin)
    print(f"24 megapixels: {statistics.median(seconds) * 1000:.0f} ms; bar: below 300 ms")


def check_photographs(truth: Path) -> None:
    """Print for each photograph whether the suggested point lies in its subject."""
    hits, boxes = 0, json.loads(truth.read_text(encoding="utf-8"))
    for name, (left, top, right, bottom) in boxes.items():
        suggestion = suggest_subject(read_picture(truth.parent / name))
        point = suggestion.point
        hit = left <= point.x <= right and top <= point.y <= bottom
        hits += hit
        told = "inside" if hit else "outside"
        print(
            f"{name:40} {told:8} at {point.x:.2f}, {point.y:.2f}, {suggestion.confidence:.0%} sure"
        )
    print(f"{hits} of {len(boxes)} inside the subject; bar: 7 of 10")


def main() -> None:
    """Print the figures."""
    measure_time()
    for name in sys.argv[1:]:
        check_photographs(Path(name))


if __name__ == "__main__":
    main()
