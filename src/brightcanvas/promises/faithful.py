"""The promise *faithful*: each file looks like its original as displayed, as far as was asked."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from brightcanvas.ledger.record import Asset, PublishedVariant
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict
from brightcanvas.values.targets import LEVELS

NAME = "faithful"

TOLERANCE = 0.002
"""What a score may lie below its target: steps of a codec's quality are no finer."""


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each part of a backdrop that was published."""
    for one in facts.record.backdrops if facts.record else ():
        for shown in one.shown:
            slot = shown.view.slot
            level = slot.quality if slot.target == LEVELS[slot.quality] else "by the budget"
            if verdict := check_shown(one.name, shown, level, slot.target):
                yield verdict


def check_shown(
    backdrop: str, shown: PublishedVariant, level: str, target: float
) -> Verdict | None:
    """The verdict for one part, by the file that is least like its original.

    Args:
        backdrop: its name.
        shown: as published.
        level: the quality asked for, in the brief's word.
        target: its score.
    """
    assets: Sequence[Asset] = shown.assets
    if not assets:
        return None
    least = min(assets, key=lambda asset: asset.score)
    margin = round(least.score - target + TOLERANCE, 4)  # scores have four digits
    name = shown.view.slot.breakpoint.full_name
    x, y = least.worst_place
    says = (
        f"scores {least.score:.3f} at least, {target:g} wanted, to within"
        f" {TOLERANCE:g} ({level}); worst place {least.worst:.3f}, {x:.0%} across and {y:.0%} down"
        f" {least.file}"
    )
    holds = margin >= 0
    remedy = "" if holds else "a lower 'quality', or a source without so much grain"
    return Verdict(NAME, backdrop, name, State.of(holds), says, margin, remedy)
