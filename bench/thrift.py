"""What the smallest brief makes of a picture, against what a careful hand would make.

    python -m bench.thrift             pictures that the repository's own program draws
    python -m bench.thrift FOLDER      every picture in a folder

Each picture gets the brief that a newcomer writes: source, element, the subject's box, and
``height = "80svh"``. The hand job is one decode, the exact crops for a phone (390 x 844 at 3x,
capped at 2x), a tablet (820 x 1180 at 2x) and a laptop (1440 x 900 at 1x), and each of them as AVIF
and JPEG at the same score as displayed, found by our own search as ``compress`` does. CPU of all
threads; both in one run.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import json
import statistics
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

from brightcanvas.brief.loading import load_brief
from brightcanvas.colour.resample import resize
from brightcanvas.delivery.hints import all_links, header_lines
from brightcanvas.formats.pictures.picture_reading import decode, read_picture
from brightcanvas.framing.compromise import CutOrder, frame
from brightcanvas.framing.wishes import CutWish
from brightcanvas.ledger.record import load_of, shown_on
from brightcanvas.pipeline.building import Outcome, build
from brightcanvas.quality.metric import Original, Viewing
from brightcanvas.quality.pictures.content import content_of
from brightcanvas.quality.pictures.lightest import PictureTarget, search
from brightcanvas.quality.search import Study
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.screens import Screen
from brightcanvas.values.targets import DEFAULT_LEVEL, LEVELS

BRIEF = """[[backdrop]]
source = {source}
element = ".hero"
subject = {{ box = [{box}] }}
height = "80svh"
first_view = true
"""
SUBJECT = (0.28, 0.3, 0.46, 0.7)
NUDGE = 0.01
SHARE = 0.8
CAP = 2.0

SCREENS = (
    Screen("phone", Size(390, 844), 3.0, 0.6),
    Screen("tablet", Size(820, 1180), 2.0, 0.02),
    Screen("laptop", Size(1440, 900), 1.0, 0.05),
)

T = TypeVar("T")


@dataclass(frozen=True)
class Hand:
    """What the hand job came to."""

    cpu: float
    bytes: dict[str, int]
    """Of the AVIF, by screen."""


def spent(work: Callable[[], T]) -> tuple[float, T]:
    """The CPU seconds of all threads that a call takes, and what it gives."""
    begin = time.process_time()
    result = work()
    return time.process_time() - begin, result


def hand_job(source: Path) -> Hand:
    """Make by hand what three screens need."""
    found: dict[str, int] = {}

    def work() -> None:
        picture = read_picture(source)
        for screen in SCREENS:
            box = Size(screen.viewport.width, screen.viewport.height * SHARE)
            density = min(screen.density, CAP)
            crop, shown = cropped(picture.size, box, density)
            study = Study(resize(picture, crop, *shown.rounded), Viewing(shown.width / box.width))
            content = content_of(study.picture)
            for kind in (FileFormat.AVIF, FileFormat.JPEG):
                made = search(study, content, PictureTarget(LEVELS[DEFAULT_LEVEL], (kind,)))[0]
                if kind is FileFormat.AVIF:
                    found[screen.name] = len(made.content)

    cpu, _ = spent(work)
    return Hand(cpu, found)


def cropped(size: Size, box: Size, density: float) -> tuple[Rect, Size]:
    """The largest crop of a box's shape round the subject, and its px: no more than it has."""
    wish = CutWish(size, Span(box.aspect, box.aspect), (Rect(*SUBJECT).scaled(size),))
    area = frame(CutOrder(wish)).cut.area
    width = min(box.width * density, area.width)
    return area, Size(width, width / box.aspect)


def score_on(source: Path, outcome: Outcome, screen: Screen) -> float:
    """Of what a screen loads, as that screen shows it."""
    record = outcome.record.backdrops[0]
    shown, asset = shown_on(record, screen), load_of(record, screen).picture
    assert shown is not None
    assert shown.view.picture is not None
    assert asset is not None
    cut = shown.view.picture.cut
    box = Size(screen.viewport.width, screen.viewport.height * SHARE)
    drawn = max(box.width, box.height * cut.area.size.aspect)
    width = min(drawn * min(screen.density, CAP), cut.area.width)
    height = max(1, round(width / cut.area.size.aspect))
    original = resize(read_picture(source), cut.area, round(width), height)
    file = decode((outcome.plan.brief.output / asset.file).read_bytes())
    return Original(original, Viewing(width / drawn)).score(file).figure


