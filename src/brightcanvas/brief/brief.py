"""The brief as the rest of the program sees it: complete, checked and resolved."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.values.colours import Colour, Tone
from brightcanvas.values.conditions import Condition
from brightcanvas.values.element_boxes import ElementWidth, HeightRule, MeasuredBoxes
from brightcanvas.values.environments import Environment
from brightcanvas.values.file_formats import ClipFormat, FileFormat
from brightcanvas.values.geometry import Orientation, Point, Rect, Size, Span
from brightcanvas.values.layers import PICTURE, Fit
from brightcanvas.values.legible import Letters, MeasuredWindow, ScrimWish
from brightcanvas.values.targets import Price
from brightcanvas.values.work import Workers


@dataclass(frozen=True)
class Breakpoint:
    """A condition with a name."""

    name: str
    when: Condition
    part: str = ""
    """Of a breakpoint in parts, which one this is; empty: all of it."""
    parted: Breakpoint | None = None
    """What it is a part of."""

    @property
    def widths(self) -> Span:
        """Of its viewports, CSS px: from ``low`` up to, not including, ``high``."""
        return self.when.widths

    @property
    def orientation(self) -> Orientation | None:
        """Of two breakpoints with the same widths, which viewports this one is for."""
        return self.when.orientation

    def has(self, viewport: Size) -> bool:
        """Whether a window (CSS px) is in it; a square one is upright."""
        return self.when.holds(Environment(viewport.width, viewport.height))

    @property
    def whole(self) -> Breakpoint:
        """The breakpoint that it is a part of, or itself."""
        return self.parted or self

    @property
    def full_name(self) -> str:
        """The name with that of the part."""
        return f"{self.name}-{self.part}" if self.part else self.name


@dataclass(frozen=True)
class SourceOption:
    """A source, and what must stay in view in it."""

    source: Path
    poster_at: float | None = None
    """Second of a clip whose frame is the picture; None: the best one, still to be chosen."""
    subjects: tuple[Rect, ...] = ()
    """In fractions of the source; a point is a rectangle of no size."""
    margin: float = 0.0
    """Room round the subjects, in fractions of the source's shorter side."""


LEAST_HEIGHT = 480.0
"""CSS px that no phone's window has on its side, and every laptop's has."""

WIDEST_UPRIGHT_PHONE = 480.0
"""CSS px; who lets something move from a narrower window on means phones too."""


@dataclass(frozen=True)
class ClipWish:
    """How a clip plays behind the content."""

    begin: float
    end: float | None
    """Seconds of the source; None: its end."""
    is_round: bool
    """Whether it plays again and again."""
    seam: str
    """``find``, ``fade``, ``back`` or ``leave``."""
    grain: str
    """``smooth`` or ``keep``."""
    speed: float
    most_rate: float
    from_poster: bool
    formats: tuple[ClipFormat, ...]
    target: float
    """Least score."""
    most: int | None
    """Bytes of each file."""
    when_paused: str
    """``hold``, ``dim`` or ``still``."""
    pause: str
    play: str
    """The button's words."""


@dataclass(frozen=True)
class HostedWish:
    """A clip that another host shows in a frame behind the content."""

    address: str
    """Of the frame's page, with its parameters."""
    above: float
    """CSS px; narrower windows get the still."""
    shape: tuple[int, int]
    title: str
    pause: str
    play: str
    """The button's words."""

    @property
    def shown_from(self) -> Size:
        """The least window: who keeps it from phones means phones on their side too."""
        height = LEAST_HEIGHT if self.above > WIDEST_UPRIGHT_PHONE else 0.0
        return Size(self.above, height)


@dataclass(frozen=True)
class Copy:
    """The text on top."""

    box: Rect
    """In fractions of the element."""
    clear_of_subject: bool
    letters: Letters | None
    """With them, their contrast is checked."""
    most_lines: int = 1
    """Of such letters, which the box has to hold."""
    measured_in: Path | None = None
    """The file that tells where it lies; None: the box was stated."""
    windows: tuple[MeasuredWindow, ...] = ()
    """Of that file; the box is then round all of the breakpoint's lines, and the letters are those
    that are asked most of."""
    pages: tuple[Path, ...] = ()
    """The page that it was measured on, and its style sheets."""
    is_stale: bool = False
    """Whether the page has changed since it was measured."""


ANY_WINDOW = Size(0, 0)


