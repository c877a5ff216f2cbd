"""The promise *calm behind the copy*: what lies under the letters does not compete with them."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.analysis.legibility import BUSY_FROM
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.tasks.copy import Legibility

NAME = "calm behind the copy"


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view with copy; a busy ground is a note."""
    for backdrop, view in facts.views:
        if found := facts.legibility.get(view):
            yield _verdict(backdrop, view.slot.breakpoint.full_name, found)


def _verdict(backdrop: str, breakpoint_: str, found: Legibility) -> Verdict:
    detail = found.busyness
    says = f"detail at the letters' scale {detail:.1f} steps of lightness (busy from {BUSY_FROM:g})"
    is_calm = detail < BUSY_FROM
    return Verdict(
        NAME, backdrop, breakpoint_, State.HOLDS if is_calm else State.NOTE, says,
        margin=BUSY_FROM - detail, remedy="" if is_calm else _remedy(found.calming_blur),
    )  # fmt: skip


def _remedy(blur: float | None) -> str:
    if blur is None:
        return "another place for the copy would help"
    return f"tone = {{ soften = {blur:g} }} would calm it, or another place for the copy"
