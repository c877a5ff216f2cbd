"""For those who have a brief: its plan, its build, drafts, the proof, and what a host serves."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.values.files import LARGEST_SOURCE

if TYPE_CHECKING:
    from brightcanvas.adjusting.adjust_page import WrittenProof
    from brightcanvas.brief.brief import Brief
    from brightcanvas.pipeline.building import Outcome
    from brightcanvas.pipeline.drafting import BuildDraft
    from brightcanvas.plan.planned import Plan
    from brightcanvas.promises.verdict import Verdict
    from brightcanvas.single_file.host_check import HostedFile


def load_brief(path: str | Path) -> Brief:
    """Read a ``brief.toml``.

    Raises:
        BriefError: naming every mistake with its line and key.
    """
    from brightcanvas.brief.loading import load_brief as load

    return load(Path(path))


def plan_brief(brief: Brief, *, largest_source: float = LARGEST_SOURCE) -> Plan:
    """What would be made of a brief, without looking at pixels and without writing anything.

    Args:
        brief: as loaded.
        largest_source: megapixels of a source, at most.

    Raises:
        SourceError: naming every source that can't be used.
    """
    from brightcanvas.pipeline.building import plan_as_built

    return plan_as_built(brief, largest_source)


def check(planned: Plan) -> tuple[Verdict, ...]:
    """The promises that can be decided on a plan alone, each with its worst case."""
    from brightcanvas.promises.checking import PromiseFacts, check_all

    return check_all(PromiseFacts(planned))


def build(
    brief: Brief,
    *,
    workers: str | None = None,
    largest_source: float = LARGEST_SOURCE,
    starts: Callable[[int], None] | None = None,
    done: Callable[[str], None] | None = None,
) -> Outcome:
    """Make and publish everything that a brief asks for, and check all promises.

    Args:
        brief: as loaded.
        workers: ``threads``, ``processes``, a number of them, or the address of a cluster's
            scheduler; None: those that the brief names.
        largest_source: megapixels of a source, at most.
        starts: called once with the number of pieces of work.
        done: called after each of them with what it was.

    Raises:
        BrightCanvasError: nothing is published then; what was made is kept for the next build.
        ValueError: nobody can be meant by ``workers``.
    """
    from brightcanvas.pipeline.building import build as build_all
    from brightcanvas.values.work import Watcher, parse_workers

    if workers is not None:
        brief = replace(brief, workers=parse_workers(workers))
    quiet = Watcher()
    watcher = Watcher(starts or quiet.starts, done or quiet.done)
    return build_all(brief, largest_source, watcher)


def draft(brief: Brief, *, largest_source: float = LARGEST_SOURCE) -> BuildDraft:
    """Make quick files for looking, in a folder of their own, marked as what they are.

    Args:
        brief: as loaded.
        largest_source: megapixels of a source, at most.

    Raises:
        BrightCanvasError: nothing is written then.
    """
    from brightcanvas.pipeline.drafting import draft as draft_all

    return draft_all(brief, largest_source)


def sheet(
    brief: str | Path,
    into: str | Path | None = None,
    *,
    largest_source: float = LARGEST_SOURCE,
) -> WrittenProof:
    """Write the proof of a brief: one page that needs nothing else, for whoever has to agree.

    Args:
        brief: path of it.
        into: folder of the page; None: ``proof`` beside the brief.
        largest_source: megapixels of a source, at most.

    Raises:
        BrightCanvasError: the brief or a source can't be used, or a file is in the way.
    """
    from brightcanvas.adjusting.adjust_page import write_proof

    path = Path(brief)
    return write_proof(path, Path(into) if into else path.parent / "proof", largest_source)


def served(brief: Brief, where: str | Path) -> list[HostedFile]:
    """Compare what a host serves with what was built.

    Args:
        brief: as loaded, and built.
        where: the address or the folder of the files, or a list of them, see ``places_from``.

    Raises:
        BrightCanvasError: nothing is built, or ``where`` can't be read.
    """
    from brightcanvas.single_file.host_check import check_served, places_from, published

    return check_served(brief.output, places_from(Path(where), published(brief.output)))
