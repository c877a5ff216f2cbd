"""One clip made light, without a brief."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.analysis.loops import Loop, LoopWish, loop_of
from brightcanvas.analysis.motion import Reduced, reduced, usual_step
from brightcanvas.analysis.timing import published_size
from brightcanvas.formats.clips.clip_reading import ClipFacts, read_facts
from brightcanvas.formats.survey import survey
from brightcanvas.quality.clips.clip_order import (
    USUAL_DRAWN,
    ClipLook,
    ClipPace,
    density_of,
    ordered,
)
from brightcanvas.quality.clips.clip_played import Played
from brightcanvas.quality.clips.clip_search import ClipFile, lightest_clips
from brightcanvas.quality.metric import Viewing
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.file_formats import ClipFormat
from brightcanvas.values.files import write_whole
from brightcanvas.values.geometry import Rect, plain_number


@dataclass(frozen=True)
class ClipTask:
    """What is asked of every clip."""

    begin: float
    end: float | None
    is_round: bool
    seam: str
    pace: ClipPace
    largest: tuple[int, int]
    drawn: float | None
    """CSS px across where it is shown largest; None: as a usual wide screen shows it."""
    keeps_grain: bool
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
    brightness: tuple[float, ...]
    """Mean of the frames' codes in each second of the stretch, 0 to 1."""
    motion: float
    """Usual change from frame to frame, in codes of 255."""
    speed: float
    left_out: tuple[ClipFormat, ...] = ()
    """Formats that would not have been lighter than one that plays in more browsers."""

    @property
    def jump(self) -> float:
        """Where it begins again, in usual steps from frame to frame, as it was decoded."""
        return max(one.played.jump for _, one in self.files)

    @property
    def flashes(self) -> Played:
        """What was measured on the file that flashes most."""
        return max((one.played for _, one in self.files), key=lambda one: one.flashes.most)


def transcode(clip: Path, task: ClipTask, done: Callable[[str], None]) -> Transcoded:
    """Make one clip light; ``done`` is told of each file.

    Raises:
        BrightCanvasError: it can't be used, or a file is in the way.
    """
    if not survey(clip, task.limit).kind.is_clip:
        raise BriefError(f"{clip} is a picture: transcode takes clips; see compress.")
    facts = read_facts(clip)
    _check_stretch(clip, facts, task)
    for kind in task.formats:
        _place(clip, kind, task)
    end = task.end if task.end is not None else facts.seconds
    stretch = reduced(clip, facts, task.begin, end)
    if not stretch.seconds:
        raise SourceError(
            f"{clip}: nothing can be read from {plain_number(task.begin)} s on; it is"
            f" {plain_number(round(facts.seconds, 2))} s long."
        )
    loop = loop_of(stretch, facts, LoopWish(task.begin, end, task.seam, task.is_round))
    order = ordered(clip, facts, loop, _look(facts, task), task.pace, task.most)
    made = lightest_clips(order, task.formats)
    files = [(_place(clip, one.encoding.format, task), one) for one in made]
    for place, one in files:
        write_whole(place, one.content)
        done(f"{clip.name}, {one.encoding.format.label}")
    motion = usual_step(stretch.frames)
    loop = loop.left_alone() if made[0].is_source else loop
    known = {one.encoding.format for one in made}
    left_out = tuple(one for one in task.formats if one not in known)
    brightness = _brightness(stretch)
    speed = task.pace.speed
    return Transcoded(clip, facts, tuple(files), loop, brightness, motion, speed, left_out)


def _look(facts: ClipFacts, task: ClipTask) -> ClipLook:
    """All of its frames, as a page shows them that is as wide as usual."""
    width, height = int(facts.size.width) // 2 * 2, int(facts.size.height) // 2 * 2
    size = published_size(width, height, task.largest)
    drawn = task.drawn or USUAL_DRAWN * size[0] / max(size)
    viewing = Viewing(density_of(size, drawn))
    area = Rect(0, 0, width, height)
    return ClipLook(area, size, task.target, viewing, keeps_grain=task.keeps_grain)


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
