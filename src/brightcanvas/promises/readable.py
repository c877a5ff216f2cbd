"""The promise *readable*: the copy's contrast holds in every window, and on the plain colour."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.framing.stages import Stage
from brightcanvas.ledger.record import scrim_text
from brightcanvas.plan.planned import PlannedVariant
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict, sight_text
from brightcanvas.tasks.copy import Legibility, letters_of
from brightcanvas.values.legible import Letters

NAME = "readable"
STALE = "measure the copy again: bright-canvas measure PAGE"


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view with copy."""
    for backdrop, view in facts.views:
        found, letters = facts.legibility.get(view), letters_of(view)
        if letters and view.slot.keeps_rule:
            yield _unmeasured(backdrop, view)
        elif view.picture and view.slot.copy and not letters:
            yield _unasked(backdrop, view)
        elif found and letters and view.picture:
            yield check_view(backdrop, view, view.picture.stage, letters, found)


def _unasked(backdrop: str, view: PlannedVariant) -> Verdict:
    """Copy whose letters nobody has told of."""
    says = "nobody says what colour the letters have, so their contrast isn't checked"
    remedy = "copy = { ..., colour = '#fff' }, or measured = 'copy.json' with bright-canvas measure"
    name = view.slot.breakpoint.full_name
    return Verdict(NAME, backdrop, name, State.NOT_MEASURED, says, margin=0, remedy=remedy)


def _unmeasured(backdrop: str, view: PlannedVariant) -> Verdict:
    """Where the page's own rule stays, only the page itself shows what lies above the picture."""
    says = "what the page itself lays above the picture counts too; insert looks at the px"
    name = view.slot.breakpoint.full_name
    return Verdict(NAME, backdrop, name, State.NOT_MEASURED, says, margin=0)


def check_view(
    backdrop: str, view: PlannedVariant, stage: Stage, letters: Letters, found: Legibility
) -> Verdict:
    """The verdict for one view.

    Args:
        backdrop: its name.
        view: with copy.
        stage: of its picture.
        letters: of the copy.
        found: how well it can be read.
    """
    letters = found.letters or letters
    wanted = letters.wanted_contrast
    lowest = min(found.lowest, found.plain)
    holds = lowest >= wanted
    says = f"lowest contrast {found.lowest:.2f}:1 at {sight_text(stage.sight_with(found.aspect))}"
    says += f", {found.second:.1f} s into the clip" if found.second is not None else ""
    says += f", {found.plain:.2f}:1 on the plain colour; {wanted:g}:1 is wanted"
    says += f"; {scrim_text(found.scrim)} is used" if found.scrim else ""
    is_rare = found.usual is not None and min(found.usual, found.plain) >= wanted
    says += f"; on the usual screens {found.usual:.2f}:1" if is_rare else ""
    is_stale = view.slot.copy is not None and view.slot.copy.is_stale
    says += "; measured before the page was changed" if is_stale else ""
    remedy = STALE if is_stale else "" if holds else _remedy(found)
    state = State.NOTE if holds and is_stale else State.of(holds)
    return Verdict(
        NAME, backdrop, view.slot.breakpoint.full_name, state, says,
        margin=lowest - wanted, remedy=remedy, is_rare=is_rare,
    )  # fmt: skip


def _remedy(found: Legibility) -> str:
    least = found.least
    if found.is_opposed:
        return "light letters want a dark ground and dark ones a light one: give them one colour"
    if least is None:
        return "no scrim makes it readable: give the copy another place or another colour"
    return (
        f'{scrim_text(least)} would do: scrim = {{ least = true }}, or with side = "left" and so on'
    )
