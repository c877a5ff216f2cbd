"""What is set for the widest screens flows down until a narrower breakpoint overrides it."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from brightcanvas.brief.brief import (
    ANY_WINDOW,
    LEAST_HEIGHT,
    Backdrop,
    Breakpoint,
    Brief,
    Budget,
    ClipWish,
    HostedWish,
    PageWish,
    ScreenWish,
    Slot,
    SourceOption,
)
from brightcanvas.brief.entries import (
    BackdropEntry,
    BreakpointEntry,
    BriefEntry,
    ScreenEntry,
    SlotEntry,
    SubjectEntry,
    flowing,
)
from brightcanvas.values.conditions import Condition
from brightcanvas.values.file_formats import ClipFormat, FileFormat
from brightcanvas.values.geometry import Orientation, Rect, Size, Span
from brightcanvas.values.targets import LEVELS, PRICES
from brightcanvas.values.words import parse_bytes
from brightcanvas.values.work import parse_workers

MOVES_FROM = Size(800, LEAST_HEIGHT)
"""The least window in CSS px in which clips play, unless the brief says otherwise: no phone has it,
however it is held."""

_FLOWING = flowing()
_DEFAULTS: dict[str, Any] = {name: key.default for name, key in _FLOWING.items()}
_OF_SOURCE = [name for name, key in _FLOWING.items() if key.of_source]


def resolve(entry: BriefEntry, path: Path, digest: str) -> Brief:
    """The brief with every breakpoint of every backdrop complete."""
    folder = path.parent
    breakpoints = _breakpoints(entry.breakpoint)
    names = names_of(entry.backdrop)
    return Brief(
        path=path,
        title=entry.site.title,
        output=folder / entry.site.output,
        address=_prefix(entry.site.address),
        widest=entry.site.widest,
        densest=entry.site.densest,
        price=PRICES[entry.site.files],
        most_parts=None if entry.site.parts == "auto" else int(entry.site.parts),
        is_strict=entry.site.strict,
        room=parse_bytes(entry.site.room),
        workers=parse_workers(entry.site.workers),
        digest=digest,
        screens=tuple(map(_screen, entry.screen)),
        backdrops=tuple(
            _backdrop(name, one, breakpoints, folder)
            for name, one in zip(names, entry.backdrop, strict=True)
        ),
        budgets=tuple(
            Budget(parse_bytes(one.most), one.breakpoint, one.density, one.backdrop)
            for one in entry.budget
        ),
        address_table=folder / entry.site.addresses if entry.site.addresses else None,
        layer=entry.site.layer,
        pages=tuple(
            PageWish(one.name, tuple(one.backdrops), folder / one.file if one.file else None)
            for one in entry.page
        ),
    )


def _screen(one: ScreenEntry) -> ScreenWish:
    share = one.share / 100 if one.share else None
    return ScreenWish(one.name, Span(*one.widths), Span(*one.heights), one.density, share)


def _backdrop(
    name: str, one: BackdropEntry, breakpoints: list[Breakpoint], folder: Path
) -> Backdrop:
    return Backdrop(
        name,
        one.element,
        one.first_view,
        _slots(one, breakpoints, folder),
        _clip(one),
        _hosted(one),
        one.form,
        one.alternative,
        one.force,
    )


def _prefix(address: str) -> str:
    return f"{address}/" if address and not address.endswith("/") else address


def _breakpoints(entries: list[BreakpointEntry]) -> list[Breakpoint]:
    breakpoints: list[Breakpoint] = []
    low, before = 0.0, 0.0
    for one in entries:
        high = one.below if one.below is not None else math.inf
        if high != before:
            low, before = before, high
        orientation = Orientation(one.orientation) if one.orientation else None
        breakpoints.append(Breakpoint(one.name, Condition(Span(low, high), orientation)))
    return breakpoints


def names_of(entries: list[BackdropEntry]) -> list[str]:
    """Each backdrop's own name, or one made from its source's, numbered where it is taken."""
    taken = {one.name for one in entries if one.name}
    names = []
    for one in entries:
        name = one.name or _free(_slug(_first_source(one)), taken)
        taken.add(name)
        names.append(name)
    return names


def _first_source(entry: BackdropEntry) -> str:
    return entry.source or (entry.pick_from[0].source if entry.pick_from else "colour")


def _slug(source: str) -> str:
    words = re.findall(r"[a-z0-9]+", Path(source).stem.lower())
    return "-".join(words)[:50].strip("-") or "backdrop"


def _free(name: str, taken: set[str]) -> str:
    number, wanted = 2, name
    while name in taken:
        name, number = f"{wanted}-{number}", number + 1
    return name


def _slots(entry: BackdropEntry, breakpoints: list[Breakpoint], folder: Path) -> tuple[Slot, ...]:
    values = _DEFAULTS | _named(entry)
    slots: list[Slot] = []
    for breakpoint_ in reversed(breakpoints):
        override = entry.at.get(breakpoint_.name)
        values = _flowed(values, _named(override) if override else {})
        slots.insert(0, _slot(values, breakpoint_, folder))
    return tuple(replace(one, formats=_fetched(one.formats, entry.form)) for one in slots)


def _fetched(formats: tuple[FileFormat, ...], form: str) -> tuple[FileFormat, ...]:
    """Without a WebP that nobody would fetch: where a style sheet names AVIF, all read it."""
    if form != "background" or FileFormat.AVIF not in formats:
        return formats
    return tuple(one for one in formats if one is not FileFormat.WEBP)


def _named(entry: SlotEntry) -> dict[str, Any]:
    """The keys that were written, with their values."""
    return {
        key: getattr(entry, key)
        for key in SlotEntry.model_fields
        if getattr(entry, key) is not None
    }


def _flowed(above: dict[str, Any], override: dict[str, Any]) -> dict[str, Any]:
    """What holds above, with the override on top."""
    values = dict(above)
    names_source = "source" in override or "pick_from" in override
    if names_source and any(override.get(key) != above[key] for key in ("source", "pick_from")):
        values.update({key: _DEFAULTS[key] for key in _OF_SOURCE})
    return values | override


def _slot(values: dict[str, Any], breakpoint_: Breakpoint, folder: Path) -> Slot:
    read = {key.slot or name: key.read(values[name]) for name, key in _FLOWING.items() if key.read}
    if (copy := read["copy"]) and copy.measured_in:
        read["copy"] = replace(copy, measured_in=folder / copy.measured_in)
    if read["boxes_in"]:
        read["boxes_in"] = folder / read["boxes_in"]
    if read["scrim"] and read["replaces"] == "picture":  # the page's own layers stay as they are
        read["scrim"] = replace(read["scrim"], baked="yes")
    moving = values["moving"]
    moves_from = MOVES_FROM if moving is None else ANY_WINDOW
    return Slot(
        breakpoint=breakpoint_,
        moving=breakpoint_.widths.high > moves_from.width if moving is None else moving,
        moves_from=moves_from,
        offers=() if values["plain"] else _offers(values, folder),
        target=LEVELS[values["quality"]],
        height_is_stated=values["height"] is not None,
        **read,
    )


def _offers(values: dict[str, Any], folder: Path) -> tuple[SourceOption, ...]:
    if values["pick_from"]:
        return tuple(
            _offer(folder / one.source, one.poster_at, one.subject) for one in values["pick_from"]
        )
    return (_offer(folder / values["source"], values["poster_at"], values["subject"]),)


def _offer(
    source: Path, poster_at: float | str | None, subject: SubjectEntry | None
) -> SourceOption:
    margin = subject.margin if subject else 0.0
    second = 0.0 if poster_at == "first" else poster_at if isinstance(poster_at, float) else None
    return SourceOption(source, second, _subjects(subject), margin)


def _hosted(entry: BackdropEntry) -> HostedWish | None:
    one = entry.hosted
    if one is None:
        return None
    address = f"{one.address}?{urlencode(one.parameters)}" if one.parameters else one.address
    width, _, height = one.shape.partition("/")
    shape = int(width), int(height)
    return HostedWish(address, one.above, shape, one.title, one.pause, one.play)


def _clip(entry: BackdropEntry) -> ClipWish | None:
    one = entry.clip
    if one is None:
        return None
    return ClipWish(
        begin=one.begin,
        end=one.end,
        is_round=one.plays == "round",
        seam=one.seam,
        grain=one.grain,
        speed=one.speed,
        most_rate=one.most_rate,
        from_poster=one.from_poster,
        formats=tuple(kind for kind in ClipFormat if kind.word in one.codecs),
        target=LEVELS[one.quality],
        most=parse_bytes(one.most) if one.most else None,
        when_paused=one.when_paused,
        pause=one.pause,
        play=one.play,
    )


def _subjects(entry: SubjectEntry | None) -> tuple[Rect, ...]:
    if entry is None:
        return ()
    if entry.point:
        x, y = entry.point
        return (Rect(x, y, x, y),)
    return tuple(Rect(*box) for box in entry.boxes or ([entry.box] if entry.box else []))


@dataclass(frozen=True)
class Written:
    """A value that holds at a breakpoint, and where it was written."""

    value: Any
    """As JSON has it; None: nobody wrote one."""
    at: str | None
    """The breakpoint; empty: as it is on the widest screens; None: nowhere."""


def written_at(entry: BackdropEntry, names: Sequence[str]) -> dict[str, dict[str, Written]]:
    """For each breakpoint what of a backdrop's entry holds there, key by key.

    Args:
        entry: of the backdrop.
        names: of all breakpoints, the narrowest first.
    """
    holding = {key: Written(None, None) for key in _keys()}
    holding |= {key: Written(value, "") for key, value in _raw(entry).items()}
    found: dict[str, dict[str, Written]] = {}
    for name in reversed(names):
        override = _raw(entry.at[name]) if name in entry.at else {}
        sources = [key for key in ("source", "pick_from") if key in override]
        is_other = any(override[key] != holding[key].value for key in sources)
        dropped = _OF_SOURCE if is_other else []
        holding = holding | {key: Written(None, None) for key in dropped}
        holding = holding | {key: Written(value, name) for key, value in override.items()}
        found[name] = holding
    return found


def _keys() -> list[str]:
    return [field.alias or name for name, field in SlotEntry.model_fields.items()]


def _raw(entry: SlotEntry) -> dict[str, Any]:
    """What was written, as JSON has it."""
    dumped = entry.model_dump(mode="json", by_alias=True, exclude_unset=True)
    return {key: value for key, value in dumped.items() if key in _keys()}
