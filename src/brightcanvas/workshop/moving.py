"""Making the clips of a plan: the loop once for each source, a file for each cut and format."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass

from brightcanvas.analysis.flashes import Flashes, flashes_of
from brightcanvas.analysis.loops import Loop, chosen_loop, reduced
from brightcanvas.analysis.timing import ClipTiming, course_of, published_size
from brightcanvas.brief.model import ClipWish
from brightcanvas.formats.clip_files import encoder_version
from brightcanvas.formats.clips import ClipFacts, read_facts
from brightcanvas.formats.moments import FrameReading
from brightcanvas.plan.model import BackdropPlan, Picture, View
from brightcanvas.quality.clip_search import ClipFile, ClipOrder, ClipScore, lightest_clips
from brightcanvas.quality.metric import Viewing
from brightcanvas.values.clip_formats import ClipEncoding, ClipFormat
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Rect, plain_number
from brightcanvas.workshop.jobs import veil_of
from brightcanvas.workshop.store import Store, key_of


@dataclass(frozen=True)
class MadeClip:
    """The clip of one view, in all its formats."""

    files: tuple[ClipFile, ...]
    loop: Loop
    flashes: Flashes


def moving_views(one: BackdropPlan) -> Iterator[tuple[View, Picture]]:
    """The views of a backdrop at which a clip plays."""
    for view in one.views:
        picture = view.picture
        if one.backdrop.clip and view.slot.moving and picture and picture.facts.kind.is_clip:
            yield view, picture


def make_clips(
    one: BackdropPlan, store: Store, done: Callable[[str], None]
) -> dict[View, MadeClip]:
    """The clips of a backdrop; ``done`` is told of each file."""
    wish, made = one.backdrop.clip, dict[View, MadeClip]()
    if wish is None:
        return made
    views = list(moving_views(one))
    for view, picture in views:
        # Views with one cut share its files: they are judged where they are shown largest.
        alike = [other.drawn for _, other in views if other.cut.area == picture.cut.area]
        made[view] = _made(view, picture, wish, max(alike), store, done)
    return made


def _made(
    view: View,
    picture: Picture,
    wish: ClipWish,
    drawn: float,
    store: Store,
    done: Callable[[str], None],
) -> MadeClip:
    facts = read_facts(picture.facts.path)
    loop = loop_once(picture, wish, store)
    begin_at = picture.offer.poster_at if wish.from_poster and wish.is_round else None
    course = course_of(loop, facts, wish.speed, wish.most_rate, begin_at)
    order = _order(view, picture, wish, course, drawn)
    files = _files_once(picture, order, wish.formats, store, done)
    return MadeClip(files, loop, _flashes_once(picture, facts, loop, wish, store))


def _order(
    view: View, picture: Picture, wish: ClipWish, course: ClipTiming, drawn: float
) -> ClipOrder:
    area = _even(picture.cut.area)
    size = published_size(area.width, area.height)
    density = max(size[0] / drawn, 0.25)
    viewing = Viewing(round(density, 4), veil_of(view.slot.scrim))
    reading = FrameReading(size=size, area=area, planar=True)
    return ClipOrder(
        picture.facts.path, course, reading, wish.target, viewing, wish.most,
        picture.tone, size[0] / drawn,
    )  # fmt: skip


def _even(area: Rect) -> Rect:
    """A cut in whole px, as codecs of clips need them."""
    left, top = int(area.left / 2) * 2, int(area.top / 2) * 2
    return Rect(left, top, left + max(2, int(area.width / 2) * 2), top + max(
        2, int(area.height / 2) * 2))  # fmt: skip


def loop_once(picture: Picture, wish: ClipWish, store: Store) -> Loop:
    """The stretch of a source that is played, or what was found before."""
    facts = read_facts(picture.facts.path)
    end = wish.end if wish.end is not None else facts.seconds
    if wish.begin >= facts.seconds:
        raise SourceError(
            f"{picture.facts.path}: begin = {plain_number(wish.begin)}, but the clip is only"
            f" {plain_number(round(facts.seconds, 2))} s long."
        )
    key = key_of(
        work="loop", source=picture.facts.digest, stretch=[wish.begin, end],
        seam=wish.seam if wish.is_round else "once",
    )  # fmt: skip
    kept = store.find(key)
    if kept is None:
        found = _loop(picture, facts, wish, end)
        kept = json.dumps(asdict(found)).encode()
        store.keep(key, kept)
    return Loop(**json.loads(kept))


def _loop(picture: Picture, facts: ClipFacts, wish: ClipWish, end: float) -> Loop:
    stretch = reduced(picture.facts.path, facts, wish.begin, end)
    if not stretch.seconds:
        raise SourceError(f"{picture.facts.path}: not one frame can be read there.")
    return chosen_loop(stretch, wish.seam, is_round=wish.is_round)


def _flashes_once(
    picture: Picture, facts: ClipFacts, loop: Loop, wish: ClipWish, store: Store
) -> Flashes:
    """Of the stretch as it is played; a round is looked at beyond its seam."""
    key = key_of(work="flashes", source=picture.facts.digest, loop=asdict(loop), speed=wish.speed)
    kept = store.find(key)
    if kept is None:
        found = flashes_of(picture.facts.path, facts, loop.begin, loop.end, wish.speed)
        kept = json.dumps(asdict(found)).encode()
        store.keep(key, kept)
    return Flashes(**json.loads(kept))


def _files_once(
    picture: Picture,
    order: ClipOrder,
    kinds: tuple[ClipFormat, ...],
    store: Store,
    done: Callable[[str], None],
) -> tuple[ClipFile, ...]:
    """The files, or what was made before of the same source in the same way."""
    found = {kind: _kept(_key(picture, order, kind), order, store) for kind in kinds}
    missing = [kind for kind in kinds if found[kind] is None]
    for made in lightest_clips(order, missing) if missing else ():
        kind = made.encoding.format
        found[kind] = made
        name = hashlib.sha256(made.content).hexdigest()
        store.keep(name, made.content)
        store.keep(_key(picture, order, kind), json.dumps(_parts(made, name)).encode())
        done(f"{picture.facts.path.name} at {order.size[0]} px, {kind.label}")
    return tuple(one for one in found.values() if one)


def _kept(key: str, order: ClipOrder, store: Store) -> ClipFile | None:
    kept = store.find(key)
    content = store.find(json.loads(kept)["name"]) if kept else None
    return _from_parts(json.loads(kept), content, order) if kept and content else None


def _key(picture: Picture, order: ClipOrder, kind: ClipFormat) -> str:
    area = order.reading.area
    return key_of(
        work="clip", source=picture.facts.digest, format=kind.name, codec=encoder_version(kind),
        course=[asdict(one) for one in order.course.stretches], rate=str(order.course.rate),
        step=order.course.step, area=asdict(area) if area else None, size=order.size,
        target=order.target, viewing=asdict(order.viewing), most=order.budget,
        tone=asdict(order.tone), css_px=order.css_px if order.tone.soften else 1,
    )  # fmt: skip


def _parts(made: ClipFile, name: str) -> dict[str, object]:
    return {
        "name": name,
        "format": made.encoding.format.name,
        "quality": made.encoding.quality,
        "codecs": made.codecs,
        "score": asdict(made.score),
        "encodes": made.encodes,
    }


def _from_parts(parts: dict[str, object], content: bytes, order: ClipOrder) -> ClipFile:
    encoding = ClipEncoding(ClipFormat[str(parts["format"])], int(str(parts["quality"])))
    score = parts["score"]
    assert isinstance(score, dict)
    return ClipFile(
        encoding,
        content,
        str(parts["codecs"]),
        order.size,
        order.course,
        ClipScore(**score),
        int(str(parts["encodes"])),
    )
