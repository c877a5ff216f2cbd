"""Judging whether the copy of a view can be read, and finding the scrim that makes it so."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import asdict, dataclass, replace
from typing import Any

from brightcanvas.analysis.legibility import (
    BUSY_FROM,
    SPARE,
    busyness,
    calming_blur,
    grounds,
    least_scrim,
    lowest_contrast,
    plain_contrast,
    scrim_colour_for,
    steps_across,
)
from brightcanvas.formats.clip_files import decoded
from brightcanvas.formats.pictures import decode
from brightcanvas.framing.overlaps import swept_by_copy
from brightcanvas.plan.model import Picture, View
from brightcanvas.plan.planning import is_cut, usual_aspects
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Point, Rect, Size, Span
from brightcanvas.values.legible import Letters, Scrim
from brightcanvas.values.raster import Raster
from brightcanvas.workshop.jobs import Job, rung_jobs
from brightcanvas.workshop.store import Store, key_of

SEARCHED = 64
"""Aspects among which the window of the worst place is looked for."""


@dataclass(frozen=True)
class Legibility:
    """How well the copy of one view can be read."""

    lowest: float
    """Lowest contrast on the picture, in any window, with the scrim that is used.

    What other rungs and browsers' resampling may cost is taken off (see SPARE)."""
    aspect: float
    """Of a box in which it occurs."""
    place: tuple[float, float]
    """Where, in fractions of the cut."""
    plain: float
    """Contrast on the colour behind, with that scrim."""
    scrim: Scrim | None
    """What is used; None: no scrim, or none that would help."""
    least: Scrim | None
    """The weakest scrim with which the copy can be read; None where there is none."""
    busyness: float
    """Detail at the letters' scale under the copy, in steps of L*."""
    calming_blur: float | None
    """CSS px; the least blur that makes a busy ground calm."""
    usual: float | None = None
    """The lowest on the usual screens, where it is too low elsewhere; None: nowhere too low."""
    second: float | None = None
    """Of the clip, where its frame is the worst case; None: the still is."""


def letters_of(view: View) -> Letters | None:
    """The letters whose contrast is to be checked, if any."""
    return view.slot.copy.letters if view.slot.copy else None


def judged_job(view: View, letters: Letters) -> Job:
    """What a view is judged by: the smallest size that shows all that strokes are seen against.

    What compression has left shows most in the smallest, and still finer detail is averaged over
    a stroke anyway.
    """
    assert view.picture is not None
    jobs = rung_jobs(view)
    needed = steps_across(view.picture.drawn, letters)
    return next((job for job in jobs if job.size[0] >= needed), jobs[-1])


def judge(view: View, picture: Picture, shipped: Raster, behind: Colour) -> Legibility | None:
    """Judge one view by a shipped picture of its cut; None where there are no letters.

    Args:
        view: whose copy it is.
        picture: what is planned for it.
        shipped: the whole cut, as browsers decode it.
        behind: the colour behind it.
    """
    letters = letters_of(view)
    if letters is None or picture.copy is None or not is_cut(view.slot):
        return None
    areas = _areas(picture, picture.copy, picture.stage.aspects)
    parts = grounds(shipped, areas, picture.drawn, letters, behind)
    wish = view.slot.scrim
    colour = (wish.colour if wish else None) or scrim_colour_for(letters)
    least = least_scrim(parts, letters, behind, colour, lines=wish.lines if wish else False)
    scrim = None
    if wish:
        strength = wish.strength if wish.strength is not None else least.strength if least else 0.0
        scrim = Scrim(colour, strength, wish.side, wish.lines) if strength else None
    lowest = lowest_contrast(parts, letters, scrim)
    usual = _at_usual(picture, picture.copy, shipped, letters, behind, scrim)
    detail = busyness(parts, letters) * (1 - scrim.strength if scrim else 1)
    return Legibility(
        _told(lowest.contrast),
        _aspect_at(picture, picture.copy, lowest.place),
        (lowest.place.x, lowest.place.y),
        plain_contrast(behind, letters, scrim),
        scrim,
        least,
        detail,
        calming_blur(parts, letters) if detail >= BUSY_FROM else None,
        usual if _told(lowest.contrast) < letters.wanted_contrast else None,
    )


