"""For those who have pictures and clips: each a file made of a file, without a brief."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.values.files import LARGEST_COMPRESSED, LARGEST_SOURCE

if TYPE_CHECKING:
    from brightcanvas.analysis.saliency import Suggestion
    from brightcanvas.single_file.best_still import ChosenStill
    from brightcanvas.single_file.exact_cut import Crop
    from brightcanvas.single_file.light_clip import Transcoded
    from brightcanvas.single_file.lighter_file import Compressed

Box = tuple[float, float, float, float]
"""Left, top, right, bottom, in fractions from 0 to 1."""


def crop(
    picture: str | Path,
    to: tuple[int, int],
    *,
    subject: Box = (0.5, 0.5, 0.5, 0.5),
    output: str | Path | None = None,
    largest_source: float = LARGEST_SOURCE,
) -> Crop:
    """Cut the largest part of a picture that has a shape, round its subject, to an exact size.

    Args:
        picture: path of it.
        to: width and height of the result, px, from 1 to 20000 each.
        subject: what must stay in view; a point has no width and no height.
        output: where to write; its ending says the format. None: a name beside the picture.
        largest_source: megapixels of the picture, at most.

    Raises:
        BrightCanvasError: the picture can't be used, or the output is in the way.
    """
    from brightcanvas.single_file.exact_cut import crop as crop_one
    from brightcanvas.values.geometry import Rect, Size

    place = None if output is None else Path(output)
    return crop_one(Path(picture), Size(*to), Rect(*subject), place, largest_source)


def compress(
    picture: str | Path,
    *,
    quality: str = "everyday",
    budget: int | None = None,
    formats: Sequence[str] = (),
    density: float = 1.0,
    into: str | Path | None = None,
    replace_source: bool = False,
    largest_source: float = LARGEST_COMPRESSED,
) -> list[Compressed]:
    """Make lighter files of one picture or SVG drawing, one for each format.

    Args:
        picture: path of it.
        quality: ``careful``, ``everyday`` or ``thrifty``: how much it looks like the original.
        budget: bytes of each file; with it, the quality is the best that fits.
        formats: some of ``avif``, ``webp``, ``jpeg``, ``png``; none: it keeps its own.
        density: px of the file to a CSS px where it is shown, 0.25 to 8.
        into: folder for the files; None: beside the picture, under names of their own.
        replace_source: whether the file takes the picture's place.
        largest_source: megapixels of the picture, at most.

    Raises:
        BrightCanvasError: it can't be used, or something is in the way.
        ValueError: there is no such quality or format.
    """
    from brightcanvas.single_file.lighter_file import LighterOrder
    from brightcanvas.single_file.lighter_file import compress as compress_one
    from brightcanvas.values.file_formats import WRITTEN
    from brightcanvas.values.targets import LEVELS
    from brightcanvas.values.words import one_of, some_of

    order = LighterOrder(
        LEVELS[one_of(quality, LEVELS)],
        budget,
        density,
        some_of(formats, {one.word: one for one in WRITTEN}),
        None if into is None else Path(into),
        replace_source,
        largest_source,
    )
    return compress_one(Path(picture), order)


def transcode(
    clip: str | Path,
    *,
    begin: float = 0.0,
    end: float | None = None,
    once: bool = False,
    seam: str = "find",
    speed: float = 1.0,
    most_rate: float = 30.0,
    largest: tuple[int, int] = (1280, 720),
    drawn: float | None = None,
    quality: str = "thrifty",
    grain: str = "smooth",
    most: int | None = None,
    codecs: Sequence[str] = ("av1", "h264"),
    into: str | Path | None = None,
    largest_source: float = LARGEST_SOURCE,
    done: Callable[[str], None] = lambda _: None,
) -> Transcoded:
    """Make a clip light: the stretch that loops, in formats that play everywhere.

    Args:
        clip: path of it.
        begin: second of the source.
        end: second of the source; None: its end.
        once: whether it is played once, and not round.
        seam: how a round begins again: ``find``, ``fade``, ``back`` (forth and back) or
            ``leave``.
        speed: 2 is twice as fast.
        most_rate: frames a second, at most.
        largest: px of the longer and of the shorter side, at most.
        drawn: CSS px across where it is shown largest; None: 1920 of its longer side.
        quality: ``careful``, ``everyday`` or ``thrifty``.
        grain: ``smooth`` takes a sensor's grain out, ``keep`` leaves it.
        most: bytes of each file.
        codecs: some of ``av1``, ``vp9``, ``h264``.
        into: folder for the files; None: beside the clip.
        largest_source: megapixels of a frame, at most.
        done: called with what it was after each file.

    Raises:
        BrightCanvasError: it can't be used, or a file is in the way.
        ValueError: there is no such quality, seam or codec.
    """
    from brightcanvas.quality.clips.clip_order import ClipPace
    from brightcanvas.single_file.light_clip import ClipTask
    from brightcanvas.single_file.light_clip import transcode as transcode_one
    from brightcanvas.values.errors import BriefError
    from brightcanvas.values.file_formats import GRAINS, SEAMS, ClipFormat
    from brightcanvas.values.targets import LEVELS
    from brightcanvas.values.words import one_of, some_of

    if end is not None and end <= begin:
        raise BriefError(f"The end ({end:g} s) must be later than the beginning ({begin:g} s).")
    wanted = some_of(codecs, {one.word: one for one in ClipFormat})
    task = ClipTask(
        begin=begin,
        end=end,
        is_round=not once,
        seam=one_of(seam, SEAMS),
        pace=ClipPace(speed, most_rate),
        largest=largest,
        drawn=drawn,
        keeps_grain=one_of(grain, GRAINS) == "keep",
        target=LEVELS[one_of(quality, LEVELS)],
        most=most,
        formats=tuple(one for one in ClipFormat if one in wanted),
        into=None if into is None else Path(into),
        limit=largest_source,
    )
    return transcode_one(Path(clip), task, done)


def poster(
    clip: str | Path,
    *,
    at: float | None = None,
    copy: Box | None = None,
    subject: Box | None = None,
    output: str | Path | None = None,
    sheet: str | Path | None = None,
    largest_source: float = LARGEST_SOURCE,
) -> ChosenStill:
    """Choose the still that stands for a clip, and write it.

    Args:
        clip: path of it.
        at: its second; None: the best one.
        copy: where text will lie on it, so that it is calm there.
        subject: what must stand clear of that text.
        output: where to write; its ending says the format. None: a name beside the clip.
        sheet: where to draw the best ones side by side, as PNG; None: nowhere.
        largest_source: megapixels of a frame, at most.

    Raises:
        BrightCanvasError: the clip can't be used, or a file is in the way.
    """
    from brightcanvas.analysis.stills import StillWish
    from brightcanvas.single_file.best_still import choose_still
    from brightcanvas.values.geometry import Rect

    wish = StillWish(Rect(*copy) if copy else None, (Rect(*subject),) if subject else ())
    places = [None if one is None else Path(one) for one in (output, sheet)]
    return choose_still(Path(clip), at, wish, places[0], places[1], largest_source)


def suggest_subject(picture: str | Path, *, largest_source: float = LARGEST_SOURCE) -> Suggestion:
    """Where a picture's or clip's subject may be, by what draws the eye.

    Args:
        picture: path of it; of a clip the first frame counts.
        largest_source: megapixels, at most.

    Raises:
        BrightCanvasError: it can't be used.
    """
    from brightcanvas.analysis.saliency import suggest_subject as suggest
    from brightcanvas.formats.survey import read_source

    return suggest(read_source(Path(picture), largest_source)[1])
