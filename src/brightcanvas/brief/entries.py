"""What people may write in a brief: every key, its type, its meaning.

Messages of the checks say what was expected; where (file, line, key) is added by loading.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator
from pydantic.fields import FieldInfo

from brightcanvas.brief.brief import Copy
from brightcanvas.brief.selector_text import check_selector
from brightcanvas.values.colours import UNTREATED, Colour, Tone, parse_colour
from brightcanvas.values.element_boxes import (
    DEFAULT_HEIGHT,
    HeightRule,
    check_padding,
    parse_height,
    parse_width,
)
from brightcanvas.values.file_formats import OFFERED, ClipFormat, FileFormat
from brightcanvas.values.geometry import WHOLE, Point, Rect
from brightcanvas.values.layers import check_layers, parse_fit
from brightcanvas.values.legible import Letters, ScrimWish
from brightcanvas.values.targets import DEFAULT_LEVEL
from brightcanvas.values.words import parse_bytes
from brightcanvas.values.work import parse_workers


def as_it_is(value: Any) -> Any:  # noqa: ANN401 - any value
    """What is written is what is meant."""
    return value


if TYPE_CHECKING:
    FormatWord = str
    ClipWord = str
else:  # the words are declared with the formats
    FormatWord = Literal[tuple(one.word for one in OFFERED)]
    ClipWord = Literal[tuple(one.word for one in ClipFormat)]

Fraction = Annotated[float, Field(ge=0, le=1)]


@dataclass(frozen=True)
class Flows:
    """A key that flows down from the widest screens until a narrower breakpoint overrides it."""

    default: Any
    read: Callable[[Any], Any] | None = as_it_is
    """From what is written to what is meant; None: several keys together decide it."""
    slot: str = ""
    """What it is called in the model, where that is another word."""
    of_source: bool = False
    """Whether it belongs to one source and says nothing about another."""


def checked(parse: Callable[[str], Any]) -> AfterValidator:
    """A text stays as it was written, if it can be read."""

    def check(text: str) -> str:
        parse(text)
        return text

    return AfterValidator(check)


def _check_name(text: str) -> str:
    if not re.fullmatch(r"[a-z0-9]+(-[a-z0-9]+)*", text) or len(text) > 60:
        raise ValueError("a name of small letters, digits and hyphens, such as mill-at-dusk")
    return text


def _check_behind(text: str) -> str:
    if text != "auto":
        parse_colour(text)
    return text


def _check_path(text: str) -> str:
    if not text.strip() or any(ord(character) < 32 for character in text):
        raise ValueError("a path without line breaks")
    return text


_RESERVED = ("default", "inherit", "initial", "revert", "revert-layer", "unset")
"""Words that name nothing else (CSS Values 4, section 4.2)."""


def _check_layer(text: str) -> str:
    if text and not re.fullmatch(r"[a-z][a-z0-9-]*(\.[a-z][a-z0-9-]*)*", text):
        raise ValueError("the name of a layer, such as backdrops or site.backdrops")
    if set(text.split(".")) & set(_RESERVED):
        raise ValueError(f"a name that CSS has not reserved ({', '.join(_RESERVED)})")
    return text


def _check_address(text: str) -> str:
    wanted = "a URL prefix such as /backdrops/ or https://cdn.example/backdrops/"
    if re.search(r"[\s\"'<>\\(){}`|^]|[^\x20-\x7e]", text):
        raise ValueError(f"{wanted}, without spaces, quotes or brackets")
    if re.match(r"[^/?#]*:", text) and not re.match(r"https?://[^/]", text):
        raise ValueError(wanted)
    return text


Name = Annotated[str, AfterValidator(_check_name)]
ColourText = Annotated[str, checked(parse_colour)]
WidthText = Annotated[str, checked(parse_width)]
HeightText = Annotated[str, checked(parse_height)]
FitText = Annotated[str, checked(parse_fit)]
BehindText = Annotated[str, AfterValidator(_check_behind)]
PathText = Annotated[str, AfterValidator(_check_path)]
AddressText = Annotated[str, AfterValidator(_check_address)]
BytesText = Annotated[str, checked(parse_bytes)]
SelectorText = Annotated[str, AfterValidator(check_selector)]


class Entry(BaseModel):
    """A table of the brief: no unknown keys, no silent conversions."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)


def _check_box(box: list[float]) -> list[float]:
    if not (box[0] < box[2] and box[1] < box[3]):
        raise ValueError("[left, top, right, bottom] with left < right and top < bottom")
    return box


