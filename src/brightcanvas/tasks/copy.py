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
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.framing.copies import CopyPart, swept_by_copy
from brightcanvas.framing.cuts import Cut
from brightcanvas.plan.planned import PlannedVariant
from brightcanvas.plan.planning import is_cut, usual_aspects
from brightcanvas.tasks.clip_tasks import MakeClip
from brightcanvas.tasks.picture_tasks import MakePicture
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

    parts: tuple[CopyPart, ...]
    """By their letters, which all of them tell."""
    cut: Cut
    aspects: Span
    """Of the boxes that the element can have."""
    usual: Span | None
    """Of its boxes on the usual screens; None without any."""
    drawn: float
    """CSS px across at which the largest box draws the whole cut."""
    scrim: ScrimWish | None

    def under(self, part: CopyPart, aspects: Span) -> tuple[Rect, ...]:
        """What comes under a part of it in boxes of these aspects, in fractions of the cut."""
        shared = [(place, place.aspects.overlap(aspects)) for place in part.places]
        held = [(place.box, span) for place, span in shared if span]
        swept = (area for box, span in held for area in swept_by_copy(self.cut, box, span))
        return tuple(dict.fromkeys(_in_cut(area, self.cut.area) for area in swept))

    @property
    def finest(self) -> Letters:
        """The letters of the thinnest strokes."""
        return min((_letters(part) for part in self.parts), key=lambda one: one.stroke)


def copy_on(view: PlannedVariant) -> CopyOn | None:
    """The copy of a view, where its contrast is to be checked."""
    letters, picture = letters_of(view), view.picture
    if letters is None or picture is None or picture.copy is None or not is_cut(view.slot):
        return None
    parts = tuple(part for part in picture.copies if part.letters)
    return CopyOn(
        parts, picture.cut, picture.stage.aspects,
        usual_aspects(picture.stage, picture.demand.usual), picture.drawn, view.slot.scrim,
    ) if parts else None  # fmt: skip


def _letters(part: CopyPart) -> Letters:
    assert part.letters is not None
    return part.letters


def letters_of(view: PlannedVariant) -> Letters | None:
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
    letters: Letters | None = None
    """Of the lines that are hardest to read, where there are several kinds; None: there is one."""
    is_opposed: bool = False
    """Whether its letters want opposite grounds, so that no scrim serves all of them."""
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
        across = math.ceil(steps_across(copy.drawn, copy.finest))
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
        from brightcanvas.formats.clips.clip_writing import decoded

        content, still = inputs.of(self.clip)[0].content, inputs.of(self.still)

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
    stated = copy.scrim.colour if copy.scrim else None
    wanted = [scrim_colour_for(_letters(part)) for part in copy.parts]
    colours = [stated] if stated else list(dict.fromkeys(wanted))
    found = [_under_one_scrim(copy, colour, shipped, behind) for colour in colours]
    best = max(found, key=lambda one: _share(copy, one))
    is_opposed = len(colours) > 1 and _share(copy, best) < 1
    return replace(best, is_opposed=is_opposed)


def _share(copy: CopyOn, found: Legibility) -> float:
    """Of the contrast that is wanted of the letters that are hardest to read."""
    letters = found.letters or _letters(copy.parts[0])
    return min(found.lowest, found.plain) / letters.wanted_contrast


def _under_one_scrim(copy: CopyOn, colour: Colour, shipped: Raster, behind: Colour) -> Legibility:
    """All kinds of letters under the same scrim: the strongest that one of them needs.

    What helps some letters may ruin others, so each is judged under what is finally shown there.
    """
    judged = [_judge_part(copy, part, shipped, behind, colour) for part in copy.parts]
    strengths = [one.scrim.strength if one.scrim else 0.0 for one in judged]
    if copy.scrim and len({*strengths}) > 1:
        stronger = replace(copy, scrim=replace(copy.scrim, strength=max(strengths)))
        judged = [_judge_part(stronger, part, shipped, behind, colour) for part in copy.parts]
    return _together(copy, judged)


def _together(copy: CopyOn, judged: list[Legibility]) -> Legibility:
    """Of several kinds of letters those that are hardest to read, by what is asked of them."""
    if len(judged) == 1:
        return judged[0]
    wanted = [_letters(part).wanted_contrast for part in copy.parts]
    shares = [one.lowest / asked for one, asked in zip(judged, wanted, strict=True)]
    plain = min(one.plain / asked for one, asked in zip(judged, wanted, strict=True))
    worst = shares.index(min(shares))
    least = [one.least for one in judged]
    known = [one for one in least if one is not None]
    strongest = max(known, key=lambda one: one.strength) if len(known) == len(least) else None
    blurs = [one.calming_blur for one in judged if one.calming_blur is not None]
    return replace(
        judged[worst], letters=copy.parts[worst].letters, plain=plain * wanted[worst],
        least=strongest, busyness=max(one.busyness for one in judged),
        calming_blur=max(blurs, default=None),
    )  # fmt: skip


