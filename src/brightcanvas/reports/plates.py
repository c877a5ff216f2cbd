"""What a framing sheet shows of one backdrop: the source with its cuts, and what boxes see."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from brightcanvas.analysis.saliency import suggest_subject
from brightcanvas.colour.resample import resize
from brightcanvas.colour.treatments import scrimmed, treated
from brightcanvas.framing.stages import Sight
from brightcanvas.plan.model import BackdropPlan, Picture, View
from brightcanvas.plan.planning import is_cut
from brightcanvas.values.geometry import Point, Rect, Size
from brightcanvas.values.legible import Scrim
from brightcanvas.values.raster import Raster

SOURCE_SIDE = 720
SEEN_SIDE = 300
"""Longer sides of the previews, px."""

Read = Callable[[Picture], Raster]
"""Gives the prepared source of a planned picture."""

FindSpot = Callable[[View, Picture, Raster], "Spot | None"]
"""Gives the place where a view's copy is hardest to read, from the prepared source."""


@dataclass(frozen=True)
class Marked:
    """A named cut on the source, in fractions of it."""

    name: str
    area: Rect


@dataclass(frozen=True)
class Spot:
    """The place where the copy of a view is hardest to read."""

    aspect: float
    """Of a box in which it is under the copy."""
    place: Point
    """In fractions of the cut."""
    contrast: float
    scrim: Scrim | None
    """What lies above the picture there."""


@dataclass(frozen=True)
class SeenBox:
    """One extreme box as a visitor sees it."""

    title: str
    box: Size
    """In CSS px."""
    picture: Raster
    subjects: tuple[Rect, ...]
    """In fractions of the box; a lost subject reaches beyond it."""
    copy: Rect | None
    spot: Point | None = None
    """In fractions of the box, where the copy is hardest to read."""


@dataclass(frozen=True)
class Plate:
    """One source of one backdrop, with all that is cut from it."""

    backdrop: str
    element: str
    source_name: str
    source: Raster
    subjects: tuple[Rect, ...]
    """In fractions of the source."""
    suggested: Rect | None
    cuts: tuple[Marked, ...]
    seen: tuple[SeenBox, ...]


def plates_of(plan: BackdropPlan, read: Read, find_spot: FindSpot) -> list[Plate]:
    """The plates of one backdrop: one for each source that it uses."""
    groups: dict[tuple[object, float], list[tuple[View, Picture]]] = {}
    for view in plan.views:
        if view.picture:
            key = (view.picture.facts.path, view.picture.offer.poster_at or 0.0)
            groups.setdefault(key, []).append((view, view.picture))
    return [_plate(plan, group, read(group[0][1]), find_spot) for group in groups.values()]


def _plate(
    plan: BackdropPlan, group: list[tuple[View, Picture]], source: Raster, find_spot: FindSpot
) -> Plate:
    pictures = [picture for _, picture in group]
    subjects = [one for picture in pictures for one in picture.subjects]
    needs_one = is_cut(group[-1][0].slot) and not subjects
    return Plate(
        backdrop=plan.backdrop.name,
        element=plan.backdrop.element,
        source_name=pictures[0].facts.path.name,
        source=_preview(source, Rect(0, 0, *_sides(source)), SOURCE_SIDE),
        subjects=tuple(dict.fromkeys(_in_fractions(one, source.size) for one in subjects)),
        suggested=suggest_subject(source).box if needs_one else None,
        cuts=tuple(
            Marked(view.slot.breakpoint.full_name, _in_fractions(picture.cut.area, source.size))
            for view, picture in group
        ),
        seen=tuple(
            seen
            for view, picture in group
            if is_cut(view.slot)
            for seen in _seen_in(view, picture, source, find_spot(view, picture, source))
        ),
    )


def _sides(source: Raster) -> tuple[float, float]:
    return source.size.width, source.size.height


def _in_fractions(area: Rect, size: Size) -> Rect:
    return area.scaled(Size(1 / size.width, 1 / size.height))


def _seen_in(view: View, picture: Picture, source: Raster, spot: Spot | None) -> Iterator[SeenBox]:
    """The extreme boxes, and the one in which the copy is hardest to read."""
    scrim = spot.scrim if spot else None
    for sight in dict.fromkeys((picture.stage.narrowest, picture.stage.widest)):
        title = f"{view.slot.breakpoint.full_name}, window {_whole(sight.viewport)}"
        yield _seen(picture, sight, source, title, scrim)
    if spot:
        sight = picture.stage.sight_with(spot.aspect)
        title = f"{view.slot.breakpoint.full_name}, lowest {spot.contrast:.2f}:1"
        area = _in_source(spot.place, picture.cut.area)
        place = _within(area, picture.cut.seen_at(sight.box.aspect)).centre
        yield replace(_seen(picture, sight, source, title, scrim), subjects=(), spot=place)


def _in_source(place: Point, cut: Rect) -> Rect:
    x, y = cut.left + place.x * cut.width, cut.top + place.y * cut.height
    return Rect(x, y, x, y)


def _seen(
    picture: Picture, sight: Sight, source: Raster, title: str, scrim: Scrim | None
) -> SeenBox:
    window = picture.cut.seen_at(sight.box.aspect)
    preview = treated(_preview(source, window, SEEN_SIDE), replace(picture.tone, soften=0.0))
    if scrim and picture.copy:
        preview = scrimmed(preview, scrim, picture.copy)
    subjects = tuple(_within(one, window) for one in picture.subjects)
    return SeenBox(title, sight.box, preview, subjects, picture.copy)


def _whole(size: Size) -> str:
    return f"{size.width:.0f} x {size.height:.0f}"


def _within(area: Rect, window: Rect) -> Rect:
    moved = Rect(
        area.left - window.left,
        area.top - window.top,
        area.right - window.left,
        area.bottom - window.top,
    )
    return _in_fractions(moved, window.size)


def _preview(source: Raster, area: Rect, longer: float) -> Raster:
    scale = longer / max(area.width, area.height)
    width, height = max(1, round(area.width * scale)), max(1, round(area.height * scale))
    inside = Rect(
        max(0.0, area.left),
        max(0.0, area.top),
        min(source.size.width, area.right),
        min(source.size.height, area.bottom),
    )
    return resize(source, inside, width, height)
