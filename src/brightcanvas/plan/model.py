"""What a plan says."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.basics.shapes import Rect
from brightcanvas.brief.model import Backdrop, Brief, Slot
from brightcanvas.framing.cuts import Cut
from brightcanvas.framing.rungs import Rung
from brightcanvas.framing.stages import Stage
from brightcanvas.media.survey import SourceFacts


@dataclass(frozen=True)
class Picture:
    """What a backdrop shows of a source at one breakpoint, and in which sizes."""

    facts: SourceFacts
    stage: Stage
    subject: Rect | None
    """In source px."""
    cut: Cut
    rungs: tuple[Rung, ...]


@dataclass(frozen=True)
class View:
    """One backdrop at one breakpoint; without a picture there is only the colour."""

    slot: Slot
    picture: Picture | None


@dataclass(frozen=True)
class BackdropPlan:
    """One backdrop at all breakpoints, narrowest first."""

    backdrop: Backdrop
    views: tuple[View, ...]


@dataclass(frozen=True)
class Plan:
    """Everything that will be made for a brief."""

    brief: Brief
    backdrops: tuple[BackdropPlan, ...]

    @property
    def views(self) -> tuple[View, ...]:
        """The views of all backdrops."""
        return tuple(view for one in self.backdrops for view in one.views)