Box = Annotated[list[Fraction], Field(min_length=4, max_length=4), AfterValidator(_check_box)]


class SubjectEntry(Entry):
    """What must stay in view, in fractions of the source: a point, a box or several boxes."""

    point: Annotated[list[Fraction], Field(min_length=2, max_length=2)] | None = Field(
        None, description="[x, y] from the left and from the top"
    )
    box: Box | None = Field(None, description="[left, top, right, bottom]")
    boxes: Annotated[list[Box], Field(min_length=1, max_length=6)] | None = Field(
        None, description="several boxes that must all stay in view"
    )
    margin: Annotated[float, Field(ge=0, le=0.5)] = Field(
        0.0, description="room round it, in fractions of the source's shorter side"
    )

    @model_validator(mode="after")
    def _one_of_all(self) -> Self:
        if sum(one is not None for one in (self.point, self.box, self.boxes)) != 1:
            raise ValueError(
                "one of point = [x, y], box = [left, top, right, bottom] or boxes = [...]"
            )
        return self


class CopyEntry(Entry):
    """The text on top."""

    box: Box | None = Field(
        None, description="[left, top, right, bottom], fractions of the element"
    )
    measured: PathText | None = Field(
        None,
        description="instead of a box, the file of 'bright-canvas measure': where each line of the"
        " page's text lies in every window, and how it looks",
    )
    clear_of_subject: bool = Field(
        default=False, description="true: the copy never lies on the subject"
    )
    colour: ColourText | None = Field(
        None, description="of the letters; with it, their contrast is checked in every window"
    )
    size: Annotated[float, Field(gt=0, le=1000)] = Field(16.0, description="of the letters, CSS px")
    most_lines: Annotated[float, Field(ge=1, le=100, multiple_of=1)] = Field(
        1.0, description="of such letters, which the box has to hold"
    )
    bold: bool = Field(default=False, description="whether the letters are bold")
    contrast: Annotated[float, Field(ge=1, le=21)] | None = Field(
        None, description="to be reached; by default 4.5, or 3 for large text (WCAG 2.2)"
    )

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if (self.box is None) == (self.measured is None):
            raise ValueError('either box = [left, top, right, bottom] or measured = "FILE"')
        if self.measured and self.model_fields_set & {"colour", "size", "bold", "most_lines"}:
            raise ValueError("no colour, size, bold or most_lines beside measured: it tells them")
        return self


class ScrimEntry(Entry):
    """A tint between picture and copy, written into the style sheet."""

    strength: Fraction | None = Field(None, description="0 to 1")
    least: bool = Field(
        default=False, description="true: the weakest with which the copy can be read"
    )
    colour: ColourText | None = Field(
        None, description="black behind light letters, white behind dark ones by default"
    )
    side: Literal["left", "right", "top", "bottom"] | None = Field(
        None, description="where it lies, fading out beyond the copy; by default everywhere"
    )

    lines: bool = Field(default=False, description="true: fine lines instead of an even tint")
    baked: Literal["no", "yes", "lighter"] = Field(
        "no", description="yes: into the pictures; lighter: if that weighs less than a scrim"
    )

    @model_validator(mode="after")
    def _one_strength(self) -> Self:
        if self.lines and self.side:
            raise ValueError("either lines = true or a side")
        if self.baked != "no" and (self.lines or self.side):
            raise ValueError("baked goes with an even scrim, without a side or lines")
        if (self.strength is None) != self.least:
            raise ValueError("either strength = 0.4 (or so) or least = true")
        return self


class FadeEntry(Entry):
    """Mixing in a colour."""

    colour: ColourText
    amount: Fraction


class ToneEntry(Entry):
    """Changes of tone that are baked into the pictures; amounts are 0 to 1."""

    ground: ColourText | None = Field(None, description="colour under transparent parts")
    soften: Annotated[float, Field(ge=0, le=200)] = Field(
        0.0, description="radius of the blur, CSS px at the largest box"
    )
    calm: Fraction = Field(0.0, description="less contrast, towards the picture's mean")
    desaturate: Fraction = Field(0.0, description="less colour")
    tint: Annotated[list[ColourText], Field(min_length=2, max_length=2)] | None = Field(
        None, description="[dark, light]: two colours for its darks and its lights"
    )
    lighten: Fraction = Field(0.0, description="more light")
    darken: Fraction = Field(0.0, description="less light")
    fade: FadeEntry | None = Field(None, description="{ colour, amount }, like a flat scrim")


