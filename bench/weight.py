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
from pathlib import Path

from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.targets import DEFAULT_LEVEL, LEVELS
from brightcanvas.brief.loading import load_brief
from brightcanvas.media.encode import encode
from brightcanvas.media.pictures import decode, read_picture
from brightcanvas.plan.planning import plan_brief
from brightcanvas.weight.ladders import AVIF, EVEN_JPEG, WEBP
from brightcanvas.weight.likeness import Viewing
from brightcanvas.weight.search import Study, searched
from brightcanvas.workshop.building import build
from brightcanvas.workshop.jobs import Job, jobs_of
from brightcanvas.workshop.made import Result
from brightcanvas.workshop.making import Resized, Source, Workshop
from brightcanvas.workshop.store import Store

DEMO = Path(__file__).parent.parent / "src/brightcanvas/demo/marrowfen-mill/sources"
PHOTOGRAPHS = ("mill-at-dusk.jpg", "bakery.jpg")
FIXED = 80


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
    """CPU seconds of making every file once, with the answer known."""
    sources: dict[str, Source] = {}
    total = 0.0
    for job, result in results.items():
        source = sources.setdefault(job.facts.digest, Source(job))
        total += cpu(lambda source=source: source.picture)  # type: ignore[misc]
        rung = Resized(job, source)
        total += cpu(lambda rung=rung: rung.picture)  # type: ignore[misc]
        for made in result.files:
            total += cpu(lambda made=made, rung=rung: encode(rung.picture, made.encoding))  # type: ignore[misc]
    return total


def cost_and_errors(sources: list[Path]) -> None:
    """Print the ratio of a whole build to the floor, and how far scores are from the target."""
    with tempfile.TemporaryDirectory() as name:
        path = brief_for(Path(name), sources)
        brief = load_brief(path)
        spent = cpu(lambda: build(brief))
        plan = plan_brief(brief)
        jobs = [job for view in plan.views for job in jobs_of(view)]
        results = Workshop(Store(path.parent / ".bright-canvas"), lambda _: None).make(jobs)
        least = floor(results)
    print(f"CPU of a build: {spent:.1f} s, floor {least:.1f} s: ratio {spent / least:.2f}")
    target = LEVELS[DEFAULT_LEVEL]
    files = [made for result in results.values() for made in result.files]
    errors = sorted(made.score.figure - target for made in files)
    hit = sum(-0.002 <= error <= 0.005 for error in errors)
    print(
        f"scores of {len(files)} files against the target {target:g}: from {errors[0]:+.4f} to"
        f" {errors[-1]:+.4f}; {hit} within -0.002 to +0.005"
    )


def savings(source: Path) -> None:
    """Print what equal scores cost with one fixed quality and with ours."""
    study = Study(read_picture(source), Viewing())
    for kind in (FileFormat.JPEG, FileFormat.WEBP):
        fixed = encode(study.picture, Encoding(kind, quality=FIXED))
        score = study.original.score(decode(fixed)).figure
        ours = {
            ladder.settings.format.label: len(searched(study, ladder, score).content) / len(fixed)
            for ladder in (AVIF, WEBP, EVEN_JPEG)
        }
        told = ", ".join(f"{name} {share:.2f}" for name, share in ours.items())
        print(
            f"  {source.name}: {kind.label} {FIXED} is {len(fixed) / 1000:.0f} kB and scores"
            f" {score:.4f}; at that score, of its bytes: {told}"
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
