"""Runs cases by chance for so many seconds, and counts what got through."""

from __future__ import annotations

import argparse
import random
import shutil
import tempfile
import time
from collections import Counter
from pathlib import Path

from bench.hostile.case import Case, Make
from bench.hostile.keeping import built, damaged_notes, damaged_output, fault
from bench.hostile.media import bomb, damaged_clip, damaged_picture, drawing
from bench.hostile.pages import driven, forged_records, live_page, no_file
from bench.hostile.running import Found, run
from bench.hostile.texts import odd_brief, odd_page

KINDS: dict[str, Make] = {
    "picture": damaged_picture, "bomb": bomb, "clip": damaged_clip, "drawing": drawing,
    "brief": odd_brief, "page": odd_page, "notes": damaged_notes, "output": damaged_output,
    "fault": fault, "live": live_page, "forged": forged_records, "no file": no_file,
    "driven": driven,
}  # fmt: skip


def main() -> None:
    """Run."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("seconds", type=float)
    parser.add_argument("--only", choices=KINDS)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--keep", type=Path, help="folder for the cases that got through")
    asked = parser.parse_args()
    counts, faults, worst = Counter[str](), Counter[str](), Counter[str]()
    until, number = time.monotonic() + asked.seconds, asked.seed
    while time.monotonic() < until:
        kind = asked.only or list(KINDS)[number % len(KINDS)]
        case = KINDS[kind](random.Random(number))
        found = tried(case, number, asked.keep)
        counts[kind] += 1
        worst[f"{kind}, MB"] = max(worst[f"{kind}, MB"], found.megabytes)
        worst[f"{kind}, s"] = max(worst[f"{kind}, s"], round(found.seconds))
        for one in found.faults:
            faults[one.split()[0]] += 1
            told = f"{number} {case.name} {' '.join(case.call)}: {one}, status {found.status}"
            print(told, flush=True)
            print(*(f"    {line[:200]}" for line in found.told.strip().splitlines()[-3:]), sep="\n")
        number += 1
    print(f"{sum(counts.values())} cases: {dict(counts)}")
    print(f"got through: {dict(faults) or 'nothing'}; the most of each: {dict(worst)}")


def tried(case: Case, number: int, keep: Path | None) -> Found:
    """One case in a folder of its own; after a fault the build is tried again without one."""
    place = Path(tempfile.mkdtemp(prefix="hostile-"))
    folder = place / "site"
    folder.mkdir()
    try:
        found = run(case, folder)
        if case.fault and not found.faults:
            found = resumed(case, folder, place)
        if found.faults and keep:
            shutil.copytree(folder, keep / f"{number}", dirs_exist_ok=True, symlinks=True)
        return found
    finally:
        shutil.rmtree(place, ignore_errors=True)


def resumed(case: Case, folder: Path, place: Path) -> Found:
    """What a second build makes of what a fault left; the same as one that nothing happened to."""
    fresh = place / "fresh"
    fresh.mkdir()
    sources = {name: case.files[name] for name in ("a.png", "brief.toml")}
    again = run(Case(case.name, {}, case.call), folder)
    other = run(Case(case.name, sources, case.call), fresh)
    same = published(folder) == published(fresh)
    faults = again.faults if same and again.status == other.status else (*again.faults, "half")
    return Found(again.status, again.seconds, again.megabytes, faults, again.told)


def published(folder: Path) -> dict[str, bytes]:
    """All files, half ones too."""
    return {path.name: path.read_bytes() for path in (folder / "published").glob("*")}


if __name__ == "__main__":
    built()
    main()