PosterTime = Annotated[float, Field(ge=0)] | Literal["best", "first"]


class ClipEntry(Entry):
    """How a clip plays behind the content; without this table only its still is shown."""

    begin: Annotated[float, Field(ge=0)] = Field(0.0, description="second of the source")
    end: Annotated[float, Field(gt=0)] | None = Field(
        None, description="second of the source; its end by default"
    )
    plays: Literal["round", "once"] = Field("round", description="again and again, or once")
    seam: Literal["find", "fade", "back", "leave"] = Field(
        "find",
        description="how it begins again: the best way, a fade, forth and back, or as it is",
    )
    grain: Literal["smooth", "keep"] = Field(
        "smooth", description="a sensor's grain: taken out, which saves most of the bytes, or kept"
    )
    speed: Annotated[float, Field(ge=0.1, le=8)] = Field(1.0, description="2 is twice as fast")
    most_rate: Annotated[float, Field(ge=5, le=60)] = Field(
        30.0, description="frames a second, at most"
    )
    from_poster: bool = Field(
        default=True, description="true: a round begins with the poster's frame"
    )
    codecs: Annotated[list[ClipWord], Field(min_length=1)] = Field(
        ["av1", "h264"], description="in which to publish; h264 plays everywhere"
    )
    quality: Literal["careful", "everyday", "thrifty"] = Field(
        "thrifty", description="how much it looks like the source"
    )
    most: BytesText | None = Field(None, description="bytes of each file, such as 900kB")
    when_paused: Literal["hold", "dim", "still"] = Field(
        "hold", description="the frame stays, is dimmed, or gives way to the still"
    )
    pause: Annotated[str, Field(min_length=1, max_length=80)] = Field(
        "Pause the moving background", description="the button's words while it plays"
    )
    play: Annotated[str, Field(min_length=1, max_length=80)] = Field(
        "Play the moving background", description="the button's words while it is paused"
    )

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.end is not None and self.end <= self.begin:
            raise ValueError("an 'end' later than its 'begin'")
        return self


def _check_frame(text: str) -> str:
    if not re.match(r"https?://[^/]", _check_address(text)) or "?" in text or "#" in text:
        raise ValueError("a URL that begins with https:// and has no ? or #: see parameters")
    return text


def _check_shape(text: str) -> str:
    if not re.fullmatch(r"[1-9]\d{0,3}/[1-9]\d{0,3}", text):
        raise ValueError("a shape such as 16/9")
    return text


class HostedEntry(Entry):
    """A clip that another host shows in a frame behind the content."""

    address: Annotated[str, AfterValidator(_check_frame)] = Field(description="of the frame's page")
    parameters: dict[str, str] = Field(
        default_factory=dict,
        description="what that host wants to hear so that it plays by itself, silent, round",
    )
    above: Annotated[float, Field(ge=0, le=20000)] = Field(
        800.0,
        description="CSS px; narrower windows, and phones on their side, get the still and ask that"
        " host for nothing",
    )
    shape: Annotated[str, AfterValidator(_check_shape)] = Field("16/9", description="of the clip")
    title: Annotated[str, Field(min_length=1, max_length=80)] = Field(
        "Moving background", description="of the frame"
    )
    pause: Annotated[str, Field(min_length=1, max_length=80)] = Field(
        "Stop the moving background", description="the button's words while it is shown"
    )
    play: Annotated[str, Field(min_length=1, max_length=80)] = Field(
        "Show the moving background", description="the button's words while it is not"
    )


class OfferEntry(Entry):
    """One of several sources to pick from."""

    source: PathText = Field(description="picture or clip, from the brief's folder")
    subject: SubjectEntry | None = Field(None, description="what must stay in view in this one")
    poster_at: PosterTime | None = Field(None, description="see poster_at above")


BLACK = Colour(0.0, 0.0, 0.0)


def read_copy(entry: CopyEntry | None) -> Copy | None:
    """The text on top; its letters where their colour is told."""
    if entry is None:
        return None
    letters = None
    if entry.measured or entry.box is None:
        wanted = Letters(BLACK, entry.size, wanted=entry.contrast) if entry.contrast else None
        return Copy(WHOLE, entry.clear_of_subject, wanted, measured_in=Path(entry.measured or ""))
    if entry.colour:
        letters = Letters(parse_colour(entry.colour), entry.size, entry.bold, entry.contrast)
    return Copy(Rect(*entry.box), entry.clear_of_subject, letters, int(entry.most_lines))


