"""What making clips light costs and saves, and how fast a still is chosen.

    python -m bench.clips              a generated clip of the demo's scene, 1080p
    python -m bench.clips CLIP...      clips of your own

The floor is one encode for each file with the settings that were found, from the same frames.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from brightcanvas.analysis.loops import best_loop, reduced
from brightcanvas.analysis.stills import StillWish, best_stills
from brightcanvas.analysis.timing import published_size, timing_of
from brightcanvas.formats.clip_files import write_clip
from brightcanvas.formats.clips import Codes, read_facts
from brightcanvas.formats.moments import FrameReading, Pace, moments
from brightcanvas.quality.clip_search import ClipFile, ClipOrder, lightest_clips, made_with
from brightcanvas.quality.metric import Viewing
from brightcanvas.values.clip_formats import ClipEncoding, ClipFormat
from brightcanvas.values.geometry import Rect
from brightcanvas.values.targets import LEVELS

FRAMES, RATE = 240, 24
SIZE = (1920, 1080)
FORMATS = (ClipFormat.AV1, ClipFormat.H264)
FIXED = 23
"""Constant quality of the H.264 file that ours are compared with."""


def cpu(work: Callable[[], object]) -> float:
    """The CPU seconds, of all threads, that one call takes."""
    begin = time.process_time()
    work()
    return time.process_time() - begin


def generated(path: Path) -> Path:
    """The demo's scene as ten seconds of 1080p with grain, key frames every two seconds."""
    from scenery.mill import landscape, reeds, sails, water

    still = landscape(*SIZE)
    grain = np.random.default_rng(5)
    rounds = [reeds(water(sails(still, turn / 24), turn / 24)) for turn in range(24)]

    def frames() -> Iterator[Codes]:
        for number in range(FRAMES):
            noise = grain.normal(0, 0.008, (SIZE[1], SIZE[0], 1)).astype(np.float32)
            picture = np.clip((rounds[number % 24] + noise) * 255 + 0.5, 0, 255)
            yield picture.astype(np.uint8)

    write_rgb(path, frames())
    return path


def write_rgb(path: Path, frames: Iterator[Codes]) -> None:
    """A source as cameras leave them: heavy, and with many key frames."""
    import av

    with av.open(str(path), "w") as container:
        options = {"crf": "16", "preset": "veryfast", "g": "48"}
        stream = container.add_stream("libx264", rate=RATE, options=options)
        assert isinstance(stream, av.VideoStream)
        stream.width, stream.height = SIZE
        stream.pix_fmt = "yuv420p"
        for codes in frames:
            container.mux(stream.encode(av.VideoFrame.from_ndarray(codes, format="rgb24")))
        container.mux(stream.encode(None))


def poster_speed(path: Path) -> None:
    """Print how many times as fast as it plays a clip's still is chosen."""
    facts = read_facts(path)
    keys = sum(1 for _ in moments(path, FrameReading(size=(64, 36), pace=Pace.KEYS)))
    begin = time.perf_counter()
    best = best_stills(path, facts, StillWish())[0]
    spent = time.perf_counter() - begin
    print(
        f"{path.name}: {facts.size} px, {facts.seconds:.1f} s, {keys} key frames: its still (at"
        f" {best.second:.2f} s) was chosen in {spent:.2f} s, {facts.seconds / spent:.1f} times as"
        " fast as it plays"
    )


def order_for(path: Path) -> ClipOrder:
    """What ``transcode`` makes of a clip without options."""
    facts = read_facts(path)
    loop = best_loop(reduced(path, facts, 0, facts.seconds))
    width, height = int(facts.size.width) // 2 * 2, int(facts.size.height) // 2 * 2
    reading = FrameReading(
        size=published_size(width, height), area=Rect(0, 0, width, height), planar=True
    )
    return ClipOrder(path, timing_of(loop, facts), reading, LEVELS["thrifty"], Viewing())


def cost(path: Path) -> list[ClipFile]:
    """Print the ratio of a whole run to the final encodes alone."""
    made: list[ClipFile] = []
    orders: list[ClipOrder] = []

    def everything() -> None:
        orders.append(order_for(path))
        made.extend(lightest_clips(orders[0], FORMATS))

    spent = cpu(everything)
    order = orders[0]

    def once() -> None:
        for one in made:
            write_clip(order.frames(), order.size, order.timing.rate, one.encoding)

    least = cpu(once)
    encodes = ", ".join(f"{one.encoding.format.label} {one.encodes}" for one in made)
    print(f"  CPU of a run: {spent:.1f} s, final encodes alone {least:.1f} s: {spent / least:.2f}")
    print(f"  encodes of the whole clip: {encodes}")
    return made


def bytes_saved(path: Path, made: list[ClipFile]) -> None:
    """Print the bytes against the source, and against one fixed setting at equal score."""
    order, source = order_for(path), path.stat().st_size
    for one in made:
        print(
            f"  {one.encoding.format.label}: {len(one.content) / 1000:.0f} kB,"
            f" {len(one.content) / source:.3f} of the source, scores {one.score.mean:.4f}"
            f" (target {order.target:g}), worst frame {one.score.worst:.4f}"
        )
    fixed = made_with(order, ClipEncoding(ClipFormat.H264, FIXED))
    weight, score = len(fixed.content), fixed.score.mean
    print(f"  H.264 at {FIXED}: {weight / 1000:.0f} kB, scores {score:.4f}", end="")
    alike = ClipOrder(path, order.timing, order.reading, score, order.viewing)
    light = next(lightest_clips(alike, [ClipFormat.AV1]))
    print(
        f"; AV1 at that score ({light.score.mean:.4f}):"
        f" {len(light.content) / weight:.2f} of its bytes"
    )


def main() -> None:
    """Print everything."""
    with tempfile.TemporaryDirectory() as folder:
        given = [Path(one) for one in sys.argv[1:]]
        for path in given or [generated(Path(folder) / "scene.mp4")]:
            poster_speed(path)
            bytes_saved(path, cost(path))


if __name__ == "__main__":
    main()
