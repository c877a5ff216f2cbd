"""Clips: which stretch is played, whether it flashes, and a file for each format."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

from brightcanvas.analysis.flashes import Flashes, flashes_of
from brightcanvas.analysis.loops import Loop, chosen_loop, reduced
from brightcanvas.analysis.timing import published_size, timing_of
from brightcanvas.formats.clip_files import encoder_version
from brightcanvas.formats.clips import read_facts
from brightcanvas.formats.moments import FrameReading
from brightcanvas.quality.clip_search import ClipFile, ClipOrder, lightest_clips
from brightcanvas.quality.metric import Viewing
from brightcanvas.tasks.sources import Source
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.clip_formats import ClipFormat
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Rect
from brightcanvas.values.tones import Tone


@dataclass(frozen=True)
class ChooseLoop(Task[Loop]):
    """The stretch of a source that is played."""

    source: Source
    begin: float
    """Seconds of the source between which it lies."""
    end: float
    seam: str
    """How a round one may be closed."""
    is_round: bool
    result_type: ClassVar[type] = Loop

    def run(self, inputs: Inputs) -> Loop:  # noqa: ARG002 - needs none
        """By comparing frames, reduced.

        Raises:
            SourceError: nothing can be read there, or it was changed meanwhile.
        """
        with self.source.held() as path:
            stretch = reduced(path, read_facts(path), self.begin, self.end)
        if not stretch.seconds:
            raise SourceError(f"{path}: not one frame can be read there.")
        return chosen_loop(stretch, self.seam, is_round=self.is_round)


@dataclass(frozen=True)
class CountFlashes(Task[Flashes]):
    """Flashes of a stretch as it is played; a round is looked at beyond its seam."""

    source: Source
    loop: ChooseLoop
    speed: float
    result_type: ClassVar[type] = Flashes

    def run(self, inputs: Inputs) -> Flashes:
        """By the luminance of its frames."""
        loop = inputs.of(self.loop)
        with self.source.held() as path:
            return flashes_of(path, read_facts(path), loop.begin, loop.end, self.speed)


@dataclass(frozen=True)
class MakeClip(Task[ClipFile]):
    """One published clip in one format."""

    source: Source
    loop: ChooseLoop
    format: ClipFormat
    area: Rect
    """Of the frames, in whole even px."""
    speed: float
    most_rate: float
    """Frames a second."""
    begin_at: float | None
    """Second of the source with which it begins, if that lies within."""
    target: float
    viewing: Viewing
    most: int | None
    """Bytes."""
    tone: Tone
    css_px: float
    """Px of the clip that make a CSS px; 1 where nothing is blurred."""
    result_type: ClassVar[type] = ClipFile

    @property
    def codecs(self) -> tuple[str, ...]:
        """The encoder's."""
        return (encoder_version(self.format),)

    @property
    def size(self) -> tuple[int, int]:
        """Of the published clip."""
        return published_size(self.area.width, self.area.height)

    @property
    def room(self) -> int:
        """Px of frames that are held at once, about."""
        width, height = self.size
        return width * height * FRAMES_HELD

    @property
    def label(self) -> str:
        """As in ``sails.mp4 at 800 px, AV1``."""
        return f"{self.source.path.name} at {self.size[0]} px, {self.format.label}"

    def run(self, inputs: Inputs) -> ClipFile:
        """The lightest file that looks like its source."""
        with self.source.held() as path:
            return next(lightest_clips(self._order(path, inputs.of(self.loop)), [self.format]))

    def _order(self, path: Path, loop: Loop) -> ClipOrder:
        timing = timing_of(loop, read_facts(path), self.speed, self.most_rate, self.begin_at)
        reading = FrameReading(size=self.size, area=self.area, planar=True)
        return ClipOrder(
            path, timing, reading, self.target, self.viewing, self.most, self.tone, self.css_px
        )


FRAMES_HELD = 4
"""Of a clip that is being made: those of trials count half as much, being planes of 4:2:0."""
