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
    from brightcanvas.analysis.saliency import Suggestion
    from brightcanvas.brief.model import Brief
    from brightcanvas.inspecting.inspect import Inspected
    from brightcanvas.library import (
        build,
        check,
        compress,
        crop,
        inspect,
        load_brief,
        plan_brief,
        rehearse,
        suggest_subject,
        transcode,
    )
    from brightcanvas.pipeline.building import Outcome
    from brightcanvas.plan.model import Plan
    from brightcanvas.promises.verdict import State, Verdict
    from brightcanvas.rehearsal.rehearsing import Rehearsed
    from brightcanvas.singles.compress import Compressed
    from brightcanvas.singles.crop import Crop
    from brightcanvas.singles.transcode import Transcoded
    from brightcanvas.values.errors import BriefError, BrightCanvasError, MachineError, SourceError

__version__ = VERSION

__all__ = [
    "Brief",
    "BriefError",
    "BrightCanvasError",
    "Compressed",
    "Crop",
    "Inspected",
    "MachineError",
    "Outcome",
    "Plan",
    "Rehearsed",
    "SourceError",
    "State",
    "Suggestion",
    "Transcoded",
    "Verdict",
    "build",
    "check",
    "compress",
    "crop",
    "inspect",
    "load_brief",
    "plan_brief",
    "rehearse",
    "suggest_subject",
    "transcode",
]

_HOMES = {
    "Brief": "brief.model",
    "BriefError": "values.errors",
    "BrightCanvasError": "values.errors",
    "Compressed": "singles.compress",
    "Crop": "singles.crop",
    "Inspected": "inspecting.inspect",
    "MachineError": "values.errors",
    "Outcome": "pipeline.building",
    "Plan": "plan.model",
    "Rehearsed": "rehearsal.rehearsing",
    "SourceError": "values.errors",
    "State": "promises.verdict",
    "Suggestion": "analysis.saliency",
    "Transcoded": "singles.transcode",
    "Verdict": "promises.verdict",
}
"""Where the results and errors are at home."""


def __getattr__(name: str) -> Any:  # noqa: ANN401 - whatever is asked for
    if name not in __all__:
        raise AttributeError(f"brightcanvas offers no {name}")
    home = importlib.import_module(f"brightcanvas.{_HOMES.get(name, 'library')}")
    return getattr(home, name)


def __dir__() -> list[str]:
    return sorted([*globals(), *__all__])
