"""What becomes of clips: bytes, score, the jump where they begin again, and what making them costs.

    python -m bench.clips                   ten made-up clips (python -m scenery.clips draws them)
    python -m bench.clips FOLDER_OR_CLIP... clips of your own
    python -m bench.clips --cpu ...         with the CPU, against one encode of each final file

The jump is measured here once more, from the decoded files alone, on all of their px. The floor
of the CPU is one encode of each file with the settings that were found, from the same frames.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import argparse
import io
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray
from scenery.clips import drawn

from brightcanvas.analysis.loops import LoopWish, loop_of
from brightcanvas.analysis.motion import reduced
from brightcanvas.analysis.timing import published_size
from brightcanvas.formats.clips.clip_reading import read_facts
from brightcanvas.formats.clips.clip_writing import write_clip
from brightcanvas.quality.clips.clip_order import (
    USUAL_DRAWN,
    ClipLook,
    ClipOrder,
    ClipPace,
    ordered,
)
from brightcanvas.quality.clips.clip_search import ClipFile, lightest_clips
from brightcanvas.quality.metric import Viewing
from brightcanvas.values.file_formats import ClipFormat
from brightcanvas.values.geometry import Rect
from brightcanvas.values.targets import LEVELS

FORMATS = (ClipFormat.AV1, ClipFormat.H264)
DRAWN = Path(tempfile.gettempdir()) / "bright-canvas-clips"
ENDINGS = {".mp4", ".mov", ".webm", ".mkv", ".avi"}


def cpu(work: Callable[[], object]) -> float:
    """The CPU seconds, of all threads, that one call takes."""
    begin = time.process_time()
    work()
    return time.process_time() - begin


def ordered_for(path: Path) -> tuple[ClipOrder, str, str]:
    """What ``transcode`` makes of a clip without options; the way of its loop, and why."""
    facts = read_facts(path)
    stretch = reduced(path, facts, 0, facts.seconds)
    loop = loop_of(stretch, facts, LoopWish(0, facts.seconds, "find", is_round=True))
    width, height = int(facts.size.width) // 2 * 2, int(facts.size.height) // 2 * 2
    size = published_size(width, height)
    look = ClipLook(
        Rect(0, 0, width, height), size, LEVELS["thrifty"], Viewing(max(size) / USUAL_DRAWN)
    )
    order = ordered(path, facts, loop, look, ClipPace(1.0, 30.0))
    return order, loop.way, loop.why


def jump_of(content: bytes) -> float:
    """From the last decoded frame to the first, in median steps: of all px, as decoded."""
    with av.open(io.BytesIO(content), "r") as container:
        frames = (_light(one) for one in container.decode(video=0))
        first = last = next(frames)
        steps = []
        for one in frames:
            steps.append(_apart(last, one))
            last = one
    return _apart(last, first) / max(float(np.median(steps)), 1e-3)


def _light(frame: av.VideoFrame) -> NDArray[np.float32]:
    planar = frame.to_ndarray(format="yuv420p")
    return np.asarray(planar[: frame.height], np.float32)


def _apart(one: NDArray[np.float32], other: NDArray[np.float32]) -> float:
    return float(np.sqrt(np.mean((one - other) ** 2)))


def measured(path: Path, *, with_cpu: bool) -> tuple[list[float], float | None]:
    """Print one clip's figures; the shares of its bytes, the lightest first, and of the CPU."""
    found: list[tuple[ClipOrder, str, str, tuple[ClipFile, ...]]] = []

    def everything() -> None:
        order, way, why = ordered_for(path)
        found.append((order, way, why, lightest_clips(order, FORMATS)))

    spent = cpu(everything)
    order, way, why, made = found[0]
    before = path.stat().st_size
    grain = f", grain {order.grain:.1f} taken out" if order.grain else ""
    print(f"{path.name}: {before / 1000:.0f} kB; {way}{' (' + why + ')' if why else ''}{grain}")
    for one in made:
        told = f"jump told {one.played.jump:.2f}, measured {jump_of(one.content):.2f}"
        marks = ", the source's own track" if one.is_source else ", capped" * one.is_capped
        print(
            f"  {one.encoding.format.label:5} {one.size[0]} x {one.size[1]} px"
            f" {one.timing.frames} frames {len(one.content) / 1000:8.1f} kB"
            f" {len(one.content) / before:6.3f} of it, scores {one.score.mean:.3f}"
            f" (worst {one.score.worst:.3f}), {told if order.is_round else 'plays once'},"
            f" {one.played.flashes.most} flashes, encodes {one.encodes}{marks}"
        )
    share = None
    if with_cpu and not all(one.is_source for one in made):
        least = cpu(lambda: _final_encodes(order, made))
        share = spent / least
        print(f"  CPU {spent:.1f} s, final encodes {least:.1f} s: {share:.2f}", flush=True)
    return [len(one.content) / before for one in made], share


def _final_encodes(order: ClipOrder, made: tuple[ClipFile, ...]) -> None:
    for one in made:
        if one.is_source:
            continue
        write_clip(order.frames(), order.look.size, order.beat, one.encoding)


def clips_of(places: list[Path]) -> Iterator[Path]:
    """The clips that are named, or lie in named folders; without any the made-up ones."""
    if not places:
        DRAWN.mkdir(exist_ok=True)
        yield from drawn(DRAWN)
    for place in places:
        if place.is_dir():
            yield from sorted(one for one in place.iterdir() if one.suffix.lower() in ENDINGS)
        else:
            yield place


def main() -> None:
    """Print everything."""
    parser = argparse.ArgumentParser(prog="python -m bench.clips", description=__doc__)
    parser.add_argument("places", nargs="*", type=Path)
    parser.add_argument("--cpu", action="store_true")
    given = parser.parse_args()
    found = [measured(path, with_cpu=given.cpu) for path in clips_of(given.places)]
    lightest = statistics.median(shares[0] for shares, _ in found)
    heaviest = max(share for shares, _ in found for share in shares)
    print(f"median of the lightest files {lightest:.3f} of the source, the heaviest {heaviest:.3f}")
    if given.cpu:
        costs = [share for _, share in found if share is not None]
        print(f"CPU: median {statistics.median(costs):.2f} final encodes, at most {max(costs):.2f}")


if __name__ == "__main__":
    main()
