"""Resizing in linear light: our time against a picture library's, and our extra memory.

The library does the same work the plain way: three float channels, each resampled with
its Lanczos filter. Both times come from the same run, turn by turn.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from brightcanvas.colour.resample import resize
from brightcanvas.colour.spaces import codes_from_light, light_of_code
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

SOURCE, TARGET = (3600, 2400), (1920, 1080)
LARGE = (6000, 4000)
ROUNDS = 5


def picture(width: int, height: int) -> NDArray[np.uint8]:
    """Made-up detail at all sizes."""
    rng = np.random.default_rng(1)
    coarse = rng.integers(0, 256, (height // 8 + 1, width // 8 + 1, 3), np.uint8)
    return np.ascontiguousarray(np.repeat(np.repeat(coarse, 8, 0), 8, 1)[:height, :width])


def ours(pixels: NDArray[np.uint8], width: int, height: int) -> NDArray[np.uint8]:
    """Our own resizing."""
    whole = Rect(0, 0, pixels.shape[1], pixels.shape[0])
    return resize(Raster(pixels), whole, width, height).pixels


def library(pixels: NDArray[np.uint8], width: int, height: int) -> NDArray[np.uint8]:
    """Three float channels through the picture library."""
    result = np.empty((height, width, 3), np.uint8)
    for channel in range(3):
        light = Image.fromarray(light_of_code()[pixels[..., channel]])
        small = np.asarray(light.resize((width, height), Image.Resampling.LANCZOS))
        result[..., channel] = codes_from_light(small)
    return result


def seconds(work: Callable[[], object]) -> float:
    """How long one call takes."""
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def peak() -> float:
    """Peak memory of this process so far, in MB (Linux tells it in its process folder)."""
    status = Path("/proc/self/status").read_text(encoding="ascii")
    line = next(line for line in status.splitlines() if line.startswith("VmHWM"))
    return int(line.split()[1]) / 1024


def measure_memory() -> None:
    """Print the extra memory of one large resize; run in a process of its own."""
    pixels = np.random.default_rng(1).integers(0, 256, (LARGE[1], LARGE[0], 3), np.uint8)
    ours(pixels[:400, :400], 100, 100)  # so that the libraries' own buffers are there
    before = peak()
    ours(pixels, *TARGET)
    extra, source = peak() - before, pixels.nbytes / 2**20
    print(
        f"memory, {LARGE[0]} x {LARGE[1]}: {extra:.0f} MB extra, {extra / source:.2f} times"
        f" the decoded source ({source:.0f} MB); bar: below 3"
    )


def main() -> None:
    """Print the ratios."""
    if sys.argv[1:] == ["memory"]:
        measure_memory()
        return
    pixels = picture(*SOURCE)
    ratios = []
    for number in range(ROUNDS + 1):
        mine = seconds(lambda: ours(pixels, *TARGET))
        theirs = seconds(lambda: library(pixels, *TARGET))
        if number:  # the first round warms up
            ratios.append(mine / theirs)
    difference = np.abs(ours(pixels, *TARGET).astype(int) - library(pixels, *TARGET)).max()
    print(
        f"time, {SOURCE[0]} x {SOURCE[1]} to {TARGET[0]} x {TARGET[1]}: ours / library"
        f" {statistics.median(ratios):.2f} ({min(ratios):.2f} to {max(ratios):.2f}); bar: at most 1"
    )
    print(f"largest difference: {difference} of 255")
    subprocess.run([sys.executable, "-m", "bench.resizing", "memory"], check=True)


if __name__ == "__main__":
    main()
