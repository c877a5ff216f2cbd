"""The promise *room for the copy*: its box holds the lines that are said of it.

Where it doesn't, letters lie outside of the box, and there nothing was looked at.
"""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.plan.planned import Picture, PlannedVariant
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict, sight_text
from brightcanvas.tasks.copy import letters_of

NAME = "room for the copy"

LEADING = 1.15
"""Height of a line over the size of its letters: what browsers take where nothing is said, about
(``line-height: normal``)."""


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view whose letters are told."""
    for backdrop, view in facts.views:
        is_stated = view.slot.copy is not None and not view.slot.copy.windows
        if is_stated and view.picture and letters_of(view):
            yield _verdict(backdrop, view, view.picture)


def _verdict(backdrop: str, view: PlannedVariant, picture: Picture) -> Verdict:
    copy, letters = view.slot.copy, letters_of(view)
    assert copy is not None
    assert letters is not None
    lowest = min(picture.stage.corners, key=lambda viewport_box: viewport_box.box.height)
    height, needed = lowest.box.height * copy.box.height, copy.most_lines * letters.size * LEADING
    lines, take = (
        ("1 line", "takes") if copy.most_lines == 1 else (f"{copy.most_lines} lines", "take")
    )
    says = (
        f"at {sight_text(lowest)} the copy's box is {height:.0f} px high;"
        f" {lines} of letters of {letters.size:g} px {take} {needed:.0f} px"
    )
    holds = height >= needed
    remedy = (
        "" if holds else "a higher box, a higher element, or smaller letters at this breakpoint"
    )
    name = view.slot.breakpoint.full_name
    return Verdict(NAME, backdrop, name, State.of(holds), says, height - needed, remedy)