def read_scrim(entry: ScrimEntry | None) -> ScrimWish | None:
    """A tint between picture and copy."""
    if entry is None:
        return None
    colour = parse_colour(entry.colour) if entry.colour else None
    return ScrimWish(entry.strength, colour, entry.side, entry.lines, entry.baked)


def read_tone(entry: ToneEntry | None) -> Tone:
    """Changes of tone, none where nothing is written."""
    if entry is None:
        return UNTREATED
    tint = (parse_colour(entry.tint[0]), parse_colour(entry.tint[1])) if entry.tint else None
    fade = entry.fade
    return Tone(
        ground=parse_colour(entry.ground) if entry.ground else None,
        soften=entry.soften,
        calm=entry.calm,
        desaturate=entry.desaturate,
        tint=tint,
        lighten=entry.lighten,
        darken=entry.darken,
        fade=fade.amount if fade else 0.0,
        fade_to=parse_colour(fade.colour) if fade else UNTREATED.fade_to,
    )


def read_position(place: list[float] | None) -> Point | None:
    """A stated position."""
    return Point(*place) if place else None


def read_sharp(word: str) -> bool:
    """Whether files have a px for each that screens show."""
    return word == "one-to-one"


def read_formats(words: list[str]) -> tuple[FileFormat, ...]:
    """The newest first."""
    return tuple(one for one in OFFERED if one.word in words)


def read_behind(text: str) -> Colour | None:
    """A colour; None is taken from the picture."""
    return None if text == "auto" else parse_colour(text)


def read_height(text: str | None) -> HeightRule:
    """The height that is planned for."""
    return parse_height(text) if text else DEFAULT_HEIGHT