@dataclass(frozen=True)
class Slot:
    """What one backdrop does at one breakpoint, with everything that flowed down to it."""

    breakpoint: Breakpoint
    offers: tuple[SourceOption, ...]
    """Sources to pick from; none: no picture here, only the colour."""
    closeness: str
    copy: Copy | None
    tone: Tone
    scrim: ScrimWish | None
    position: Point | None
    fit: Fit
    repeat: str
    seamless: bool
    whole_motifs: bool
    attachment: str
    height: HeightRule
    width: ElementWidth
    growth: float
    drift: float
    quality: str
    """A level of ``values.targets``."""
    target: float
    """The least score: the level's, or less where a budget asks for it."""
    formats: tuple[FileFormat, ...]
    """In which it is published, the newest first; a drawing has PNG in JPEG's place."""
    behind: Colour | None
    """None: taken from the picture."""
    moving: bool = True
    """Whether its clip plays here, if it has one."""
    moves_from: Size = ANY_WINDOW
    """The least window, in CSS px, in which it does."""
    padding: str = ""
    """CSS lengths; empty: the page's own."""
    one_to_one: bool = False
    """Whether files have one px for each that their screens show."""
    boxes_in: Path | None = None
    """The file with the element's boxes on the page; None: they follow from height and width."""
    boxes: MeasuredBoxes | None = None
    """Of that file."""
    replaces: str = "background"
    """What of the page's own background gives way: ``background`` or ``picture``."""
    layers: str = PICTURE
    """Of the page's background, where only its picture gives way."""
    measured_pages: tuple[Path, ...] = ()
    """The page that they were measured on, and its style sheets."""
    is_stale: bool = False
    """Whether one of them has changed since."""

    height_is_stated: bool = True
    """Whether the brief says it; else the element keeps its own, and ``height`` is what is planned
    for."""

    @property
    def states_height(self) -> bool:
        """Whether the rules say how high the element is."""
        return self.height_is_stated and self.boxes is None and not self.keeps_rule

    @property
    def keeps_rule(self) -> bool:
        """Whether the page's own rule stays, and shows another picture."""
        return self.replaces == "picture"

    @property
    def places_picture(self) -> bool:
        """Whether where the picture lies in its box is ours to say: for what must stay in view."""
        has_subject = any(offer.subjects for offer in self.offers)
        return self.position is None and (not self.keeps_rule or has_subject)

    def plays_in(self, viewport: Size) -> bool:
        """Whether a window of this breakpoint plays the clip, if there is one."""
        least = self.moves_from
        return self.moving and viewport.width >= least.width and viewport.height >= least.height


@dataclass(frozen=True)
class Backdrop:
    """One background: an element and what it shows at each breakpoint, narrowest first."""

    name: str
    element: str
    first_view: bool
    slots: tuple[Slot, ...]
    clip: ClipWish | None = None
    """How its clip plays; None: only its still is shown."""
    hosted: HostedWish | None = None
    form: str = "background"
    """``background`` of the style sheet, or ``element`` behind the content."""
    alternative: str = ""
    """What the picture says to those who don't see it; empty: it is decoration."""
    force: bool = False
    """Whether the rules have to win against inline styles."""


@dataclass(frozen=True)
class PageWish:
    """A page that needs the hints of some backdrops only."""

    name: str
    backdrops: tuple[str, ...]
    file: Path | None = None
    """Its HTML file, if it is named."""


@dataclass(frozen=True)
class Budget:
    """The most bytes that a screen may load for its backdrops."""

    most: int
    breakpoint: str | None = None
    """None: every one."""
    density: float | None = None
    """Screens up to this density; None: all."""
    backdrop: str | None = None
    """None: all of the page together."""


@dataclass(frozen=True)
class ScreenWish:
    """A kind of screen, by its viewports in CSS px."""

    name: str
    widths: Span
    heights: Span
    density: float = 2.0
    share: float | None = None
    """Of all visits; None: as large as that of the others that state none."""


@dataclass(frozen=True)
class Brief:
    """Everything that one ``brief.toml`` asks for."""

    path: Path
    title: str
    output: Path
    address: str
    widest: float
    densest: float
    price: Price
    """What a file has to save."""
    most_parts: int | None
    """Of a breakpoint; None: as many as are worth it."""
    is_strict: bool
    """Whether a promise that fails only outside the usual screens is broken."""
    room: int
    """Bytes that kept results may take up."""
    workers: Workers
    """Who does the slow work."""
    digest: str
    """SHA-256 of the file, in hex."""
    screens: tuple[ScreenWish, ...]
    """Instead of the built-in tables, if any."""
    backdrops: tuple[Backdrop, ...]
    budgets: tuple[Budget, ...] = ()
    address_table: Path | None = None
    """A list of files and their URLs."""
    layer: str = ""
    pages: tuple[PageWish, ...] = ()


def names_by_page(
    pages: Sequence[PageWish], names: Collection[str]
) -> list[tuple[str, frozenset[str]]]:
    """Each page's name, and the names of its backdrops.

    Where the brief names no pages, all are on one, which has no name.
    """
    if not pages:
        return [("", frozenset(names))]
    unlisted = set(names).difference(*(page.backdrops for page in pages))
    return [(page.name, frozenset(page.backdrops) | unlisted) for page in pages]


def page_named(pages: Sequence[PageWish], path: Path) -> PageWish | None:
    """The page of a brief that an HTML file is: by its path, else by its name."""
    wanted = path.resolve()
    by_file = [one for one in pages if one.file and one.file.resolve() == wanted]
    by_name = [one for one in pages if one.name == path.stem.lower()]
    return next(iter((*by_file, *by_name)), None)
