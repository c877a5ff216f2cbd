"""Choosing the still that stands for a clip."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from brightcanvas.analysis.stills import Still, StillWish, best_stills
from brightcanvas.formats.clips import read_facts
from brightcanvas.tasks.sources import Source
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.errors import SourceError

SHOWN = 6
"""Candidates that are looked at and kept."""


@dataclass(frozen=True)
class ChooseStills(Task[tuple[Still, ...]]):
    """The best stills of a clip, the best one first."""

    source: Source
    wish: StillWish
    result_type: ClassVar[object] = tuple[Still, ...]

    def run(self, inputs: Inputs) -> tuple[Still, ...]:  # noqa: ARG002 - needs none
        """By looking at frames all over the clip.

        Raises:
            SourceError: not one can be read, or it was changed meanwhile.
        """
        with self.source.held() as path:
            found = best_stills(path, read_facts(path), self.wish, SHOWN)
        if not found:
            raise SourceError(f"{path}: not one frame of this clip can be read.")
        return tuple(found)