class SlotEntry(Entry):
    """The keys that may differ from breakpoint to breakpoint."""

    source: Annotated[PathText | None, Flows(None, None, of_source=True)] = Field(
        None,
        description="picture (JPEG, PNG, WebP, AVIF, HEIC, TIFF, GIF), drawing (SVG) or clip (MP4,"
        " MOV, WebM, MKV, AVI), from the brief's folder",
    )
    pick_from: Annotated[
        Annotated[list[OfferEntry], Field(min_length=1)] | None, Flows(None, None, of_source=True)
    ] = Field(
        None, description="several sources: the one that serves with the most pixels is taken"
    )
    plain: Annotated[bool | None, Flows(default=False, read=None, of_source=True)] = Field(
        None, description="true: no picture here, only the colour"
    )
    poster_at: Annotated[PosterTime | None, Flows("best", None, of_source=True)] = Field(
        None, description="frame of the clip that is the picture: best, first, or its second"
    )
    moving: Annotated[bool | None, Flows(None, None)] = Field(
        None,
        description="true: the clip plays here; by default in windows of 800 x 480 px and more,"
        " so on no phone",
    )
    subject: Annotated[SubjectEntry | None, Flows(None, None, of_source=True)] = Field(
        None, description="what must stay in view"
    )
    closeness: Annotated[Literal["wide", "halfway", "close"] | None, Flows("wide")] = Field(
        None,
        description="how much of the scene round the subject is shown: as much as can be, or as"
        " close as the pixels allow",
    )
    copy_: Annotated[CopyEntry | None, Flows(None, read_copy, slot="copy")] = Field(
        None, alias="copy", description="the text on top"
    )
    tone: Annotated[ToneEntry | None, Flows(None, read_tone)] = Field(
        None, description="changes of tone, baked into the pictures"
    )
    scrim: Annotated[ScrimEntry | None, Flows(None, read_scrim)] = Field(
        None, description="a tint between picture and copy"
    )
    position: Annotated[
        Annotated[list[Fraction], Field(min_length=2, max_length=2)] | None,
        Flows(None, read_position, of_source=True),
    ] = Field(
        None,
        description="[x, y] in fractions, where you want it yourself; else it follows from"
        " the subject",
    )
    size: Annotated[FitText | None, Flows("cover", parse_fit, slot="fit")] = Field(
        None, description="cover, contain or a width such as 240px"
    )
    repeat: Annotated[
        Literal["no-repeat", "repeat", "repeat-x", "repeat-y"] | None, Flows("no-repeat")
    ] = Field(None, description="as in CSS")
    seamless: Annotated[bool | None, Flows(default=False)] = Field(
        None, description="true: a repeated picture is made to meet at its edges"
    )
    whole_motifs: Annotated[bool | None, Flows(default=False)] = Field(
        None, description="true: only whole tiles are shown, and no motif is cut at their edges"
    )
    attachment: Annotated[Literal["scroll", "fixed"] | None, Flows("scroll")] = Field(
        None, description="as in CSS"
    )
    height: Annotated[HeightText | None, Flows(None, read_height)] = Field(
        None,
        description="least height of the element: 420px, 30rem, 80svh, 16/9, max(420px, 70svh);"
        " without it the element keeps its own, and 60svh is planned for",
    )
    measured: Annotated[PathText | None, Flows(None, slot="boxes_in")] = Field(
        None,
        description="instead of height and width, the file of 'bright-canvas measure': the element"
        " keeps the boxes that it has on your page, and no height is written",
    )
    replaces: Annotated[Literal["background", "picture"] | None, Flows("background")] = Field(
        None,
        description="what of the page's own background gives way: all of it, or only its picture,"
        " so that its size, position, layers and conditions stay the page's",
    )
    layers: Annotated[Annotated[str, AfterValidator(check_layers)] | None, Flows("picture")] = (
        Field(
            None,
            description="with replaces = 'picture', the layers of the page's background in their"
            " order, such as linear-gradient(#0008, #0000), picture",
        )
    )
    width: Annotated[WidthText | None, Flows("100%", parse_width)] = Field(
        None, description="width of the element on your page: 60%, 1200px, min(60%, 1200px)"
    )
    padding: Annotated[Annotated[str, AfterValidator(check_padding)] | None, Flows("")] = Field(
        None,
        description="room round the content, as in CSS: 96px 5vw, clamp(2rem, 5vw, 6rem); counts"
        " into the height",
    )
    growth: Annotated[Annotated[float, Field(ge=0, le=5000)] | None, Flows(0.0)] = Field(
        None, description="CSS px by which content may make the element higher"
    )
    drift: Annotated[Annotated[float, Field(ge=0, le=2000)] | None, Flows(0.0)] = Field(
        None, description="CSS px that the picture drifts while the page scrolls"
    )
    quality: Annotated[Literal["careful", "everyday", "thrifty"] | None, Flows(DEFAULT_LEVEL)] = (
        Field(None, description="how much the files look like the original as displayed")
    )
    sharp: Annotated[
        Literal["as-seen", "one-to-one"] | None, Flows("as-seen", read_sharp, slot="one_to_one")
    ] = Field(None, description="one-to-one: a px for each that a screen shows, seen or not")
    formats: Annotated[
        Annotated[list[FormatWord], Field(min_length=1)] | None,
        Flows(["avif", "jpeg"], read_formats),
    ] = Field(
        None,
        description="in which to publish; PNG takes JPEG's place for flat art and transparency;"
        " beside AVIF, WebP is for form = 'element' only",
    )
    behind: Annotated[BehindText | None, Flows("auto", read_behind)] = Field(
        None, description="colour behind the picture, or auto: taken from it"
    )


def flowing() -> dict[str, Flows]:
    """All keys that flow down."""
    fields = SlotEntry.model_fields.items()
    return {name: _flows(field) for name, field in fields}


def _flows(field: FieldInfo) -> Flows:
    return next(one for one in field.metadata if isinstance(one, Flows))


class BackdropEntry(SlotEntry):
    """One background, as it is on the widest screens."""

    name: Name | None = Field(None, description="small letters, digits, hyphens")
    element: SelectorText = Field(description="CSS selector of the element it fills")
    first_view: bool = Field(
        default=False, description="true: in the first view, so it gets a hint"
    )
    clip: ClipEntry | None = Field(None, description="its source plays, where 'moving' says so")
    hosted: HostedEntry | None = Field(None, description="a clip that another host shows")
    form: Literal["background", "element", "img"] = Field(
        "background",
        description="of the style sheet, a picture element behind the content, or the page's own"
        " img, which gets sources (with replaces = 'picture')",
    )
    alternative: Annotated[str, Field(max_length=500)] = Field(
        "", description="what the picture says to those who don't see it; with form = 'element'"
    )
    force: bool = Field(
        default=False, description="true: wins against inline styles that a host writes"
    )
    at: dict[str, SlotEntry] = Field(
        default_factory=dict, description="overrides by breakpoint; they flow down to narrower ones"
    )


