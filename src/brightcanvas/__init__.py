"""Backgrounds for web pages: cut, sized, compressed and loaded right, with proof.

    import brightcanvas

    brief = brightcanvas.load_brief("brief.toml")
    outcome = brightcanvas.build(brief)
    assert outcome.holds, [verdict.says for verdict in outcome.verdicts if not verdict.holds]

Everything that is offered stands in ``__all__``; the rest may change from version to version. The
functions are those of ``library``; they and their results are imported when they are first used.
"""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, Any

from brightcanvas.values.version import VERSION

if TYPE_CHECKING:
    from brightcanvas.adjusting.adjust_page import WrittenProof
    from brightcanvas.analysis.saliency import Suggestion
    from brightcanvas.brief.brief import Brief
    from brightcanvas.inspecting.all_findings import Inspected
    from brightcanvas.library.copied_pages import Integration
    from brightcanvas.library.first_brief import FirstBrief
    from brightcanvas.library.for_briefs import (
        build,
        check,
        draft,
        load_brief,
        plan_brief,
        served,
        sheet,
    )
    from brightcanvas.library.for_pages import begin, hits, insert, inspect, measure, rehearse
    from brightcanvas.library.for_pictures import compress, crop, poster, suggest_subject, transcode
    from brightcanvas.measuring.for_brief import MeasuredFiles
    from brightcanvas.page.aim import PageHits
    from brightcanvas.pipeline.building import Outcome
    from brightcanvas.pipeline.drafting import BuildDraft
    from brightcanvas.plan.planned import Plan
    from brightcanvas.promises.verdict import State, Verdict
    from brightcanvas.rehearsal.rehearsing import Rehearsed
    from brightcanvas.single_file.best_still import ChosenStill
    from brightcanvas.single_file.exact_cut import Crop
    from brightcanvas.single_file.host_check import HostedFile
    from brightcanvas.single_file.light_clip import Transcoded
    from brightcanvas.single_file.lighter_file import Compressed
    from brightcanvas.values.errors import BriefError, BrightCanvasError, MachineError, SourceError

__version__ = VERSION

__all__ = [
    "Brief",
    "BriefError",
    "BrightCanvasError",
    "BuildDraft",
    "ChosenStill",
    "Compressed",
    "Crop",
    "FirstBrief",
    "HostedFile",
    "Inspected",
    "Integration",
    "MachineError",
    "MeasuredFiles",
    "Outcome",
    "PageHits",
    "Plan",
    "Rehearsed",
    "SourceError",
    "State",
    "Suggestion",
    "Transcoded",
    "Verdict",
    "WrittenProof",
    "begin",
    "build",
    "check",
    "compress",
    "crop",
    "draft",
    "hits",
    "insert",
    "inspect",
    "load_brief",
    "measure",
    "plan_brief",
    "poster",
    "rehearse",
    "served",
    "sheet",
    "suggest_subject",
    "transcode",
]

_HOMES = {
    "Brief": "brief.brief",
    "BriefError": "values.errors",
    "BrightCanvasError": "values.errors",
    "BuildDraft": "pipeline.drafting",
    "ChosenStill": "single_file.best_still",
    "Compressed": "single_file.lighter_file",
    "Crop": "single_file.exact_cut",
    "FirstBrief": "library.first_brief",
    "HostedFile": "single_file.host_check",
    "Inspected": "inspecting.all_findings",
    "Integration": "library.copied_pages",
    "MachineError": "values.errors",
    "MeasuredFiles": "measuring.for_brief",
    "Outcome": "pipeline.building",
    "PageHits": "page.aim",
    "Plan": "plan.planned",
    "Rehearsed": "rehearsal.rehearsing",
    "SourceError": "values.errors",
    "State": "promises.verdict",
    "Suggestion": "analysis.saliency",
    "Transcoded": "single_file.light_clip",
    "Verdict": "promises.verdict",
    "WrittenProof": "adjusting.adjust_page",
    "begin": "library.for_pages",
    "build": "library.for_briefs",
    "check": "library.for_briefs",
    "compress": "library.for_pictures",
    "crop": "library.for_pictures",
    "draft": "library.for_briefs",
    "hits": "library.for_pages",
    "insert": "library.for_pages",
    "inspect": "library.for_pages",
    "load_brief": "library.for_briefs",
    "measure": "library.for_pages",
    "plan_brief": "library.for_briefs",
    "poster": "library.for_pictures",
    "rehearse": "library.for_pages",
    "served": "library.for_briefs",
    "sheet": "library.for_briefs",
    "suggest_subject": "library.for_pictures",
    "transcode": "library.for_pictures",
}
"""Where each is at home."""


def __getattr__(name: str) -> Any:  # noqa: ANN401 - whatever is asked for
    if name not in __all__:
        raise AttributeError(f"brightcanvas offers no {name}")
    home = importlib.import_module(f"brightcanvas.{_HOMES[name]}")
    return getattr(home, name)


def __dir__() -> list[str]:
    return sorted([*globals(), *__all__])