def build_in(folder: Path, source: Path, shift: float) -> Outcome:
    """Build the smallest brief, its subject moved to the right."""
    box = ", ".join(f"{edge + shift * (number % 2 == 0):g}" for number, edge in enumerate(SUBJECT))
    path = folder / "brief.toml"
    path.write_text(BRIEF.format(source=json.dumps(source.resolve().as_posix()), box=box))
    return build(load_brief(path))


@dataclass(frozen=True)
class Row:
    """The figures of one picture."""

    files: int
    total: int
    cpu: float
    nudged: float
    loads: dict[str, float]
    scores: dict[str, float]
    sheet: int
    hints: int
    links: int


def measure(source: Path) -> Row:
    """Everything about one picture; CPU and loads in terms of the hand job."""
    hand = hand_job(source)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        cpu, outcome = spent(lambda: build_in(folder, source, 0.0))
        scores = {one.name: score_on(source, outcome, one) for one in SCREENS}
        record = outcome.record.backdrops[0]
        loads = {one.name: load_of(record, one).bytes / hand.bytes[one.name] for one in SCREENS}
        output = outcome.plan.brief.output
        sheet, hints = ((output / one).stat().st_size for one in ("backdrops.css", "head.html"))
        links = len(header_lines(all_links(outcome.record)))
        nudged, _ = spent(lambda: build_in(folder, source, NUDGE))
    assets = outcome.record.assets
    total = sum(one.bytes for one in assets)
    return Row(
        len(assets), total, cpu / hand.cpu, nudged / hand.cpu, loads, scores, sheet, hints, links
    )


def told(name: str, row: Row) -> str:
    """One picture in a line."""
    loads = " ".join(f"{row.loads[s.name]:5.2f}" for s in SCREENS)
    scores = " ".join(f"{row.scores[s.name]:.3f}" for s in SCREENS)
    return (
        f"{name:22.22} {row.files:3} {row.total / 1000:7.0f} kB  {row.cpu:5.2f} {row.nudged:5.2f}  "
        f"{loads}  {scores}  {row.sheet:5} {row.hints:5} {row.links:5}"
    )


def drawn(folder: Path) -> Iterator[Path]:
    """Photographs of the scenery's own making, of other sizes and light than the demo's."""
    from scenery.variants import variants

    yield from variants(folder)


def main() -> None:
    """Print a line for each picture, and the worst of each figure."""
    print(
        "picture               files  in all   CPU  nudge   phone tablet laptop  scores there"
        "        css hints links"
    )
    with tempfile.TemporaryDirectory() as name:
        given = sys.argv[1:]
        sources = sorted(Path(given[0]).iterdir()) if given else drawn(Path(name))
        rows = []
        for source in sources:
            rows.append(measure(source))
            print(told(source.stem, rows[-1]), flush=True)
    worst = {
        "files": max(row.files for row in rows),
        "CPU": max(row.cpu for row in rows),
        "CPU after a nudge": max(row.nudged for row in rows),
        **{one.name: max(row.loads[one.name] for row in rows) for one in SCREENS},
        "style sheet": max(row.sheet for row in rows),
        "hints": max(row.hints for row in rows),
    }
    middle = {
        "CPU": statistics.median(row.cpu for row in rows),
        "CPU after a nudge": statistics.median(row.nudged for row in rows),
        **{one.name: statistics.median(row.loads[one.name] for row in rows) for one in SCREENS},
    }
    print("worst: " + ", ".join(f"{name} {value:.4g}" for name, value in worst.items()))
    print("middle: " + ", ".join(f"{name} {value:.3g}" for name, value in middle.items()))


if __name__ == "__main__":
    main()
