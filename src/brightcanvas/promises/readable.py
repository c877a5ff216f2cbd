"""The promise *readable*: the copy's contrast holds in every window, and on the plain colour."""

from __future__ import annotations

from brightcanvas.framing.stages import Sight
from brightcanvas.promises.verdict import Verdict, sight_text
from brightcanvas.values.legible import Letters, Scrim

NAME = "readable"


def verdict(
    backdrop: str,
    breakpoint_: str,
    letters: Letters,
    contrasts: tuple[float, float],
    worst: tuple[Sight, float | None],
    scrims: tuple[Scrim | None, Scrim | None],
    usual: float | None = None,
) -> Verdict:
    """The verdict for one view.

    Args:
        backdrop: its name.
        breakpoint_: its breakpoint's name.
        letters: of the copy.
        contrasts: the lowest on the picture, and the one on the colour behind it.
        worst: a window in which the lowest occurs, and the second of the clip, if one plays.
        scrims: the one that is used, and the weakest one that would do.
        usual: the lowest on the usual screens, where it is too low elsewhere.
    """
    wanted = letters.wanted_contrast
    used, least = scrims
    lowest = min(contrasts)
    sight, second = worst
    says = f"lowest contrast {contrasts[0]:.2f}:1 at {sight_text(sight)}"
    says += f", {second:.1f} s into the clip" if second is not None else ""
    says += f", {contrasts[1]:.2f}:1 on the plain colour; {wanted:g}:1 is wanted"
    if used:
        says += f"; {scrim_text(used)} is used"
    holds = lowest >= wanted
    remedy = "" if holds else _remedy(least)
    is_rare = usual is not None and min(usual, contrasts[1]) >= wanted
    says += f"; on the usual screens {usual:.2f}:1" if usual is not None and is_rare else ""
    return Verdict(
        NAME, backdrop, breakpoint_, holds=holds, says=says, margin=lowest - wanted, remedy=remedy,
        is_rare=is_rare,
    )  # fmt: skip


CALM = "calm behind the copy"


def calm_verdict(
    backdrop: str, breakpoint_: str, detail: float, limit: float, blur: float | None
) -> Verdict:
    """Whether what lies under the copy is calm enough; a busy ground is told, not broken."""
    says = f"detail at the letters' scale {detail:.1f} steps of lightness (busy from {limit:g})"
    remedy = ""
    if detail >= limit:
        remedy = "another place for the copy would help"
        if blur is not None:
            remedy = f"tone = {{ soften = {blur:g} }} would calm it, or another place for the copy"
    return Verdict(
        CALM, backdrop, breakpoint_, holds=True, says=says, margin=limit - detail, remedy=remedy
    )


def _remedy(least: Scrim | None) -> str:
    if least is None:
        return "no scrim makes it readable: give the copy another place or another colour"
    return (
        f'{scrim_text(least)} would do: scrim = {{ least = true }}, or with side = "left" and so on'
    )


def scrim_text(scrim: Scrim) -> str:
    """A scrim in words: ``a 38 % dark scrim on the left``."""
    colour = scrim.colour
    is_grey = colour.red == colour.green == colour.blue
    tone = ("dark" if colour.red < 0.5 else "light") if is_grey else colour.css
    place = {"left": " on the left", "right": " on the right", "top": " above", "bottom": " below"}
    kind = "scrim of fine lines" if scrim.lines else "scrim"
    return f"a {scrim.strength:.1%} {tone} {kind}{place.get(scrim.side or '', '')}".replace(
        "%", " %"
    )
