"""What a plan says."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.brief.brief import Backdrop, Brief, Slot, SourceOption
from brightcanvas.formats.survey import SourceFacts
from brightcanvas.framing.compromise import CutOrder, Framed
from brightcanvas.framing.copies import CopyPart
from brightcanvas.framing.cuts import Cut
from brightcanvas.framing.size_variants import Demand, Sizes, SizeVariant
from brightcanvas.framing.stages import Stage
from brightcanvas.framing.weights import UNTRIED, KnownPicture
from brightcanvas.values.colours import Tone
from brightcanvas.values.geometry import Rect, Size


@dataclass(frozen=True)
class Preparation:
    """What is done to a source's pixels before anything is cut or resized."""

    seamless: bool = False
    """Its edges are made to meet."""
    rolled: bool = False
    """It is moved round so that its edges run between its motifs."""


@dataclass(frozen=True)
class Picture:
    """What a backdrop shows of a source at one breakpoint, and in which sizes."""

    offer: SourceOption
    facts: SourceFacts
    size: Size
    """Of the prepared source, px."""
    preparation: Preparation
    stage: Stage
    subjects: tuple[Rect, ...]
    """In source px."""
    copy: Rect | None
    """In fractions of what the picture has to fill, over all of its drift."""
    order: CutOrder | None
    """What was wished of the cut; None where the brief states the position, or nothing is cut."""
    framed: Framed
    demand: Demand
    sizes: Sizes
    tone: Tone
    copies: tuple[CopyPart, ...] = ()
    """Where the copy lies in every box, by its letters."""
    tried: KnownPicture = UNTRIED
    """What quick trials have told of its files."""
    lender: Picture | None = None
    """Of another part, whose cut and files it takes; None: it has its own."""

    @property
    def files_of(self) -> Picture:
        """The picture whose files are shown: its own, or those that it has borrowed."""
        return self.lender or self

    @property
    def size_variants(self) -> tuple[SizeVariant, ...]:
        """Its sizes, the least dense first."""
        return self.sizes.size_variants

    @property
    def drawn(self) -> float:
        """CSS px across at which the largest box draws the whole cut."""
        return max(self.demand.needed(viewport_box.box) for viewport_box in self.stage.corners)

    @property
    def cut(self) -> Cut:
        """What is shipped of the source."""
        return self.framed.cut


@dataclass(frozen=True)
class PlannedVariant:
    """One backdrop at one breakpoint; without a picture there is only the colour."""

    slot: Slot
    picture: Picture | None


@dataclass(frozen=True)
class Parting:
    """A breakpoint that was parted."""

    breakpoint: str
    count: int
    """Of its parts."""
    saved: float
    """Bytes that the average visit saves by it, the price of its files taken off."""


@dataclass(frozen=True)
class BackdropPlan:
    """One backdrop at all breakpoints, narrowest first; of a parted one, each part is a view."""

    backdrop: Backdrop
    views: tuple[PlannedVariant, ...]
    partings: tuple[Parting, ...] = ()


@dataclass(frozen=True)
class Plan:
    """Everything that will be made for a brief."""

    brief: Brief
    backdrops: tuple[BackdropPlan, ...]

    @property
    def views(self) -> tuple[PlannedVariant, ...]:
        """The views of all backdrops."""
        return tuple(view for one in self.backdrops for view in one.views)


SLACK = 0.01
"""Source px by which rounding may push an edge out."""


def sure_window(picture: Picture, aspect: float) -> Rect:
    """What of the source (source px) a box shows at every moment of the drift."""
    window = picture.cut.seen_at(aspect)
    hidden = picture.stage.hidden * window.height
    return Rect(window.left, window.top + hidden, window.right, window.bottom - hidden)


def lost_share(picture: Picture, aspect: float) -> float:
    """How much of a subject's width or height a box of ``aspect`` cuts off; the worst, 0..1."""
    window = sure_window(picture, aspect)
    return max(_outside_share(subject, window) for subject in picture.subjects)


def _outside_share(subject: Rect, window: Rect) -> float:
    if window.contains(subject, SLACK):
        return 0.0
    across = max(0.0, window.left - subject.left) + max(0.0, subject.right - window.right)
    down = max(0.0, window.top - subject.top) + max(0.0, subject.bottom - window.bottom)
    shares = [
        min(1.0, outside / length) if length else 1.0
        for outside, length in ((across, subject.width), (down, subject.height))
        if outside > SLACK
    ]
    return max(shares, default=0.0)
