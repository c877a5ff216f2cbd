"""The tasks of a plan's views: what has to be made, chosen and judged for each."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar

from brightcanvas.analysis.legibility import steps_across
from brightcanvas.analysis.loops import LoopWish
from brightcanvas.analysis.stills import Still, StillWish, best_stills
from brightcanvas.analysis.timing import published_size
from brightcanvas.brief.brief import ClipWish, Slot
from brightcanvas.formats.clips.clip_reading import read_facts
from brightcanvas.formats.codecs.avif import AVIF
from brightcanvas.formats.codecs.jpeg import JPEGS
from brightcanvas.framing.size_variants import SizeVariant, rung_for
from brightcanvas.framing.weights import Fitting
from brightcanvas.plan.planned import BackdropPlan, Picture, Plan, PlannedVariant
from brightcanvas.plan.planning import is_cut
from brightcanvas.quality.clips.clip_order import ClipLook, ClipPace, density_of
from brightcanvas.quality.metric import Viewing
from brightcanvas.quality.pictures.lightest import Care, PictureTarget
from brightcanvas.tasks.clip_tasks import ChooseLoop, MakeClip
from brightcanvas.tasks.copy import JudgeCopy, JudgeMovingCopy, copy_on
from brightcanvas.tasks.looking_tasks import MeasureSeams, SuggestSubject, TellContent
from brightcanvas.tasks.picture_tasks import MakePicture
from brightcanvas.tasks.sources import PreparedSource, Source
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.tasks.weigh_pictures import veil_of
from brightcanvas.values.errors import SourceError
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.geometry import Rect, Size, plain_number

RARE, FREQUENT = 0.028, 0.2
"""Files that fewer of all visits load are found and encoded in less time; those that more load are
brought nearer to their target."""

OLD_DENSITY, OLD_PHONE_DENSITY = 1.5, 2.0
"""Px to a CSS px that browsers get which know the oldest format only: they sit in old devices;
old phones have had two and three for longer than they have browsers."""


def source_of(picture: Picture) -> PreparedSource:
    """The prepared source that a picture is cut from."""
    return PreparedSource.of(picture.facts, picture.offer.poster_at, picture.preparation)


def picture_tasks(view: PlannedVariant) -> Iterator[MakePicture]:
    """Everything that a view needs made: its sizes, and the one for browsers of any age."""
    if view.picture is not None:
        yield from dict.fromkeys((*size_tasks(view), oldest_task(view)))


def size_tasks(view: PlannedVariant) -> list[MakePicture]:
    """One task for each size of a view, in the newer formats.

    Where next to nobody is, the file for browsers of any age serves all of them.
    """
    if view.picture is None:
        return []
    picture, formats = view.picture.files_of, view.slot.formats
    if not picture.demand.usual:
        return [oldest_task(view)]
    return [
        _task(
            view, picture, size_variant, formats[:-1] or formats, _care_for(picture, size_variant)
        )
        for size_variant in picture.size_variants
    ]


def oldest_task(view: PlannedVariant) -> MakePicture:
    """The one file that browsers of any age can show."""
    assert view.picture is not None
    picture, formats = view.picture.files_of, view.slot.formats
    size_variant = picture.size_variants[0]
    if len(formats) == 1:
        return _task(view, picture, size_variant, formats, _care_for(picture, size_variant))
    less = 1.0 if view.slot.one_to_one else min(1.0, _old_density(picture) / size_variant.density)
    width = max(1, math.ceil(size_variant.width * less))
    height = max(1, round(width / picture.demand.cut.aspect))
    density = round(size_variant.density * width / size_variant.width, 4)
    return _task(view, picture, SizeVariant(width, height, 1, density), formats[-1:], Care.LITTLE)


def _old_density(picture: Picture) -> float:
    """Of the old screens that show a picture."""
    is_for_phones = all(one.density >= OLD_PHONE_DENSITY for one in picture.demand.usual)
    return OLD_PHONE_DENSITY if is_for_phones else OLD_DENSITY


def task_for(view: PlannedVariant, density: float) -> MakePicture:
    """The task whose files a screen of a density loads, in a browser that knows them."""
    assert view.picture is not None
    tasks, size_variants = size_tasks(view), view.picture.size_variants
    return tasks[min(size_variants.index(rung_for(size_variants, density)), len(tasks) - 1)]


def _share_of(picture: Picture, size_variant: SizeVariant) -> float:
    return sum(
        one.share
        for one in picture.demand.usual
        if rung_for(picture.size_variants, one.density) == size_variant
    )


def _task(
    view: PlannedVariant,
    picture: Picture,
    size_variant: SizeVariant,
    formats: tuple[FileFormat, ...],
    care: Care,
) -> MakePicture:
    slot, source = view.slot, source_of(picture)
    return MakePicture(
        source=source,
        content=TellContent(source),
        area=picture.cut.area,
        width=size_variant.width,
        height=size_variant.height,
        viewing=Viewing(size_variant.density, veil_of(slot.scrim)),
        wanted=PictureTarget(
            slot.target, formats, care, *_fitted(slot, picture, size_variant, formats)
        ),
        tone=picture.tone,
        css_px=size_variant.density if picture.tone.soften else 1.0,
    )


def _care_for(picture: Picture, size_variant: SizeVariant) -> Care:
    """By how many people load a size."""
    share = _share_of(picture, size_variant)
    return Care.MUCH if share >= FREQUENT else Care.LITTLE if share < RARE else Care.USUAL


def _fitted(
    slot: Slot, picture: Picture, size_variant: SizeVariant, formats: tuple[FileFormat, ...]
) -> tuple[tuple[tuple[str, float], ...], float]:
    """Where the curves of the formats are looked for, and the share of the px that files have."""
    found: dict[str, Fitting] = {}
    for curve in (AVIF, *JPEGS):
        if curve.settings.format in formats:
            fitting = picture.tried.fitting(curve.name, size_variant.density)
            if fitting:
                found[curve.name] = fitting
    lifts = tuple((name, round(one.lift, 1)) for name, one in found.items())
    if slot.one_to_one or not found:
        return lifts, 1.0
    return lifts, max(one.shrink for one in found.values())


def judgement(view: PlannedVariant) -> JudgeCopy | None:
    """How well a view's copy can be read; None where nothing is to be judged."""
    copy = copy_on(view)
    return JudgeCopy(copy, judged_task(view), view.slot.behind) if copy else None


