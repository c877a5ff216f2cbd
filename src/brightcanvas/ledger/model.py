"""What was made."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.analysis.loops import Loop
from brightcanvas.brief.model import Backdrop, ClipWish, HostedWish, PageWish
from brightcanvas.framing.sizes import Rung
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.plan.model import View
from brightcanvas.quality.clip_offers import ClipOffer
from brightcanvas.quality.clip_played import Played
from brightcanvas.values.colours import Colour
from brightcanvas.values.legible import Scrim
from brightcanvas.values.picture_formats import FileFormat

LEDGER = "ledger.json"
"""Its name, beside the published files."""


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
    """One size in the newer formats, newest first."""

    rung: Rung
    assets: tuple[Asset, ...]


@dataclass(frozen=True)
class ClipAsset:
    """One published clip."""

    file: str
    type: str
    """As in ``type`` attributes, with its codecs parameter (RFC 6381)."""
    width: int
    height: int
    bytes: int
    sha256: str
    seconds: float
    frames: int
    rate: float
    """Frames a second."""
    score: float
    """Mean over frames of the file; 1 is the source."""
    worst: float
    """Of the frames that were compared."""
    settings: str
    played: Played
    """What was measured on its frames."""
    is_source: bool = False
    """Whether it is the source's own track."""
    is_capped: bool = False
    """Whether it would have had to be heavier than its source to score more."""
    grain: float = 0.0
    """That was taken out, codes."""
    offers: tuple[ClipOffer, ...] = ()
    """What would help where its budget was too small."""


@dataclass(frozen=True)
class ClipShown:
    """The clip of one backdrop at one breakpoint, in all its formats, the best one first."""

    assets: tuple[ClipAsset, ...]
    wish: ClipWish
    chosen: Loop
    """What of its source was to be played, and how it was to begin again."""

    @property
    def loop(self) -> Loop:
        """What is played: all of it, where the source's own track is published."""
        return self.chosen.left_alone() if self.assets[0].is_source else self.chosen

    @property
    def jump(self) -> float:
        """Where it begins again, in usual steps from frame to frame, as it was decoded."""
        return max(one.played.jump for one in self.assets)

    @property
    def jumps(self) -> bool:
        """Whether that is noticed in any of its files."""
        return any(one.played.jumps for one in self.assets)

    @property
    def flashes(self) -> Played:
        """What was measured on the file that flashes most."""
        return max((one.played for one in self.assets), key=lambda one: one.flashes.most)


@dataclass(frozen=True)
class Shown:
    """One backdrop at one breakpoint, as published."""

    view: View
    behind: Colour
    scrim: Scrim | None
    shipped: tuple[Shipped, ...]
    """The least dense first."""
    oldest: Asset | None = None
    """The one file for browsers of any age; None where there is no picture."""
    clip: ClipShown | None = None
    is_covered: bool = False
    """Whether something that moves lies above the still; the scrim then lies above both."""

    @property
    def assets(self) -> tuple[Asset, ...]:
        """Its files, each once: by size, and the one for browsers of any age at last."""
        listed = [asset for one in self.shipped for asset in one.assets]
        return tuple(dict.fromkeys([*listed, *([self.oldest] if self.oldest else [])]))

    @property
    def is_single(self) -> bool:
        """Whether one file serves all browsers and screens."""
        return len(self.assets) == 1


@dataclass(frozen=True)
class BackdropRecord:
    """One backdrop at all breakpoints, narrowest first."""

    backdrop: Backdrop
    """As the brief has it."""
    shown: tuple[Shown, ...]

    @property
    def name(self) -> str:
        """Its name."""
        return self.backdrop.name

    @property
    def element(self) -> str:
        """The selector of the element that it fills."""
        return self.backdrop.element

    @property
    def first_view(self) -> bool:
        """Whether it gets a hint."""
        return self.backdrop.first_view

    @property
    def hosted(self) -> HostedWish | None:
        """A clip that another host shows above it, if any."""
        return self.backdrop.hosted

    @property
    def clip(self) -> ClipShown | None:
        """Of the widest breakpoint at which one plays."""
        return next((one.clip for one in reversed(self.shown) if one.clip), None)


@dataclass(frozen=True)
class Record:
    """All backdrops of a build."""

    title: str
    addresses: Addresses
    backdrops: tuple[BackdropRecord, ...]
    layer: str = ""
    """Cascade layer that the rules lie in; empty: in none."""
    pages: tuple[PageWish, ...] = ()
    """Those that the brief names, each with its backdrops; none: all are on one page."""

    @property
    def moves(self) -> bool:
        """Whether anything needs the script."""
        return any(one.clip or one.hosted for one in self.backdrops)

    @property
    def clips(self) -> tuple[ClipAsset, ...]:
        """Every published clip once, in order."""
        shown = (one.clip for backdrop in self.backdrops for one in backdrop.shown)
        found = {asset.file: asset for clip in shown if clip for asset in clip.assets}
        return tuple(found.values())

    @property
    def assets(self) -> tuple[Asset, ...]:
        """Every published picture once, in order."""
        found = {
            asset.file: asset
            for backdrop in self.backdrops
            for shown in backdrop.shown
            for asset in shown.assets
        }
        return tuple(found.values())
