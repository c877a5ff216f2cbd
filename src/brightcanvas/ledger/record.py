"""What was made, where it will be found, and what single screens load of it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from brightcanvas.analysis.loops import Loop
from brightcanvas.brief.brief import Backdrop, ClipWish, HostedWish, PageWish
from brightcanvas.framing.size_variants import SizeVariant, rung_for
from brightcanvas.plan.planned import PlannedVariant
from brightcanvas.quality.clips.clip_offers import ClipOffer
from brightcanvas.quality.clips.clip_played import Played
from brightcanvas.values.colours import Colour
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.legible import Scrim
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class Addresses:
    """URLs by file name: from a table where it has one, else a prefix and the name."""

    prefix: str = ""
    table: Mapping[str, str] = field(default_factory=dict)

    def of(self, file: str) -> str:
        """The URL of a published file, one text wherever it stands.

        Spaces and commas are escaped: in a ``srcset`` they would part it.
        """
        url = self.table.get(file) or self.prefix + file
        return url.replace(" ", "%20").replace(",", "%2C")

    def lacking(self, files: Iterable[str]) -> tuple[str, ...]:
        """The files that a table should have and doesn't; none where there is no table."""
        return tuple(one for one in files if one not in self.table) if self.table else ()


BESIDE = Addresses()
"""Files beside the page."""


def scrim_text(scrim: Scrim) -> str:
    """A scrim in words: ``a 38 % dark scrim on the left``."""
    colour = scrim.colour
    is_grey = colour.red == colour.green == colour.blue
    tone = ("dark" if colour.red < 0.5 else "light") if is_grey else colour.css
    place = {"left": " on the left", "right": " on the right", "top": " above", "bottom": " below"}
    kind = "scrim of fine lines" if scrim.lines else "scrim"
    return f"a {scrim.strength:.1%} {tone} {kind}{place.get(scrim.side or '', '')}".replace(
        "%", " %"
    )


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

    size_variant: SizeVariant
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
class PublishedVariant:
    """One backdrop at one breakpoint, as published."""

    view: PlannedVariant
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
    shown: tuple[PublishedVariant, ...]

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


TOLD_SCREENS = 3
"""How many screens a summary tells of."""


@dataclass(frozen=True)
class BackdropLoad:
    """What one screen loads of one backdrop."""

    picture: Asset | None
    """None: the colour alone."""
    clip: int
    """Bytes of the clip that plays there."""

    @property
    def bytes(self) -> int:
        """All of it."""
        return self.clip + (self.picture.bytes if self.picture else 0)


def told_screens(usual: Sequence[Screen]) -> tuple[Screen, ...]:
    """One screen of each kind: of each name the one with the largest share, narrowest first.

    A phone, a tablet and a laptop if the table has them; else the kinds with the largest shares.
    """
    kinds: dict[str, list[Screen]] = {}
    for one in usual:
        kinds.setdefault(one.name, []).append(one)
    named: list[str] = [kind for kind in ("phone", "tablet", "laptop") if kind in kinds]
    if len(named) < TOLD_SCREENS:
        named = sorted(kinds, key=lambda kind: -sum(one.share for one in kinds[kind]))
    best = (max(kinds[kind], key=lambda one: one.share) for kind in named[:TOLD_SCREENS])
    return tuple(sorted(best, key=lambda one: one.viewport.width))


def shown_on(record: BackdropRecord, screen: Screen) -> PublishedVariant | None:
    """The part of a backdrop that a screen is in."""
    shown = (one for one in record.shown if one.view.slot.breakpoint.has(screen.viewport))
    return next(shown, None)


def load_of(record: BackdropRecord, screen: Screen) -> BackdropLoad:
    """What a screen loads, in a browser that knows the newest formats."""
    shown = shown_on(record, screen)
    if shown is None or not shown.shipped:
        return BackdropLoad(None, 0)
    size_variant = rung_for([one.size_variant for one in shown.shipped], screen.density)
    shipped = next(one for one in shown.shipped if one.size_variant == size_variant)
    plays = shown.clip and shown.view.slot.plays_in(screen.viewport)
    return BackdropLoad(
        shipped.assets[0], shown.clip.assets[0].bytes if shown.clip and plays else 0
    )
