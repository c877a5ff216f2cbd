"""What is told of clips: how they begin again, their flashes, and what would help."""

from __future__ import annotations

from brightcanvas.analysis.flashes import MOST, Flashes, Remedies
from brightcanvas.analysis.loops import BACK, FADED, ONCE, PAIR, Loop
from brightcanvas.quality.clip_offers import ClipOffer
from brightcanvas.values.geometry import plain_number


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