def _at_usual(
    picture: Picture, copy: Rect, shipped: Raster, letters: Letters, behind: Colour,
    scrim: Scrim | None,
) -> float | None:  # fmt: skip
    """The lowest contrast on the usual screens; None without any."""
    aspects = usual_aspects(picture.stage, picture.demand.usual)
    if aspects is None:
        return None
    parts = grounds(shipped, _areas(picture, copy, aspects), picture.drawn, letters, behind)
    return _told(lowest_contrast(parts, letters, scrim).contrast)


def _told(contrast: float) -> float:
    """A contrast with what other rungs and browsers may cost taken off; 1 is none at all."""
    return max(1.0, contrast / SPARE)


def judged_once(
    view: View, picture: Picture, content: bytes, behind: Colour, store: Store
) -> Legibility | None:
    """Judge a view by a published file, or find in the store what came of it before."""
    wish = view.slot.scrim
    key = key_of(
        work="legibility",
        copy=asdict(picture.copy) if picture.copy else None,
        letters=asdict(letters) if (letters := letters_of(view)) else None,
        wish=asdict(wish) if wish else None,
        behind=asdict(behind),
        aspects=asdict(picture.stage.aspects),
        position=asdict(picture.cut.position),
        usual=[asdict(one) for one in picture.demand.usual],
        drawn=picture.drawn,
        cut=asdict(picture.cut.area),
        file=hashlib.sha256(content).hexdigest(),
    )
    kept = store.find(key)
    if kept is None:
        across = math.ceil(steps_across(picture.drawn, letters)) if letters else None
        found = judge(view, picture, decode(content, across), behind)
        kept = json.dumps(asdict(found) if found else None).encode()
        store.keep(key, kept)
    return _from_json(json.loads(kept))


ROUNDS = 3
"""How often a scrim is made stronger for a frame that turns out worse."""


def judge_moving(
    view: View,
    picture: Picture,
    frames: Callable[[], Iterable[tuple[float, Raster]]],
    behind: Colour,
    still: Legibility,
) -> Legibility:
    """What the still's judgement becomes over all frames of the clip that plays above it.

    Args:
        view: whose copy it is.
        picture: what is planned for it.
        frames: reads the clip's frames (second, the whole cut) from the start.
        behind: the colour behind it.
        still: the judgement of the still.
    """
    letters, wish, found = letters_of(view), view.slot.scrim, still
    assert letters is not None
    for _ in range(ROUNDS):
        second, frame, lowest = _worst_frame(view, picture, frames(), behind, found.scrim)
        if _told(lowest) < found.lowest:
            found = replace(found, lowest=_told(lowest), second=second)
        if wish is None or wish.strength is not None or _told(lowest) >= letters.wanted_contrast:
            break
        again = judge(view, picture, frame, behind)
        if again is None or again.scrim is None:
            break
        if found.scrim is not None and again.scrim.strength <= found.scrim.strength:
            break
        found = replace(again, second=second)
    return found


def _worst_frame(
    view: View,
    picture: Picture,
    frames: Iterable[tuple[float, Raster]],
    behind: Colour,
    scrim: Scrim | None,
) -> tuple[float, Raster, float]:
    """Second, pixels and lowest contrast of the frame on which the copy is hardest to read."""
    letters = letters_of(view)
    assert letters is not None
    assert picture.copy is not None
    areas = _areas(picture, picture.copy, picture.stage.aspects)
    judged = (
        (second, frame, lowest_contrast(
            grounds(frame, areas, picture.drawn, letters, behind), letters, scrim).contrast)
        for second, frame in frames
    )  # fmt: skip
    return min(judged, key=lambda one: one[2])


