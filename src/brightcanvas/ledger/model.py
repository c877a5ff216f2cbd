"""What was made."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.formats import FileFormat
from brightcanvas.basics.legible import Scrim
from brightcanvas.framing.rungs import Rung
from brightcanvas.plan.model import View


@dataclass(frozen=True)
class Asset:
    """One published file."""

    file: str
    format: FileFormat
    width: int
    height: int
    bytes: int
    sha256: str
    score: float
    """How much it looks like its original as displayed; 1 is the original."""
    worst: float
    """The score of its worst region."""
    worst_place: tuple[float, float]
    """The middle of that region, in fractions of the picture."""
    settings: str
    """How it was encoded."""


@dataclass(frozen=True)
class Shipped:
    """One rung in all its formats, newest first, the one every browser knows last."""

    rung: Rung
    assets: tuple[Asset, ...]


@dataclass(frozen=True)
class Shown:
    """One backdrop at one breakpoint, as published."""

    view: View
    behind: Colour
    scrim: Scrim | None
    shipped: tuple[Shipped, ...]


@dataclass(frozen=True)
class BackdropRecord:
    """One backdrop at all breakpoints, narrowest first."""

    name: str
    element: str
    first_view: bool
    shown: tuple[Shown, ...]


@dataclass(frozen=True)
class Record:
    """All backdrops of a build."""

    title: str
    address: str
    backdrops: tuple[BackdropRecord, ...]

    @property
    def assets(self) -> tuple[Asset, ...]:
        """Every published picture once, in order."""
        found = {
            asset.file: asset
            for backdrop in self.backdrops
            for shown in backdrop.shown
            for shipped in shown.shipped
            for asset in shipped.assets
        }
        return tuple(found.values())