def judged_task(view: PlannedVariant) -> MakePicture:
    """What a view is judged by: the smallest size that shows all that strokes are seen against.

    What compression has left shows most in the smallest, and still finer detail is averaged over
    a stroke anyway. The view has copy.
    """
    copy, tasks = copy_on(view), size_tasks(view)
    assert copy is not None
    needed = steps_across(copy.drawn, copy.finest)
    return next((task for task in tasks if task.width >= needed), tasks[-1])


def moving_judgement(view: PlannedVariant, clip: MakeClip | None) -> JudgeMovingCopy | None:
    """How well its copy can be read over all frames; by the lightest format."""
    still = judgement(view)
    return JudgeMovingCopy(still, clip) if still and clip else None


def seams_task(view: PlannedVariant) -> MeasureSeams | None:
    """Of what is repeated."""
    picture = view.picture
    if picture is None or view.slot.repeat == "no-repeat":
        return None
    return MeasureSeams(source_of(picture))


def suggestion_task(view: PlannedVariant) -> SuggestSubject | None:
    """Where something is cut off, and no subject is named."""
    picture = view.picture
    if picture is None or picture.subjects or not is_cut(view.slot):
        return None
    return SuggestSubject(source_of(picture))


def stills_task(picture: Picture) -> ChooseStills:
    """The best stills of a clip, for what lies above them."""
    return ChooseStills(Source.of(picture.facts), _still_wish(picture))


def _still_wish(picture: Picture) -> StillWish:
    """Where the copy lies in the middle of the windows, in fractions of the frame."""
    size, copy = picture.size, picture.copy
    inverse = Size(1 / size.width, 1 / size.height)
    subjects = tuple(one.scaled(inverse) for one in picture.subjects)
    if copy is None:
        return StillWish(None, subjects)
    aspects = picture.stage.aspects
    seen = picture.cut.seen_at((aspects.low * aspects.high) ** 0.5)
    box = Rect(
        (seen.left + copy.left * seen.width) / size.width,
        (seen.top + copy.top * seen.height) / size.height,
        (seen.left + copy.right * seen.width) / size.width,
        (seen.top + copy.bottom * seen.height) / size.height,
    )
    return StillWish(_inside(box), subjects)


