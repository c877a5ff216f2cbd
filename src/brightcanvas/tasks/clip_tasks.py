"""Clips: which stretch is played, and a file for each format."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from brightcanvas.analysis.loops import Loop, LoopWish, loop_of
from brightcanvas.analysis.motion import reduced
from brightcanvas.formats.clips.clip_reading import read_facts
from brightcanvas.formats.clips.clip_writing import encoder_version
from brightcanvas.quality.clips.clip_order import ClipLook, ClipPace, ordered
from brightcanvas.quality.clips.clip_search import ClipFile, lightest_clips
from brightcanvas.quality.clips.clip_study import HELD_BYTES
from brightcanvas.tasks.sources import Source
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.errors import SourceError
from brightcanvas.values.file_formats import ClipFormat


@dataclass(frozen=True)
class ChooseLoop(Task[Loop]):
    """The stretch of a source that is played."""

    source: Source
    wish: LoopWish
    result_type: ClassVar[type] = Loop

    def run(self, inputs: Inputs) -> Loop:  # noqa: ARG002 - needs none
        """By comparing frames, reduced.

        Raises:
            SourceError: nothing can be read there, or it was changed meanwhile.
        """
        with self.source.held() as path:
            facts = read_facts(path)
            stretch = reduced(path, facts, self.wish.begin, self.wish.end)
        if not stretch.seconds:
            raise SourceError(f"{path}: not one frame can be read there.")
        return loop_of(stretch, facts, self.wish)


@dataclass(frozen=True)
class MakeClip(Task[tuple[ClipFile, ...]]):
    """One published clip in all its formats, the lightest first."""

    source: Source
    loop: ChooseLoop
    formats: tuple[ClipFormat, ...]
    """Those that are tried; the one that plays everywhere is last."""
    look: ClipLook
    pace: ClipPace
    most: int | None
    """Bytes of each."""
    result_type: ClassVar[object] = tuple[ClipFile, ...]

    @property
    def codecs(self) -> tuple[str, ...]:
        """The encoders'."""
        return tuple(encoder_version(one) for one in self.formats)

    @property
    def room(self) -> int:
        """Px of frames that are held at once, about."""
        width, height = self.look.size
        return min(width * height * FRAMES_HELD, HELD_BYTES)

    @property
    def label(self) -> str:
        """As in ``sails.mp4 at 800 px``."""
        return f"{self.source.path.name} at {self.look.size[0]} px"

    def run(self, inputs: Inputs) -> tuple[ClipFile, ...]:
        """The lightest files that look like their source."""
        loop = inputs.of(self.loop)
        with self.source.held() as path:
            order = ordered(path, read_facts(path), loop, self.look, self.pace, self.most)
            return lightest_clips(order, self.formats)


FRAMES_HELD = 24
"""Of a clip that is being made: those that are compared, and the codec's."""
