"""Contrast of copy: the time for all stages of one backdrop whose source has 24 megapixels."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np

from brightcanvas.brief.brief import Backdrop, Breakpoint, Brief, Copy, Slot, SourceOption
from brightcanvas.colour.resample import resize
from brightcanvas.formats.kinds import FileKind
from brightcanvas.formats.survey import SourceFacts
from brightcanvas.plan.planning import plan_with
from brightcanvas.tasks.copy import copy_on, judge
from brightcanvas.tasks.of_views import judged_task
from brightcanvas.values.colours import UNTREATED, parse_colour
from brightcanvas.values.conditions import Condition
from brightcanvas.values.element_boxes import FULL_WIDTH, parse_height
from brightcanvas.values.file_formats import OFFERED
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.layers import Cover
from brightcanvas.values.legible import Letters, ScrimWish
from brightcanvas.values.raster import Raster
from brightcanvas.values.targets import DEFAULT_LEVEL, LEVELS, PRICES
from brightcanvas.values.work import THREADS

SIZE = Size(6000, 4000)
EDGES = ((0.0, 640.0), (640.0, 1100.0), (1100.0, float("inf")))


def slot(low: float, high: float, offer: SourceOption) -> Slot:
    """One breakpoint of the measured backdrop."""
    letters = Letters(parse_colour("white"), 44)
    return Slot(
        breakpoint=Breakpoint(f"from-{low:.0f}", Condition(Span(low, high))),
        offers=(offer,),
        closeness="wide",
        copy=Copy(Rect(0.06, 0.3, 0.48, 0.72), clear_of_subject=False, letters=letters),
        tone=UNTREATED,
        scrim=ScrimWish(None, None, None),
        position=None,
        fit=Cover(),
        repeat="no-repeat",
        seamless=False,
        whole_motifs=False,
        attachment="scroll",
        height=parse_height("max(520px, 80svh)"),
        width=FULL_WIDTH,
        growth=0.0,
        drift=0.0,
        quality=DEFAULT_LEVEL,
        target=LEVELS[DEFAULT_LEVEL],
        formats=OFFERED,
        behind=None,
    )


def main() -> None:
    """Print the time for judging all stages, once their pictures are there."""
    path = Path("a.jpg")
    slots = tuple(slot(low, high, SourceOption(path)) for low, high in EDGES)
    backdrop = Backdrop("a", ".a", first_view=False, slots=slots)
    facts = {
        path: SourceFacts(
            path, FileKind("JPEG", codec="JPEG"), SIZE, has_alpha=False, bytes=1, digest=""
        )
    }
    brief = Brief(
        path=path, title="", output=path, address="", widest=2560, densest=2.0,
        price=PRICES["balanced"], most_parts=1, is_strict=False, room=0,
        workers=THREADS, digest="", screens=(),
        backdrops=(backdrop,),
    )  # fmt: skip
    plan = plan_with(brief, facts)
    codes = np.random.default_rng(1).integers(0, 256, (400, 600, 3), np.uint8)
    source = Raster(np.repeat(np.repeat(codes, 10, 0), 10, 1))
    grey = parse_colour("#808080")
    total = 0.0
    for view in plan.views:
        assert view.picture is not None
        cut = view.picture.cut.area
        copy = copy_on(view)
        assert copy is not None
        shipped = resize(source, cut, *judged_task(view).size)
        begin = time.perf_counter()
        judge(copy, shipped, grey)
        total += time.perf_counter() - begin
    print(
        f"{len(plan.views)} stages of a 24 megapixel source: {total * 1000:.0f} ms, once their"
        " sizes are there; bar: 150 ms"
    )


if __name__ == "__main__":
    main()
