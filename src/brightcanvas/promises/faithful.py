"""The promise *faithful*: each file looks like its original as displayed, as far as was asked."""

from __future__ import annotations

from collections.abc import Sequence

from brightcanvas.ledger.model import Asset, Shown
from brightcanvas.promises.verdict import Verdict

NAME = "faithful"

TOLERANCE = 0.002
"""What a score may lie below its target: steps of a codec's quality are no finer."""


def check(backdrop: str, shown: Shown, level: str, target: float) -> Verdict | None:
    """The verdict for one view, by the file that is least like its original.

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
    return Verdict(NAME, backdrop, name, holds=holds, says=says, margin=margin, remedy=remedy)
