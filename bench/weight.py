"""What the search for the lightest files costs, how well it hits, and what it saves.

    python -m bench.weight             the demo's photographs
    python -m bench.weight FOLDER      every picture in a folder

The floor is one decode for each source, one resize for each rung and one encode for each file,
with the settings that were found: what making the files costs if one knows the answer.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.shapes import Rect
from brightcanvas.basics.targets import DEFAULT_LEVEL, LEVELS
from brightcanvas.brief.loading import load_brief
from brightcanvas.media.encode import encode
from brightcanvas.media.pictures import decode, read_picture
from brightcanvas.plan.planning import plan_brief
from brightcanvas.tone.resample import resize
from brightcanvas.weight.ladders import AVIF, EVEN_JPEG, WEBP, Ladder
from brightcanvas.weight.likeness import Viewing
from brightcanvas.weight.search import Study
from brightcanvas.workshop.building import build
from brightcanvas.workshop.jobs import Job, jobs_of
from brightcanvas.workshop.made import Result
from brightcanvas.workshop.making import Resized, Source, Workshop
from brightcanvas.workshop.store import Store

DEMO = Path(__file__).parent.parent / "src/brightcanvas/demo/marrowfen-mill/sources"
PHOTOGRAPHS = ("mill-at-dusk.jpg", "bakery.jpg")
FIXED = 80
ACROSS = 1600
RUNS = 3


def cpu(work: Callable[[], object]) -> float:
    """The CPU seconds, of all threads, that one call takes."""
    begin = time.process_time()
    work()
    return time.process_time() - begin


def brief_for(folder: Path, sources: list[Path]) -> Path:
    """A brief with one backdrop for each picture."""
    entries = "\n".join(
        f'[[backdrop]]\nsource = "{source.resolve().as_posix()}"\nelement = "#n{number}"\n'
        for number, source in enumerate(sources)
    )
    path = folder / "brief.toml"
    path.write_text(entries, encoding="utf-8")
    return path


def floor(results: dict[Job, Result]) -> float:
    """CPU seconds of making every file once, with the answer known, on as many cores."""
    sources: dict[str, Source] = {}
    for job in results:
        sources.setdefault(job.facts.digest, Source(job))

    def make(job: Job) -> None:
        rung = Resized(job, sources[job.facts.digest])
        for made in results[job].files:
            encode(rung.picture, made.encoding)

    def everything() -> None:
        with ThreadPoolExecutor(max_workers=os.cpu_count()) as pool:
            list(pool.map(make, results))

    return cpu(everything)


def results_of(path: Path) -> dict[Job, Result]:
    """What a build has made, read back from its store."""
    jobs = [job for view in plan_brief(load_brief(path)).views for job in jobs_of(view)]
    return Workshop(Store(path.parent / ".bright-canvas"), lambda _: None).make(jobs)


def cost_and_errors(sources: list[Path]) -> None:
    """Print the ratio of a whole build to the floor, and how far scores are from the target.

    Both take turns, and the least of each counts: what else the machine does only adds.
    """
    spent, least = list[float](), list[float]()
    for _ in range(RUNS):
        with tempfile.TemporaryDirectory() as name:
            path = brief_for(Path(name), sources)
            brief = load_brief(path)
            spent.append(cpu(partial(build, brief)))
            results = results_of(path)
            least.append(floor(results))
    turns = ", ".join(f"{one:.1f} / {two:.1f}" for one, two in zip(spent, least, strict=True))
    print(
        f"CPU of a build: {min(spent):.1f} s, floor {min(least):.1f} s: ratio"
        f" {min(spent) / min(least):.2f} (turns: {turns} s)"
    )
    target = LEVELS[DEFAULT_LEVEL]
    files = [made for result in results.values() for made in result.files]
    errors = sorted(made.score.figure - target for made in files)
    hit = sum(-0.002 <= error <= 0.005 for error in errors)
    print(
        f"scores of {len(files)} files against the target {target:g}: from {errors[0]:+.4f} to"
        f" {errors[-1]:+.4f}; {hit} within -0.002 to +0.005"
    )


def bytes_at(study: Study, ladder: Ladder, score: float) -> int:
    """Bytes of the lowest quality that reaches a score, by halving."""
    low, high, best = ladder.qualities[0], ladder.qualities[-1], 0
    while low <= high:
        middle = (low + high) // 2
        content = encode(study.picture, ladder.encoding(middle))
        if study.original.score(decode(content)).figure >= score:
            best, high = len(content), middle - 1
        else:
            low = middle + 1
    return best


def savings(source: Path) -> None:
    """Print what one fixed quality costs, and what our formats need for the same score."""
    picture = read_picture(source)
    area = Rect(0, 0, picture.size.width, picture.size.height)
    width = min(ACROSS, int(picture.size.width))
    study = Study(resize(picture, area, width, round(width / picture.size.aspect)), Viewing())
    for kind in (FileFormat.JPEG, FileFormat.WEBP):
        fixed = encode(study.picture, Encoding(kind, quality=FIXED))
        score = study.original.score(decode(fixed)).figure
        ours = {
            ladder.name: bytes_at(study, ladder, score) / len(fixed)
            for ladder in (AVIF, WEBP, EVEN_JPEG)
        }
        target = LEVELS[DEFAULT_LEVEL]
        lightest = bytes_at(study, AVIF, target) / len(fixed)
        told = ", ".join(f"{name} {share:.2f}" for name, share in ours.items())
        print(
            f"  {source.name}, {width} px: {kind.label} {FIXED} is {len(fixed) / 1000:.0f} kB and"
            f" scores {score:.4f}; at that score, of its bytes: {told}; AVIF at the target"
            f" {target:g}: {lightest:.2f}"
        )


def main() -> None:
    """Print everything."""
    if len(sys.argv) > 1:
        sources = sorted(path for path in Path(sys.argv[1]).iterdir() if path.is_file())
    else:
        sources = [DEMO / name for name in PHOTOGRAPHS]
    cost_and_errors(sources)
    for source in sources:
        savings(source)


if __name__ == "__main__":
    main()
