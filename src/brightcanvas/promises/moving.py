"""The promise *moving*: a clip is light, begins again unnoticed, does not flash, and stops."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from brightcanvas.analysis.flashes import MOST, Flashes, Remedies
from brightcanvas.analysis.loops import BACK, FADED, ONCE, PAIR, SEEN, Loop
from brightcanvas.ledger.record import BackdropRecord, ClipShown
from brightcanvas.plan.planning import usual_of
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.quality.clips.clip_offers import ClipOffer
from brightcanvas.quality.clips.clip_study import TOO_LOW
from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.screens import Screen
from brightcanvas.values.targets import LEVELS


def seam_text(loop: Loop, jump: float) -> str:
    """How it begins again, as measured on the file, and why that way was chosen."""
    because = f": {loop.why}" if loop.why else ""
    if loop.way == ONCE:
        return f"it plays once and its last frame stays{because}"
    ways = {
        PAIR: f", from {loop.begin:.2f} to {loop.end:.2f} s, whose frames match",
        FADED: f"; its end fades into its beginning over {loop.fade:.1f} s{because}",
        BACK: f"; it plays forth and back from {loop.begin:.2f} to {loop.end:.2f} s{because}",
    }
    says = f"where it begins again it moves {jump:.1f} times the usual step"
    before = f", {loop.before:.1f} before" if loop.way in ways else ""
    return says + before + ways.get(loop.way, because)


def seam_remedy(seam: str) -> str:
    """What else could be tried; never what is set already."""
    others = {"find": "the best way", "fade": "a fade", "back": "forth and back"}
    found = [f"seam = '{word}' ({says})" for word, says in others.items() if word != seam]
    stretch = "another stretch (begin, end)"
    return ", ".join([*found, stretch, "or plays = 'once'"])


def flashes_text(found: Flashes) -> str:
    """How often it flashes."""
    where = f", from {found.second:.1f} s on" if found.most else ""
    return f"{found.most} flashes in its worst second{where}; {MOST} are safe"


def flashes_remedy(found: Remedies | None, speed: float) -> str:
    """What was tried and helps."""
    if found is None:
        return "look at it again with another stretch, slower or calmer"
    helps = []
    if found.speed:
        helps.append(f"speed = {plain_number(round(speed * found.speed, 2))}")
    if found.stretch:
        begin, end = found.stretch
        helps.append(f"begin = {begin:.2f} and end = {end:.2f}")
    if found.fade:
        colour = "".join(f"{round(part * 255):02x}" for part in found.fade_to)
        amount = plain_number(found.fade)
        helps.append(f"tone = {{ fade = {{ colour = '#{colour}', amount = {amount} }} }}")
    if not helps:
        return "another clip: neither slower, nor shorter, nor calmer is it safe"
    return "tried, each is safe: " + "; or ".join(helps)


def offers_text(offers: tuple[ClipOffer, ...], seconds: float) -> str:
    """What would help where a budget is too small, each with its bytes."""
    words = {
        "as it is": "as it is",
        "size": "{} px across",
        "rate": "{} frames a second",
        "length": f"{{}} s of its {seconds:.1f} s",
        "soften": "softened by {} px",
    }
    told = (
        f"{words[one.change].format(plain_number(round(one.value, 1)))} {one.bytes / 1000:.0f} kB"
        for one in offers
    )
    return "to look well it takes about: " + ", ".join(told)


NAME = "moving"


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdicts for each clip that is published, or that another host shows."""
    for one in facts.record.backdrops if facts.record else ():
        name = one.shown[-1].view.slot.breakpoint.full_name
        if one.hosted:
            yield _hosted(one.name, name)
        if one.hosted or one.clip:
            yield _where(one, name, usual_of(facts.plan.brief))
        for shown in one.shown:
            if shown.clip:
                yield from _of_clip(one.name, shown.view.slot.breakpoint.full_name, shown.clip)


def _of_clip(backdrop: str, name: str, clip: ClipShown) -> Iterator[Verdict]:
    if clip.loop.lost:
        yield _damage(backdrop, name, clip)
    yield _flashes(backdrop, name, clip)
    if clip.wish.is_round:
        yield _seam(backdrop, name, clip)
    yield _likeness(backdrop, name, clip)
    if clip.wish.most:
        yield _budget(backdrop, name, clip)