def moving_once(
    view: View, picture: Picture, content: bytes, behind: Colour, still: Legibility, store: Store
) -> Legibility:
    """The judgement over all frames of a published clip, or what came of it before."""
    wish, letters = view.slot.scrim, letters_of(view)
    key = key_of(
        work="moving legibility", still=asdict(still), file=hashlib.sha256(content).hexdigest(),
        behind=asdict(behind), aspects=asdict(picture.stage.aspects), drawn=picture.drawn,
        copy=asdict(picture.copy) if picture.copy else None, cut=asdict(picture.cut.area),
        position=asdict(picture.cut.position), wish=asdict(wish) if wish else None,
        letters=asdict(letters) if letters else None,
    )  # fmt: skip
    kept = store.find(key)
    if kept is None:

        def frames() -> Iterator[tuple[float, Raster]]:
            return ((second, Raster(pixels)) for second, pixels in decoded(content))

        kept = json.dumps(asdict(judge_moving(view, picture, frames, behind, still))).encode()
        store.keep(key, kept)
    found = _from_json(json.loads(kept))
    return found or still


def _from_json(parts: dict[str, Any] | None) -> Legibility | None:
    if parts is None:
        return None
    scrim, least = (_scrim_from(parts[name]) for name in ("scrim", "least"))
    return Legibility(**{**parts, "scrim": scrim, "least": least, "place": tuple(parts["place"])})


def _scrim_from(parts: dict[str, Any] | None) -> Scrim | None:
    return Scrim(**{**parts, "colour": Colour(**parts["colour"])}) if parts else None


def contrast_in_window(
    view: View,
    picture: Picture,
    shipped: Raster,
    behind: Colour,
    scrim: Scrim | None,
    window: Size,
) -> float:
    """The lowest contrast in one window (a viewport in CSS px).

    The view has letters, and ``shipped`` is the whole cut at some size.
    """
    letters = letters_of(view)
    assert letters is not None
    assert picture.copy is not None
    box = picture.stage.element.box(window)
    areas = _areas(picture, picture.copy, Span(box.aspect, box.aspect))
    parts = grounds(shipped, areas, picture.demand.needed(box), letters, behind)
    return lowest_contrast(parts, letters, scrim).contrast


def _areas(picture: Picture, copy: Rect, aspects: Span) -> tuple[Rect, ...]:
    """What comes under the copy in boxes of these aspects, in fractions of the cut."""
    cut = picture.cut.area
    return tuple(_in_cut(area, cut) for area in swept_by_copy(picture.cut, copy, aspects))


def _in_cut(area: Rect, cut: Rect) -> Rect:
    moved = Rect(
        area.left - cut.left, area.top - cut.top, area.right - cut.left, area.bottom - cut.top
    )
    return moved.scaled(Size(1 / cut.width, 1 / cut.height))


def _aspect_at(picture: Picture, copy: Rect, place: Point) -> float:
    """The aspect of a box that has the place (in fractions of the cut) under its copy."""
    aspects, cut = picture.stage.aspects, picture.cut.area
    ratio = aspects.high / aspects.low
    steps = [aspects.low * ratio ** (step / SEARCHED) for step in range(SEARCHED + 1)]
    return float(min(steps, key=lambda aspect: _distance(picture, copy, place, cut, aspect)))


def _distance(picture: Picture, copy: Rect, place: Point, cut: Rect, aspect: float) -> float:
    """How far the place lies outside the copy in a box of that aspect; 0 inside."""
    window = _in_cut(picture.cut.seen_at(aspect), cut)
    left = window.left + copy.left * window.width
    right = window.left + copy.right * window.width
    top = window.top + copy.top * window.height
    bottom = window.top + copy.bottom * window.height
    across = max(left - place.x, 0.0, place.x - right)
    down = max(top - place.y, 0.0, place.y - bottom)
    return float(across + down)
