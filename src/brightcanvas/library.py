"""What ``import brightcanvas`` offers: the commands' work as functions.

Nothing here prints, reads arguments, or ends the program. What can't be done raises a
``BrightCanvasError``, whose text says what is wrong, where, and what to do. What is heavy is
imported when it is first called.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.values.limits import LARGEST_COMPRESSED, LARGEST_SOURCE

if TYPE_CHECKING:
    from brightcanvas.analysis.saliency import Suggestion
    from brightcanvas.brief.model import Brief
    from brightcanvas.inspecting.inspect import Inspected
    from brightcanvas.pipeline.building import Outcome
    from brightcanvas.plan.model import Plan
    from brightcanvas.promises.verdict import Verdict
    from brightcanvas.rehearsal.rehearsing import Rehearsed
    from brightcanvas.singles.compress import Compressed
    from brightcanvas.singles.crop import Crop
    from brightcanvas.singles.transcode import Transcoded

Box = tuple[float, float, float, float]
"""Left, top, right, bottom, in fractions from 0 to 1."""


def load_brief(path: str | Path) -> Brief:
    """Read a ``brief.toml``.

    Raises:
        BriefError: naming every mistake with its line and key.
    """
    from brightcanvas.brief.loading import load_brief as load

    return load(Path(path))


def plan_brief(brief: Brief, *, largest_source: float = LARGEST_SOURCE) -> Plan:
    """What would be made of a brief, without looking at pixels and without writing anything.

    Args:
        brief: as loaded.
        largest_source: megapixels of a source, at most.

    Raises:
        SourceError: naming every source that can't be used.
    """
    from brightcanvas.pipeline.building import plan_as_built

    return plan_as_built(brief, largest_source)


def check(planned: Plan) -> tuple[Verdict, ...]:
    """The promises that can be decided on a plan alone, each with its worst case."""
    from brightcanvas.promises.checking import check_all
    from brightcanvas.promises.facts import Facts

    return check_all(Facts(planned))


def build(
    brief: Brief,
    *,
    workers: str | None = None,
    largest_source: float = LARGEST_SOURCE,
    starts: Callable[[int], None] | None = None,
    done: Callable[[str], None] | None = None,
) -> Outcome:
    """Make and publish everything that a brief asks for, and check all promises.

    Args:
        brief: as loaded.
        workers: ``threads``, ``processes``, a number of them, or the address of a cluster's
            scheduler; None: those that the brief names.
        largest_source: megapixels of a source, at most.
        starts: called once with the number of pieces of work.
        done: called after each of them with what it was.

    Raises:
        BrightCanvasError: nothing is published then; what was made is kept for the next build.
        ValueError: nobody can be meant by ``workers``.
    """
    from brightcanvas.pipeline.building import Watcher
    from brightcanvas.pipeline.building import build as build_all
    from brightcanvas.values.workers import parse_workers

    if workers is not None:
        brief = replace(brief, workers=parse_workers(workers))
    quiet = Watcher()
    watcher = Watcher(starts or quiet.starts, done or quiet.done)
    return build_all(brief, largest_source, watcher)


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
    from brightcanvas.singles.crop import crop as crop_one
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
    from brightcanvas.singles.compress import LighterOrder
    from brightcanvas.singles.compress import compress as compress_one
    from brightcanvas.values.picture_formats import WRITTEN
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
    from brightcanvas.quality.clip_order import ClipPace
    from brightcanvas.singles.transcode import ClipTask
    from brightcanvas.singles.transcode import transcode as transcode_one
    from brightcanvas.values.clip_formats import GRAINS, SEAMS, ClipFormat
    from brightcanvas.values.errors import BriefError
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


def suggest_subject(picture: str | Path, *, largest_source: float = LARGEST_SOURCE) -> Suggestion:
    """Where a picture's or clip's subject may be, by what draws the eye.

    Args:
        picture: path of it; of a clip the first frame counts.
        largest_source: megapixels, at most.

    Raises:
        BrightCanvasError: it can't be used.
    """
    from brightcanvas.analysis.saliency import suggest_subject as suggest
    from brightcanvas.formats.reading import read_source

    return suggest(read_source(Path(picture), largest_source)[1])


def inspect(
    page: str | Path, *, root: str | Path | None = None, browser: str | None = None
) -> Inspected:
    """What a page, or each page of a folder, does wrong as it is, on nine usual screens.

    Args:
        page: an HTML file, a folder, or an address on this machine.
        root: what ``/`` is on its host; None: found by what the page names.
        browser: to ask for boxes, requests and contrast, ``chromium`` or ``firefox``; None: none.

    Raises:
        BrightCanvasError: there is no such page, or the browser fails.
        ValueError: there is no such browser.
    """
    from brightcanvas.inspecting.inspect import SCREENS, inspect_folders
    from brightcanvas.measuring.site import BROWSERS
    from brightcanvas.page.site import pages_at
    from brightcanvas.rehearsal.lines import LINES
    from brightcanvas.values.words import one_of

    asked = one_of(browser, BROWSERS) if browser is not None else None
    with pages_at(str(page), None if root is None else Path(root)) as folders:
        return inspect_folders(folders, SCREENS, LINES, asked)[0]


def rehearse(
    page: str | Path,
    *,
    root: str | Path | None = None,
    http: str = "1.1",
    like: str = "chromium",
    headers: str = "",
) -> tuple[Rehearsed, ...]:
    """Play a page's load through on seven usual screens over three lines.

    Args:
        page: an HTML file.
        root: what ``/`` is on its host; None: the page's folder.
        http: ``1.1`` or ``2``.
        like: whose habits: ``chromium``, ``firefox`` or ``webkit``.
        headers: lines of ``Link`` headers that come with the page.

    Raises:
        BrightCanvasError: there is no such page.
        ValueError: there is no such protocol or browser.
    """
    from brightcanvas.page.folder import folder_of
    from brightcanvas.page.headers import header_hints
    from brightcanvas.page.reading import read_page
    from brightcanvas.rehearsal.lines import HABITS, LINES, PROTOCOLS
    from brightcanvas.rehearsal.rehearsing import DEVICES
    from brightcanvas.rehearsal.rehearsing import rehearse as rehearse_page
    from brightcanvas.values.words import one_of

    read = read_page(folder_of(Path(page), None if root is None else Path(root)))
    protocol, habits = PROTOCOLS[one_of(http, PROTOCOLS)], HABITS[one_of(like, HABITS)]
    return rehearse_page(read, DEVICES, LINES, protocol, habits, header_hints(headers))
