"""Judging whether copy can be read on what was made, and finding the scrim that makes it so."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any, ClassVar

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
from brightcanvas.formats.pictures import decode
from brightcanvas.framing.cuts import Cut
from brightcanvas.framing.overlaps import swept_by_copy
from brightcanvas.plan.model import View
from brightcanvas.plan.planning import is_cut, usual_aspects
from brightcanvas.tasks.clips import MakeClip
from brightcanvas.tasks.pictures import MakePicture
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Point, Rect, Size, Span
from brightcanvas.values.legible import Letters, Scrim, ScrimWish
from brightcanvas.values.raster import Raster

SEARCHED = 64
"""Aspects among which the window of the worst place is looked for."""

ROUNDS = 3
"""How often a scrim is made stronger for a frame that turns out worse."""


@dataclass(frozen=True)
class CopyOn:
    """Copy on a picture: all that decides how well it can be read."""

    letters: Letters
    box: Rect
    """Of the copy, in fractions of the element."""
    cut: Cut
    aspects: Span
    """Of the boxes that the element can have."""
    usual: Span | None
    """Of its boxes on the usual screens; None without any."""
    drawn: float
    """CSS px across at which the largest box draws the whole cut."""
    scrim: ScrimWish | None

    def under(self, aspects: Span) -> tuple[Rect, ...]:
        """What comes under the copy in boxes of these aspects, in fractions of the cut."""
        swept = swept_by_copy(self.cut, self.box, aspects)
        return tuple(_in_cut(area, self.cut.area) for area in swept)


def copy_on(view: View) -> CopyOn | None:
    """The copy of a view, where its contrast is to be checked."""
    letters, picture = letters_of(view), view.picture
    if letters is None or picture is None or picture.copy is None or not is_cut(view.slot):
        return None
    return CopyOn(
        letters, picture.copy, picture.cut, picture.stage.aspects,
        usual_aspects(picture.stage, picture.demand.usual), picture.drawn, view.slot.scrim,
    )  # fmt: skip


def letters_of(view: View) -> Letters | None:
    """The letters whose contrast is to be checked, if any."""
    return view.slot.copy.letters if view.slot.copy else None


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


@dataclass(frozen=True)
class JudgeCopy(Task[Legibility]):
    """How well copy can be read on the newest file of a picture."""

    copy: CopyOn
    picture: MakePicture
    behind: Colour | None
    """The colour behind it, where the brief states one; else the picture's average."""
    result_type: ClassVar[type] = Legibility

    def run(self, inputs: Inputs) -> Legibility:
        """By the pixels that browsers decode."""
        made, copy = inputs.of(self.picture), self.copy
        across = math.ceil(steps_across(copy.drawn, copy.letters))
        shown = decode(made.files[0].content, across)
        return judge(copy, shown, self.behind or made.average)


@dataclass(frozen=True)
class JudgeMovingCopy(Task[Legibility]):
    """What the still's judgement becomes over all frames of the clip that plays above it."""

    still: JudgeCopy
    clip: MakeClip
    result_type: ClassVar[type] = Legibility

    def run(self, inputs: Inputs) -> Legibility:
        """By every frame of the published clip."""
        from brightcanvas.formats.clip_files import decoded

        content, still = inputs.of(self.clip).content, inputs.of(self.still)

        def frames() -> Iterator[tuple[float, Raster]]:
            return ((second, Raster(pixels)) for second, pixels in decoded(content))

        behind = self.still.behind or still_average(self.still, inputs)
        return judge_moving(self.still.copy, frames, behind, still)

    @property
    def needs(self) -> tuple[Task[Any], ...]:
        """The judged picture too, for its average."""
        return (self.still, self.clip, self.still.picture)


def still_average(still: JudgeCopy, inputs: Inputs) -> Colour:
    """The colour behind a judged picture for which the brief states none."""
    return inputs.of(still.picture).average


def judge(copy: CopyOn, shipped: Raster, behind: Colour) -> Legibility:
    """Judge copy by a shipped picture.

    Args:
        copy: what is to be read, and where it can come to lie.
        shipped: the whole cut, as browsers decode it.
        behind: the colour behind it.
    """
    letters, wish = copy.letters, copy.scrim
    parts = grounds(shipped, copy.under(copy.aspects), copy.drawn, letters, behind)
    colour = (wish.colour if wish else None) or scrim_colour_for(letters)
    least = least_scrim(parts, letters, behind, colour, lines=wish.lines if wish else False)
    scrim = None
    if wish:
        strength = wish.strength if wish.strength is not None else least.strength if least else 0.0
        scrim = Scrim(colour, strength, wish.side, wish.lines) if strength else None
    lowest = lowest_contrast(parts, letters, scrim)
    detail = busyness(parts, letters) * (1 - scrim.strength if scrim else 1)
    is_low = _told(lowest.contrast) < letters.wanted_contrast
    return Legibility(
        _told(lowest.contrast),
        _aspect_at(copy, lowest.place),
        (lowest.place.x, lowest.place.y),
        plain_contrast(behind, letters, scrim),
        scrim,
        least,
        detail,
        calming_blur(parts, letters) if detail >= BUSY_FROM else None,
        _at_usual(copy, shipped, behind, scrim) if is_low else None,
    )