class BreakpointEntry(Entry):
    """A named range of viewport widths, from the one before it up to ``below``."""

    name: Name = Field(description="your word for it, such as phone")
    below: Annotated[float, Field(gt=0, le=20000)] | None = Field(
        None, description="CSS px; left out for the last, which is open upwards"
    )
    orientation: Literal["portrait", "landscape"] | None = Field(
        None, description="parts a range in two: a twin with the same 'below' takes the other one"
    )


class ScreenEntry(Entry):
    """A kind of screen that the page meets; naming any replaces the built-in table."""

    name: str = Field(description="your word for it, such as kiosk")
    widths: Annotated[list[float], Field(min_length=2, max_length=2)] = Field(
        description="least and greatest viewport width, CSS px"
    )
    heights: Annotated[list[float], Field(min_length=2, max_length=2)] = Field(
        description="least and greatest viewport height, CSS px"
    )
    density: Annotated[float, Field(ge=0.5, le=6)] = Field(2.0, description="device px per CSS px")
    share: Annotated[float, Field(gt=0, le=100)] | None = Field(
        None, description="of all visits, in percent; files are chosen for those with a share"
    )

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        for low, high in (self.widths, self.heights):
            if not 1 <= low <= high <= 20000:
                raise ValueError("widths and heights as [least, greatest], from 1 to 20000 CSS px")
        return self


class BudgetEntry(Entry):
    """The most bytes that a screen may load for its backdrops."""

    most: BytesText = Field(description="such as 60kB; a kB is 1000 bytes")
    breakpoint: Name | None = Field(None, description="every one by default")
    density: Annotated[float, Field(ge=1, le=8)] | None = Field(
        None, description="for screens up to this density; all by default"
    )
    backdrop: Name | None = Field(
        None, description="by its name; all that a screen loads together by default"
    )


class SiteEntry(Entry):
    """What holds for all backgrounds."""

    title: str = Field("", description="name of the site, for the page to try it on")
    output: PathText = Field("published", description="folder for the files, from the brief's")
    address: AddressText = Field("", description="URL prefix of the published files")
    addresses: PathText | None = Field(
        None, description="a list with a line for each file: its name, a comma, its URL"
    )
    layer: Annotated[str, AfterValidator(_check_layer)] = Field(
        "", description="cascade layer for the rules, such as backdrops"
    )
    widest: Annotated[float, Field(ge=320, le=16000)] = Field(
        2560, description="widest screen to serve, CSS px"
    )
    densest: Annotated[float, Field(ge=1, le=4)] = Field(
        2.0, description="densest screen to serve in full, device px per CSS px"
    )
    workers: Annotated[str, checked(parse_workers)] = Field(
        "threads",
        description="who does the slow work: threads, processes, a number of them, or a"
        " scheduler's address",
    )
    room: BytesText = Field(
        "2000MB", description="bytes that results kept for the next run may take up"
    )
    files: Literal["few", "balanced", "tight"] = Field(
        "balanced", description="how many: a file exists only for the bytes that it saves"
    )
    parts: Literal["auto"] | Annotated[float, Field(ge=1, le=8)] = Field(
        "auto", description="cuts for each breakpoint: as many as save bytes, or at most so many"
    )
    strict: bool = Field(
        default=False, description="true: a promise must hold in windows that next to nobody has"
    )


DEFAULT_BREAKPOINTS = (
    BreakpointEntry(name="handheld", below=640.0, orientation=None),
    BreakpointEntry(name="midsize", below=1100.0, orientation=None),
    BreakpointEntry(name="desk", below=None, orientation=None),
)


class PageEntry(Entry):
    """A page that shares this brief with others, and gets hints of its own."""

    name: Name = Field(description="for its files, such as head-home.html")
    backdrops: Annotated[list[Name], Field(min_length=1)] = Field(
        description="those that are on it"
    )
    file: PathText | None = Field(
        None, description="its HTML file, from the brief's folder, by which insert knows it"
    )


class BriefEntry(Entry):
    """A whole brief."""

    site: SiteEntry = SiteEntry.model_construct()
    breakpoint: Annotated[list[BreakpointEntry], Field(min_length=1)] = list(DEFAULT_BREAKPOINTS)
    screen: list[ScreenEntry] = Field(default_factory=list)
    backdrop: Annotated[list[BackdropEntry], Field(min_length=1)]
    budget: list[BudgetEntry] = Field(default_factory=list)
    page: list[PageEntry] = Field(default_factory=list)
