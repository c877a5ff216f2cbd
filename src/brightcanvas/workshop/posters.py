"""The stills of clips for which the brief leaves the choice to us."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from pathlib import Path

from brightcanvas.analysis.stills import Marks, Still, StillWish, best_stills
from brightcanvas.brief.model import ClipWish
from brightcanvas.formats.clips import read_facts
from brightcanvas.plan.model import BackdropPlan, Picture, Plan, View
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.workshop.moving import loop_once
from brightcanvas.workshop.store import Store, key_of

SHOWN = 6
"""Candidates that are looked at and kept."""


def with_posters(plan: Plan, store: Store) -> Plan:
    """The plan with the second of every still that was left to us.

    All views of a backdrop that show one clip show one frame of it: the widest one's copy and
    subject decide.
    """
    return replace(plan, backdrops=tuple(_decided(one, store) for one in plan.backdrops))


def _decided(one: BackdropPlan, store: Store) -> BackdropPlan:
    seconds: dict[Path, float] = {}
    for view in reversed(one.views):
        if view.picture and _is_open(view.picture):
            path = view.picture.facts.path
            if path not in seconds:
                seconds[path] = _second(view.picture, one.backdrop.clip, store)
    return replace(one, views=tuple(_at_second(view, seconds) for view in one.views))


def _second(picture: Picture, wish: ClipWish | None, store: Store) -> float:
    """Of the best still; where the clip plays, of the best one in the stretch that does."""
    stills = stills_once(picture, store)
    if wish is None:
        return stills[0].second
    loop = loop_once(picture, wish, store)
    within = (one.second for one in stills if loop.begin <= one.second < loop.end - loop.fade)
    return next(within, loop.begin)


def _is_open(picture: Picture) -> bool:
    return picture.facts.kind.is_clip and picture.offer.poster_at is None


def _at_second(view: View, seconds: dict[Path, float]) -> View:
    picture = view.picture
    if picture is None or not _is_open(picture):
        return view
    offer = replace(picture.offer, poster_at=seconds[picture.facts.path])
    return replace(view, picture=replace(picture, offer=offer))


def stills_once(picture: Picture, store: Store) -> tuple[Still, ...]:
    """The best stills for a view, or what was found before."""
    path, wish = picture.facts.path, _wish(picture)
    key = key_of(work="stills", source=picture.facts.digest, wish=asdict(wish))
    kept = store.find(key)
    if kept is None:
        found = best_stills(path, read_facts(path), wish, SHOWN)
        if not found:
            raise SourceError(f"{path}: not one frame of this clip can be read.")
        kept = json.dumps([asdict(one) for one in found]).encode()
        store.keep(key, kept)
    return tuple(Still(one["second"], Marks(**one["marks"])) for one in json.loads(kept))


def _wish(picture: Picture) -> StillWish:
    """Where the copy lies in the middle of the windows, in fractions of the frame."""
    size, copy = picture.size, picture.copy
    subjects = tuple(one.scaled(_inverse(picture)) for one in picture.subjects)
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


def _inverse(picture: Picture) -> Size:
    return Size(1 / picture.size.width, 1 / picture.size.height)


def _inside(box: Rect) -> Rect:
    left, top = min(max(box.left, 0.0), 0.99), min(max(box.top, 0.0), 0.99)
    return Rect(left, top, min(max(box.right, left), 1.0), min(max(box.bottom, top), 1.0))
