"""One clip made light, without a brief."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.analysis.flashes import Flashes, flashes_of
from brightcanvas.analysis.loops import Loop, Reduced, chosen_loop, reduced, usual_step
from brightcanvas.analysis.timing import published_size, timing_of
from brightcanvas.formats.clips import ClipFacts, read_facts
from brightcanvas.formats.moments import FrameReading
from brightcanvas.formats.survey import survey
from brightcanvas.quality.clip_search import ClipFile, ClipOrder, lightest_clips
from brightcanvas.quality.metric import Viewing
from brightcanvas.values.clip_formats import ClipFormat
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.files import write_whole
from brightcanvas.values.geometry import Rect, plain_number


@dataclass(frozen=True)
class ClipTask:
    """What is asked of every clip."""

    begin: float
    end: float | None
    is_round: bool
    seam: str
    speed: float
    most_rate: float
    largest: tuple[int, int]
    target: float
    most: int | None
    formats: tuple[ClipFormat, ...]
    into: Path | None
    limit: float


@dataclass(frozen=True)
class Transcoded:
    """What came of one clip."""

    source: Path
    facts: ClipFacts
    files: tuple[tuple[Path, ClipFile], ...]
    loop: Loop
    flashes: Flashes
    brightness: tuple[float, ...]
    """Mean of the frames' codes in each second of the stretch, 0 to 1."""
    motion: float
    """Usual change from frame to frame, in codes of 255."""


def transcode(clip: Path, task: ClipTask, done: Callable[[str], None]) -> Transcoded:
    """Make one clip light; ``done`` is told of each file.

    Raises:
        BrightCanvasError: it can't be used, or a file is in the way.
    """
    if not survey(clip, task.limit).kind.is_clip:
        raise BriefError(f"{clip} is a picture: transcode takes clips; see compress.")
    facts = read_facts(clip)
    _check_stretch(clip, facts, task)
    places = [_place(clip, kind, task) for kind in task.formats]
    end = task.end if task.end is not None else facts.seconds
    stretch = reduced(clip, facts, task.begin, end)
    if not stretch.seconds:
        raise SourceError(
            f"{clip}: nothing can be read from {plain_number(task.begin)} s on; it is"
            f" {plain_number(round(facts.seconds, 2))} s long."
        )
    loop = chosen_loop(stretch, task.seam, is_round=task.is_round)
    timing = timing_of(loop, facts, task.speed, task.most_rate)
    width, height = int(facts.size.width) // 2 * 2, int(facts.size.height) // 2 * 2
    size = published_size(width, height, task.largest)
    reading = FrameReading(size=size, area=Rect(0, 0, width, height), planar=True)
    order = ClipOrder(clip, timing, reading, task.target, Viewing(), task.most)
    files = []
    for place, kind, made in zip(
        places, task.formats, lightest_clips(order, task.formats), strict=True
    ):
        write_whole(place, made.content)
        files.append((place, made))
        done(f"{clip.name}, {kind.label}")
    return Transcoded(
        clip,
        facts,
        tuple(files),
        loop,
        flashes_of(clip, facts, loop.begin, loop.end, task.speed),
        _brightness(stretch),
        usual_step(stretch.frames),
    )


def _check_stretch(clip: Path, facts: ClipFacts, task: ClipTask) -> None:
    length = plain_number(round(facts.seconds, 2))
    if facts.seconds and task.begin >= facts.seconds:
        begin = plain_number(task.begin)
        raise BriefError(f"{clip} is {length} s long: nothing begins at {begin} s.")
    if task.end is not None and task.end <= task.begin:
        raise BriefError("--end has to come after --begin.")


def _brightness(stretch: Reduced) -> tuple[float, ...]:
    means: dict[int, list[float]] = {}
    for second, frame in zip(stretch.seconds, stretch.frames, strict=True):
        means.setdefault(int(second - stretch.seconds[0]), []).append(float(frame.mean()) / 255)
    return tuple(sum(one) / len(one) for one in means.values())


def _place(clip: Path, kind: ClipFormat, task: ClipTask) -> Path:
    """Where a file goes; nothing is overwritten."""
    name = f"{clip.stem}-{kind.name.lower()}.{kind.ending}"
    place = (task.into or clip.parent) / name
    if place.exists():
        raise BriefError(f"{place} is there already: name another folder with --into.")
    return place
