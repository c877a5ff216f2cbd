"""Planning: the time for each cut, and the memory against the pictures' size.

A brief of 200 backdrops at 4 breakpoints is planned from made-up facts of its sources: no
file is read, so what is measured is the computation alone.
"""

from __future__ import annotations

import itertools
import math
import random
import time
import tracemalloc
from pathlib import Path

from brightcanvas.brief.brief import Backdrop, Breakpoint, Brief, Copy, Slot, SourceOption
from brightcanvas.formats.kinds import FileKind
from brightcanvas.formats.survey import SourceFacts
from brightcanvas.framing.size_variants import choices_of
from brightcanvas.framing.stages import stage_of
from brightcanvas.plan.planning import plan_with
from brightcanvas.values.colours import UNTREATED
from brightcanvas.values.conditions import Condition
from brightcanvas.values.element_boxes import FULL_WIDTH, parse_height
from brightcanvas.values.file_formats import OFFERED
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.layers import Cover
from brightcanvas.values.targets import PRICES
from brightcanvas.values.work import THREADS

BACKDROPS = 200
EDGES = (0.0, 480.0, 768.0, 1200.0, math.inf)
HEIGHTS = ("60svh", "420px", "16/9", "max(420px, 70svh)", "80svh", "56vw")
ASPECTS = (3 / 2, 4 / 3, 16 / 9, 2 / 3, 1.0)


def brief_of(count: int) -> tuple[Brief, dict[Path, SourceFacts]]:
    """A made-up brief, with facts of its sources; every second one asks for clear copy."""
    chance = random.Random(7)
    facts: dict[Path, SourceFacts] = {}
    backdrops = []
    for number in range(count):
        path = Path(f"picture-{number}.jpg")
        width = 3000.0
        size = Size(width, width / ASPECTS[number % len(ASPECTS)])
        facts[path] = SourceFacts(
            path, FileKind("JPEG", codec="JPEG"), size, has_alpha=False, bytes=1, digest=str(number)
        )
        backdrops.append(_backdrop(number, path, chance))
    brief = Brief(
        path=Path("b.toml"), title="", output=Path(), address="", widest=2560, densest=2.0,
        price=PRICES["balanced"], most_parts=None, is_strict=False, room=0,
        workers=THREADS, digest="", screens=(),
        backdrops=tuple(backdrops),
    )  # fmt: skip
    return brief, facts


def _backdrop(number: int, path: Path, chance: random.Random) -> Backdrop:
    x, y = chance.uniform(0.1, 0.7), chance.uniform(0.1, 0.7)
    subject = Rect(x, y, x + chance.uniform(0.02, 0.2), y + chance.uniform(0.02, 0.2))
    copy = Copy(Rect(0.05, 0.3, 0.4, 0.7), clear_of_subject=number % 2 == 0, letters=None)
    height = HEIGHTS[number % len(HEIGHTS)]
    slots = tuple(
        _slot(Span(low, high), SourceOption(path, subjects=(subject,)), copy, height)
        for low, high in itertools.pairwise(EDGES)
    )
    return Backdrop(f"picture-{number}", ".a", first_view=False, slots=slots)


def _slot(widths: Span, offer: SourceOption, copy: Copy, height: str) -> Slot:
    return Slot(
        breakpoint=Breakpoint(f"from-{widths.low:.0f}", Condition(widths)),
        offers=(offer,),
        closeness="wide",
        copy=copy,
        tone=UNTREATED,
        scrim=None,
        position=None,
        fit=Cover(),
        repeat="no-repeat",
        seamless=False,
        whole_motifs=False,
        attachment="scroll",
        height=parse_height(height),
        width=FULL_WIDTH,
        growth=0.0,
        drift=0.0,
        quality="everyday",
        target=0.955,
        formats=OFFERED,
        behind=None,
    )


def main() -> None:
    """Print the time for each cut and the peak memory of planning."""
    brief, facts = brief_of(BACKDROPS)
    seconds = []
    for _ in range(3):
        stage_of.cache_clear()
        choices_of.cache_clear()
        begin = time.perf_counter()
        plan = plan_with(brief, facts)
        seconds.append(time.perf_counter() - begin)
    cuts = len(plan.views)
    print(
        f"{BACKDROPS} backdrops at {len(EDGES) - 1} breakpoints: {min(seconds):.2f} s,"
        f" {min(seconds) / cuts * 1000:.2f} ms for each of {cuts} cuts; bar: 0.1 s a backdrop"
    )
    tracemalloc.start()
    plan_with(brief, facts)
    print(f"peak memory while planning: {tracemalloc.get_traced_memory()[1] / 1e6:.1f} MB;")
    print("no pixel is read, so it does not depend on the pictures' size")


if __name__ == "__main__":
    main()
