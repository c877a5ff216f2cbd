"""A build of many photographs by two workers of a cluster, against one.

    python -m bench.cluster          40 photographs of 1200 x 800 px
    python -m bench.cluster 8        fewer

Workers are processes of one thread each, on this machine; the scheduler is a process of its own.
Printed are the ratio of the times, and what the process that builds holds in memory on the way.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import psutil
from PIL import Image
from scipy import ndimage
from tests.clusters import running

from brightcanvas.brief.loading import load_brief
from brightcanvas.pipeline.building import build
from brightcanvas.pipeline.executors import Cluster
from brightcanvas.values.work import Watcher

SIZE = (1200, 800)
STEPS = 4
"""Parts of the build after each of which memory is looked at."""


def photograph(seed: int) -> Image.Image:
    """Soft shapes and grain, so that it compresses like a photograph."""
    rng, (width, height) = np.random.default_rng(seed), SIZE
    total = np.zeros((height, width, 3))
    for scale, weight in ((160, 1.0), (40, 0.6), (8, 0.3), (1, 0.05)):
        small = rng.normal(0, 1, (height // scale + 2, width // scale + 2, 3))
        total += weight * ndimage.zoom(small, (scale, scale, 1), order=1)[:height, :width]
    low, high = np.percentile(total, (1, 99))
    return Image.fromarray(((total - low) / (high - low) * 255).clip(0, 255).astype(np.uint8))


def write_project(folder: Path, count: int) -> Path:
    """A brief of so many photographs, each on an element of its own."""
    lines = []
    for number in range(count):
        photograph(number).save(folder / f"p{number}.jpg", quality=92)
        lines += ["[[backdrop]]", f'source = "p{number}.jpg"', f'element = ".p{number}"']
    brief = folder / "brief.toml"
    brief.write_text("\n".join(lines), encoding="utf-8")
    return brief


class Memory:
    """What this process holds, looked at after each part of a build."""

    def __init__(self) -> None:
        self.seen: list[float] = []
        self._count = self._done = 0

    def starts(self, count: int) -> None:
        """Called with the number of files to come."""
        self._count = count

    def done(self, _: str) -> None:
        """Called after each of them."""
        self._done += 1
        if self._done * STEPS >= self._count * (len(self.seen) + 1):
            self.seen.append(psutil.Process().memory_info().rss / 1e6)


@contextmanager
def timed() -> Iterator[list[float]]:
    """Seconds of what is done within."""
    began, found = time.perf_counter(), list[float]()
    yield found
    found.append(time.perf_counter() - began)


def built_by(workers: int, count: int) -> tuple[float, list[float]]:
    """Seconds of a build from an empty store, and megabytes on the way."""
    with tempfile.TemporaryDirectory() as folder, running(workers) as address:
        brief, memory = load_brief(write_project(Path(folder), count)), Memory()
        cluster = Cluster(address)
        with timed() as took:
            build(brief, watcher=Watcher(memory.starts, memory.done), executor=cluster)
        cluster.close()
    return took[0], memory.seen


def main(count: int) -> None:
    """Print the ratio and the memory."""
    built_by(1, 1)  # what is loaded once is loaded now
    (one, first), (two, second) = built_by(1, count), built_by(2, count)
    print(f"{count} photographs: one worker {one:.1f} s, two {two:.1f} s: {one / two:.2f} times")
    for name, seen in (("one", first), ("two", second)):
        print(
            f"memory of the process that builds, {name}: {', '.join(f'{m:.0f}' for m in seen)} MB"
        )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 40)