def _inside(box: Rect) -> Rect:
    left, top = min(max(box.left, 0.0), 0.99), min(max(box.top, 0.0), 0.99)
    return Rect(left, top, min(max(box.right, left), 1.0), min(max(box.bottom, top), 1.0))


def loop_task(picture: Picture, wish: ClipWish) -> ChooseLoop:
    """The stretch of a source that is played.

    Raises:
        SourceError: it begins after the clip's end.
    """
    seconds = picture.facts.seconds or 0.0
    if wish.begin >= seconds:
        raise SourceError(
            f"{picture.facts.path}: begin = {plain_number(wish.begin)}, but the clip is only"
            f" {plain_number(round(seconds, 2))} s long."
        )
    end = wish.end if wish.end is not None else seconds
    asked = LoopWish(wish.begin, end, wish.seam, wish.is_round)
    return ChooseLoop(Source.of(picture.facts), asked)


ClipTasks = Mapping[PlannedVariant, MakeClip]


def clip_tasks(plan: Plan) -> ClipTasks:
    """A task for every view at which a clip plays."""
    return {view: made for one in plan.backdrops for view, made in _clips_of(one)}


def _clips_of(one: BackdropPlan) -> Iterator[tuple[PlannedVariant, MakeClip]]:
    wish = one.backdrop.clip
    views = list(moving_views(one))
    for view, picture in views:
        # Views with one cut share its files: they are judged where they are shown largest.
        alike = [other.drawn for _, other in views if other.cut.area == picture.cut.area]
        assert wish is not None
        yield view, _clip(view, picture, wish, max(alike))


def moving_views(one: BackdropPlan) -> Iterator[tuple[PlannedVariant, Picture]]:
    """The views of a backdrop at which a clip plays."""
    for view in one.views:
        picture = view.picture
        if one.backdrop.clip and view.slot.moving and picture and picture.facts.kind.is_clip:
            yield view, picture


def _clip(view: PlannedVariant, picture: Picture, wish: ClipWish, drawn: float) -> MakeClip:
    area = _even(picture.cut.area)
    size = published_size(area.width, area.height)
    viewing = Viewing(density_of(size, drawn), veil_of(view.slot.scrim))
    css_px = size[0] / drawn if picture.tone.soften else 1.0
    keeps_grain = wish.grain == "keep"
    begin_at = picture.offer.poster_at if wish.from_poster and wish.is_round else None
    return MakeClip(
        source=Source.of(picture.facts),
        loop=loop_task(picture, wish),
        formats=wish.formats,
        look=ClipLook(area, size, wish.target, viewing, picture.tone, css_px, keeps_grain),
        pace=ClipPace(wish.speed, wish.most_rate, begin_at),
        most=wish.most,
    )


def _even(area: Rect) -> Rect:
    """A cut in whole px, as codecs of clips need them."""
    left, top = int(area.left / 2) * 2, int(area.top / 2) * 2
    width, height = max(2, int(area.width / 2) * 2), max(2, int(area.height / 2) * 2)
    return Rect(left, top, left + width, top + height)


SHOWN = 6
"""Candidates that are looked at and kept."""


@dataclass(frozen=True)
class ChooseStills(Task[tuple[Still, ...]]):
    """The best stills of a clip, the best one first."""

    source: Source
    wish: StillWish
    result_type: ClassVar[object] = tuple[Still, ...]

    def run(self, inputs: Inputs) -> tuple[Still, ...]:  # noqa: ARG002 - needs none
        """By looking at frames all over the clip.

        Raises:
            SourceError: not one can be read, or it was changed meanwhile.
        """
        with self.source.held() as path:
            found = best_stills(path, read_facts(path), self.wish, SHOWN)
        if not found:
            raise SourceError(f"{path}: not one frame of this clip can be read.")
        return tuple(found)