def _moves(one: BackdropRecord, viewport: Size) -> bool:
    """Whether something moves in such a window."""
    if one.hosted:
        least = one.hosted.shown_from
        return viewport.width >= least.width and viewport.height >= least.height
    slots = (shown.view.slot for shown in one.shown if shown.clip)
    return any(slot.breakpoint.has(viewport) and slot.plays_in(viewport) for slot in slots)


def _where(one: BackdropRecord, name: str, screens: Sequence[Screen]) -> Verdict:
    """On which of the usual screens it does."""
    moved = [screen for screen in screens if _moves(one, screen.viewport)]
    total = sum(screen.share for screen in screens)
    share = sum(screen.share for screen in moved) / total if total else 0.0
    names = ", ".join(dict.fromkeys(screen.name for screen in moved)) or "none of the usual screens"
    says = f"it moves for {share:.0%} of visits ({names}); elsewhere not a byte of it is fetched"
    return Verdict(NAME, one.name, name, State.HOLDS, says, share)


def _hosted(backdrop: str, breakpoint_: str) -> Verdict:
    """Nothing is known of what another host shows."""
    says = "what the other host shows is not measured: neither its flashes nor the copy's contrast"
    remedy = "look at it with the copy on top, or ship the clip yourself: [backdrop.clip]"
    return Verdict(NAME, backdrop, breakpoint_, State.NOT_MEASURED, says, 0.0, remedy)


def _damage(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    """What is whole is played."""
    says = f"the last {clip.loop.lost:.1f} s of the source can't be read; what is whole is played"
    remedy = "save or upload the clip again"
    return Verdict(NAME, backdrop, name, State.NOTE, says, -1.0, remedy)


def _flashes(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    worst = clip.flashes
    holds = worst.flashes.is_safe
    remedy = "" if holds else flashes_remedy(worst.remedies, clip.wish.speed)
    margin = float(MOST - worst.flashes.most)
    says = flashes_text(worst.flashes)
    return Verdict(NAME, backdrop, name, State.of(holds), says, margin, remedy)


def _seam(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    loop, says = clip.loop, seam_text(clip.loop, clip.jump)
    if not loop.is_round:
        remedy = "seam = 'fade' or 'back' begins again all the same, and is noticed"
        return Verdict(NAME, backdrop, name, State.NOTE, says, 0.0, remedy)
    if loop.is_light:
        remedy = seam_remedy(clip.wish.seam) if clip.jumps else ""
        return Verdict(NAME, backdrop, name, State.NOTE, says, SEEN - clip.jump, remedy)
    if clip.jump > SEEN and not clip.jumps:
        says += ", which is too little of light to be seen"
    remedy = seam_remedy(clip.wish.seam) if clip.jumps else ""
    return Verdict(NAME, backdrop, name, State.of(not clip.jumps), says, SEEN - clip.jump, remedy)


def _likeness(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    least = min(clip.assets, key=lambda asset: asset.score)
    target = clip.wish.target
    level = next(word for word, figure in LEVELS.items() if figure == target)
    says = (
        f"scores {least.score:.3f}, {target:g} wanted ({level}); its worst frame"
        f" {least.worst:.3f}; {least.file}"
    )
    if least.grain:
        says += f"; grain of {least.grain:.1f} codes was taken out"
    margin = round(least.score - target - TOO_LOW, 4)
    if margin >= 0:
        return Verdict(NAME, backdrop, name, State.HOLDS, says, margin)
    if least.is_capped:
        says += "; to score more it would have to be heavier than its source is at this size"
        return Verdict(NAME, backdrop, name, State.NOTE, says, margin)
    # Few bytes are what was asked for first.
    state = State.BROKEN if clip.wish.most is None else State.NOTE
    return Verdict(NAME, backdrop, name, state, says, margin, _more_likeness(clip))


def _more_likeness(clip: ClipShown) -> str:
    offers = clip.assets[0].offers
    if offers:
        return offers_text(offers, clip.assets[0].seconds)
    return "more bytes (most), a smaller part, or a lower quality"


def _budget(backdrop: str, name: str, clip: ClipShown) -> Verdict:
    heaviest = max(clip.assets, key=lambda asset: asset.bytes)
    most = clip.wish.most or 0
    margin = float(most - heaviest.bytes)
    says = f"{heaviest.bytes / 1000:.0f} kB at most, {most / 1000:.0f} kB allowed; {heaviest.file}"
    remedy = "" if margin >= 0 else "a shorter stretch (begin, end) or a lower most_rate"
    return Verdict(NAME, backdrop, name, State.of(margin >= 0), says, margin, remedy)
