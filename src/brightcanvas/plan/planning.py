"""From a brief and the facts of its sources to a plan."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from brightcanvas.basics.errors import BriefError, SourceError
from brightcanvas.basics.fits import Cover
from brightcanvas.basics.shapes import Rect, Size
from brightcanvas.brief.model import Brief, Slot
from brightcanvas.framing.cuts import CENTRE, Cut, cut_at_position, cut_for_cover, whole
from brightcanvas.framing.rungs import rungs_for
from brightcanvas.framing.stages import Element, ScreenClass, Stage, stage_of, standard_screens
from brightcanvas.media.survey import DEFAULT_LIMIT, SourceFacts, survey
from brightcanvas.plan.model import BackdropPlan, Picture, Plan, View

Survey = Callable[[Path], SourceFacts]


def plan_brief(brief: Brief, limit: float = DEFAULT_LIMIT) -> Plan:
    """Plan all backdrops of a brief, looking at each source's head once.

    Raises:
        SourceError: naming every source that can't be used.
        BriefError: a breakpoint holds no width that a screen has.
    """
    sources = {slot.source for backdrop in brief.backdrops for slot in backdrop.slots}
    facts = survey_all(sorted(source for source in sources if source), limit)
    screens = standard_screens(brief.widest)
    return Plan(
        brief,
        tuple(
            BackdropPlan(one, tuple(_view(slot, facts, screens) for slot in one.slots))
            for one in brief.backdrops
        ),
    )


def survey_all(sources: Sequence[Path], limit: float) -> dict[Path, SourceFacts]:
    """Survey every source; all that can't be used are named together."""
    facts: dict[Path, SourceFacts] = {}
    refused: list[str] = []
    for source in sources:
        try:
            facts[source] = survey(source, limit)
        except SourceError as error:
            refused.append(str(error))
    if refused:
        raise SourceError("\n".join(refused))
    return facts


def _view(slot: Slot, facts: dict[Path, SourceFacts], screens: Sequence[ScreenClass]) -> View:
    if slot.source is None:
        return View(slot, None)
    stage = _stage(slot, screens)
    source = facts[slot.source]
    subject = slot.subject.scaled(source.size) if slot.subject else None
    cut = _cut(slot, source.size, stage, subject)
    rungs = rungs_for(cut.area.size, stage, slot.fit)
    return View(slot, Picture(source, stage, subject, cut, rungs))


def _stage(slot: Slot, screens: Sequence[ScreenClass]) -> Stage:
    element = Element(slot.height, fixed=slot.attachment == "fixed")
    stage = stage_of(slot.breakpoint.widths, element, screens)
    if stage is None:
        widths = slot.breakpoint.widths
        raise BriefError(
            f"Breakpoint '{slot.breakpoint.name}' ({widths.low:g} to {widths.high:g} CSS px): no"
            " screen has such a width. Change 'below', or 'widest' in [site]."
        )
    return stage


def _cut(slot: Slot, source: Size, stage: Stage, subject: Rect | None) -> Cut:
    if not isinstance(slot.fit, Cover) or slot.repeat != "no-repeat":
        return whole(source, slot.position or CENTRE)
    if slot.position:
        return cut_at_position(source, stage.aspects, slot.position)
    if subject:
        return cut_for_cover(source, stage.aspects, subject)
    return cut_at_position(source, stage.aspects, CENTRE)
