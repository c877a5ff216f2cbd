"""The promise *budget*: no screen loads more than the brief allows."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.promises.checking import BudgetLoad, PromiseFacts
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.values.geometry import plain_number

NAME = "budget"


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict on each budget; one that can't be held comes with what would help."""
    return map(_verdict, facts.loads)


def _verdict(load: BudgetLoad) -> Verdict:
    budget = load.budget
    screen = f"{load.viewport.width:.0f} px wide at {plain_number(round(load.density, 2))}x"
    says = f"{kilobytes(load.bytes)} at most, {screen}"
    says += f", {kilobytes(load.clips)} of it clips" if load.clips else ""
    says += f"; {kilobytes(budget.most)} is allowed"
    says += f"; scores brought down to {load.lowest:.3f} for it" if load.is_lowered else ""
    return Verdict(
        NAME, budget.backdrop or "all backdrops", budget.breakpoint or "every breakpoint",
        State.of(load.bytes <= budget.most), says, margin=budget.most / load.bytes - 1,
        remedy="; ".join(load.offers),
    )  # fmt: skip


def kilobytes(amount: int) -> str:
    """As in ``12.3 kB``."""
    return f"{amount / 1000:.1f} kB"
