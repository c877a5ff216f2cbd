"""The promise *moving*: a clip is light, begins again unnoticed, does not flash, and stops."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.analysis.flashes import MOST
from brightcanvas.analysis.loops import SEEN
from brightcanvas.ledger.model import ClipShown
from brightcanvas.promises.facts import Facts
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.quality.clip_search import TOO_LOW
from brightcanvas.values.targets import LEVELS

NAME = "moving"


def check(facts: Facts) -> Iterator[Verdict]:
    """The verdicts for each clip that is published, or that another host shows."""
    for one in facts.record.backdrops if facts.record else ():
        if one.hosted:
            yield _hosted(one.name, one.shown[-1].view.slot.breakpoint.full_name)
        for shown in one.shown:
            if shown.clip:
                yield from _of_clip(one.name, shown.view.slot.breakpoint.full_name, shown.clip)


def _of_clip(backdrop: str, name: str, clip: ClipShown) -> Iterator[Verdict]:
    if clip.lost:
        yield _damage(backdrop, name, clip)
    yield _flashes(backdrop, name, clip)
    if clip.wish.is_round:
        yield _seam(backdrop, name, clip)
    yield _likeness(backdrop, name, clip)
    if clip.wish.most:
        yield _budget(backdrop, name, clip)


def _hosted(backdrop: str, breakpoint_: str) -> Verdict:
    """Nothing is known of what another host shows."""
    says = "what the other host shows is not measured: neither its flashes nor the copy's contrast"
    remedy = "look at it with the copy on top, or ship the clip yourself: [backdrop.clip]"
    return Verdict(NAME, backdrop, breakpoint_, State.NOT_MEASURED, says, 0.0, remedy)


def _damage(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    """What is whole is played."""
    says = f"the last {clip.lost:.1f} s of the source can't be read; what is whole is played"
    remedy = "save or upload the clip again"
    return Verdict(NAME, backdrop, name, State.NOTE, says, -1.0, remedy)


def _flashes(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    holds = clip.flashes <= MOST
    where = f", from {clip.flash_second:.1f} s on" if clip.flashes else ""
    says = f"{clip.flashes} flashes in its worst second{where}; 3 are safe"
    remedy = "" if holds else "another stretch (begin, end), slower (speed), or a calmer tone"
    margin = float(MOST - clip.flashes)
    return Verdict(NAME, backdrop, name, State.of(holds), says, margin, remedy)


def _seam(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    says = f"where it begins again it moves {clip.jump:.1f} times the usual step"
    says += f", {clip.before:.1f} before" if clip.before != clip.jump else ""
    says += f"; its end fades into its beginning over {clip.fade:.1f} s" if clip.fade else ""
    holds = clip.jump <= SEEN
    remedy = "" if holds else "seam = 'find' or 'fade' in [backdrop.clip]"
    margin = SEEN - clip.jump
    return Verdict(NAME, backdrop, name, State.of(holds), says, margin, remedy)


def _likeness(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    least = min(clip.assets, key=lambda asset: asset.score)
    target = clip.wish.target
    level = next(word for word, figure in LEVELS.items() if figure == target)
    says = (
        f"scores {least.score:.3f}, {target:g} wanted ({level}); its worst frame"
        f" {least.worst:.3f}; {least.file}"
    )
    margin = round(least.score - target - TOO_LOW, 4)
    state = State.of(margin >= 0)
    if state is State.BROKEN and clip.wish.most is not None:
        state = State.NOTE  # few bytes are what was asked for first
    remedy = "" if margin >= 0 else "more bytes (most), a smaller part, or a lower quality"
    return Verdict(NAME, backdrop, name, state, says, margin, remedy)


def _budget(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    heaviest = max(clip.assets, key=lambda asset: asset.bytes)
    most = clip.wish.most or 0
    margin = float(most - heaviest.bytes)
    says = f"{heaviest.bytes / 1000:.0f} kB at most, {most / 1000:.0f} kB allowed; {heaviest.file}"
    remedy = "" if margin >= 0 else "a shorter stretch (begin, end) or a lower most_rate"
    return Verdict(NAME, backdrop, name, State.of(margin >= 0), says, margin, remedy)