def _at_usual(copy: CopyOn, shipped: Raster, behind: Colour, scrim: Scrim | None) -> float | None:
    """The lowest contrast on the usual screens; None without any."""
    if copy.usual is None:
        return None
    parts = grounds(shipped, copy.under(copy.usual), copy.drawn, copy.letters, behind)
    return _told(lowest_contrast(parts, copy.letters, scrim).contrast)


def _told(contrast: float) -> float:
    """A contrast with what other rungs and browsers may cost taken off; 1 is none at all."""
    return max(1.0, contrast / SPARE)


def judge_moving(
    copy: CopyOn,
    frames: Callable[[], Iterable[tuple[float, Raster]]],
    behind: Colour,
    still: Legibility,
) -> Legibility:
    """What the still's judgement becomes over all frames of a clip.

    Args:
        copy: what is to be read.
        frames: reads the clip's frames (second, the whole cut) from the start.
        behind: the colour behind it.
        still: the judgement of the still.
    """
    letters, wish, found = copy.letters, copy.scrim, still
    for _ in range(ROUNDS):
        second, frame, lowest = _worst_frame(copy, frames(), behind, found.scrim)
        if _told(lowest) < found.lowest:
            found = replace(found, lowest=_told(lowest), second=second)
        if wish is None or wish.strength is not None or _told(lowest) >= letters.wanted_contrast:
            break
        again = judge(copy, frame, behind)
        if again.scrim is None:
            break
        if found.scrim is not None and again.scrim.strength <= found.scrim.strength:
            break
        found = replace(again, second=second)
    return found


def _worst_frame(
    copy: CopyOn,
    frames: Iterable[tuple[float, Raster]],
    behind: Colour,
    scrim: Scrim | None,
) -> tuple[float, Raster, float]:
    """Second, pixels and lowest contrast of the frame on which the copy is hardest to read."""
    areas, letters = copy.under(copy.aspects), copy.letters
    judged = (
        (second, frame, lowest_contrast(
            grounds(frame, areas, copy.drawn, letters, behind), letters, scrim).contrast)
        for second, frame in frames
    )  # fmt: skip
    return min(judged, key=lambda one: one[2])


def contrast_in_window(
    view: View, shipped: Raster, behind: Colour, scrim: Scrim | None, window: Size
) -> float:
    """The lowest contrast in one window (a viewport in CSS px).

    The view has copy whose contrast is checked, and ``shipped`` is its whole cut at some size.
    """
    copy, picture = copy_on(view), view.picture
    assert copy is not None
    assert picture is not None
    box = picture.stage.element.box(window)
    areas = copy.under(Span(box.aspect, box.aspect))
    parts = grounds(shipped, areas, picture.demand.needed(box), copy.letters, behind)
    return lowest_contrast(parts, copy.letters, scrim).contrast


def _in_cut(area: Rect, cut: Rect) -> Rect:
    moved = Rect(
        area.left - cut.left, area.top - cut.top, area.right - cut.left, area.bottom - cut.top
    )
    return moved.scaled(Size(1 / cut.width, 1 / cut.height))


def _aspect_at(copy: CopyOn, place: Point) -> float:
    """The aspect of a box that has the place (in fractions of the cut) under its copy."""
    aspects = copy.aspects
    ratio = aspects.high / aspects.low
    steps = [aspects.low * ratio ** (step / SEARCHED) for step in range(SEARCHED + 1)]
    return float(min(steps, key=lambda aspect: _distance(copy, place, aspect)))


def _distance(copy: CopyOn, place: Point, aspect: float) -> float:
    """How far the place lies outside the copy in a box of that aspect; 0 inside."""
    window, box = _in_cut(copy.cut.seen_at(aspect), copy.cut.area), copy.box
    left = window.left + box.left * window.width
    right = window.left + box.right * window.width
    top = window.top + box.top * window.height
    bottom = window.top + box.bottom * window.height
    across = max(left - place.x, 0.0, place.x - right)
    down = max(top - place.y, 0.0, place.y - bottom)
    return float(across + down)