def _judge_part(
    copy: CopyOn, part: CopyPart, shipped: Raster, behind: Colour, colour: Colour
) -> Legibility:
    """One kind of letters, under a scrim of a colour."""
    letters, wish = _letters(part), copy.scrim
    areas = copy.under(part, copy.aspects)
    parts = grounds(shipped, areas, copy.drawn, letters, behind)
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
        _aspect_at(copy, part, lowest.place),
        (lowest.place.x, lowest.place.y),
        plain_contrast(behind, letters, scrim),
        scrim,
        least,
        detail,
        calming_blur(parts, letters) if detail >= BUSY_FROM else None,
        _at_usual(copy, part, shipped, behind, scrim) if is_low else None,
    )


def _at_usual(
    copy: CopyOn, part: CopyPart, shipped: Raster, behind: Colour, scrim: Scrim | None
) -> float | None:
    """The lowest contrast on the usual screens; None without any."""
    areas = copy.under(part, copy.usual) if copy.usual else ()
    if not areas:
        return None
    parts = grounds(shipped, areas, copy.drawn, _letters(part), behind)
    return _told(lowest_contrast(parts, _letters(part), scrim).contrast)


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
    letters, wish, found = _letters(copy.parts[0]), copy.scrim, still
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
    """Second, pixels and lowest contrast of the frame on which the copy is hardest to read.

    Of several kinds of letters the lowest is that which falls furthest short, told as a contrast of
    the first kind.
    """
    first = _letters(copy.parts[0]).wanted_contrast
    areas = [(_letters(part), copy.under(part, copy.aspects)) for part in copy.parts]

    def lowest(frame: Raster) -> float:
        return min(
            lowest_contrast(
                grounds(frame, under, copy.drawn, letters, behind), letters, scrim
            ).contrast * first / letters.wanted_contrast
            for letters, under in areas
        )  # fmt: skip

    judged = ((second, frame, lowest(frame)) for second, frame in frames)
    return min(judged, key=lambda one: one[2])


def contrast_in_window(
    view: PlannedVariant, shipped: Raster, behind: Colour, scrim: Scrim | None, window: Size
) -> float:
    """The lowest contrast in one window (a viewport in CSS px).

    The view has copy whose contrast is checked, and ``shipped`` is its whole cut at some size.
    """
    copy, picture = copy_on(view), view.picture
    assert copy is not None
    assert picture is not None
    box = picture.stage.element.box(window)
    drawn, at = picture.demand.needed(box), Span(box.aspect, box.aspect)
    found = []
    for part in copy.parts:
        if areas := copy.under(part, at):
            parts = grounds(shipped, areas, drawn, _letters(part), behind)
            found.append(lowest_contrast(parts, _letters(part), scrim).contrast)
    return min(found, default=21.0)


def _in_cut(area: Rect, cut: Rect) -> Rect:
    moved = Rect(
        area.left - cut.left, area.top - cut.top, area.right - cut.left, area.bottom - cut.top
    )
    return moved.scaled(Size(1 / cut.width, 1 / cut.height))


def _aspect_at(copy: CopyOn, part: CopyPart, place: Point) -> float:
    """The aspect of a box that has the place (in fractions of the cut) under its copy."""
    tried = ((one, aspect) for one in part.places for aspect in _steps(one.aspects))
    return float(min(tried, key=lambda one: _distance(copy, one[0].box, place, one[1]))[1])


def _steps(aspects: Span) -> list[float]:
    ratio = aspects.high / aspects.low
    return [aspects.low * ratio ** (step / SEARCHED) for step in range(SEARCHED + 1)]


def _distance(copy: CopyOn, box: Rect, place: Point, aspect: float) -> float:
    """How far the place lies outside the copy in a box of that aspect; 0 inside."""
    window = _in_cut(copy.cut.seen_at(aspect), copy.cut.area)
    left = window.left + box.left * window.width
    right = window.left + box.right * window.width
    top = window.top + box.top * window.height
    bottom = window.top + box.bottom * window.height
    across = max(left - place.x, 0.0, place.x - right)
    down = max(top - place.y, 0.0, place.y - bottom)
    return float(across + down)
