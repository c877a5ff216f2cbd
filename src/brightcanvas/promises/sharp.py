"""The promise *sharp*: no usual screen gets fewer px than the eye sees there, or it is named."""

from __future__ import annotations

import math
from collections.abc import Iterator

from brightcanvas.framing.size_variants import shortfall_of
from brightcanvas.plan.planned import Picture, PlannedVariant
from brightcanvas.promises.checking import PromiseFacts
from brightcanvas.promises.verdict import State, Verdict, sight_text
from brightcanvas.values.geometry import plain_number

NAME = "sharp"
MUSH = 6.0
"""CSS px that a px of the source covers. From there on a picture shows no edge of its own any more:
nobody would publish it, so it breaks the promise. The still of a clip is as coarse as the clip."""


def check(facts: PromiseFacts) -> Iterator[Verdict]:
    """The verdict for each view."""
    for backdrop, view in facts.views:
        if verdict := check_view(backdrop, view):
            yield verdict


def check_view(backdrop: str, view: PlannedVariant) -> Verdict | None:
    """The verdict for one view; a shortfall of the source is a note, mush is broken."""
    picture = view.picture
    if picture is None:
        return None
    name = view.slot.breakpoint.full_name
    short = shortfall_of(picture.demand, picture.size_variants)
    if short is None or picture.lender:
        return Verdict(
            NAME, backdrop, name, state=State.HOLDS, says=_enough(view, picture), margin=0
        )
    stretched = short.needed_width / picture.size_variants[-1].width
    wanted = math.ceil(picture.size.width * stretched)
    says = (
        f"the source is short: at {sight_text(short.viewport_box)} and"
        f" {plain_number(short.density)}x it is stretched {stretched:.2f} times"
    )
    remedy = f"a source {wanted} px wide would do"
    margin = 1 - stretched
    is_mush = stretched / short.density > MUSH and not picture.facts.kind.is_clip
    state = State.BROKEN if is_mush else State.NOTE
    return Verdict(NAME, backdrop, name, state, says=says, margin=margin, remedy=remedy)


def _enough(view: PlannedVariant, picture: Picture) -> str:
    least = min(size_variant.density for size_variant in picture.size_variants)
    how = "one to one" if view.slot.one_to_one else "as the eye sees it"
    told = f"every usual screen is served {how}: sizes of"
    return f"{told} {least:.2f} px to a CSS px or more"
