"""Pages that nobody here made, through ``begin``, ``build`` and ``insert``, untouched.

``python -m bench.pages FOLDER... [--browser firefox] [--keep FOLDER]``: each folder's
``index.html``, or the HTML files themselves; briefs and copies stay in the folder to keep. For
each page: what is drafted and left out, what a phone's pictures weigh before and after (all of the
page's, then the backdrops alone), and how far the copy is from the page as a browser shows both on
four kinds of screen: lightness (codes of 255, in the mean and at the 95th percentile of the worst
view), boxes (CSS px).
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass
from pathlib import Path
from statistics import median
from typing import Any

TIMEOUT = 900


@dataclass(frozen=True)
class Figures:
    """What came of one page."""

    name: str
    drafted: int
    left_out: int
    before: int
    after: int
    """Bytes of a phone's pictures, those of the text too."""
    ours: int
    """Of them, the files of backdrops in the copy."""
    mean: float
    far: float
    moved: float
    differences: tuple[str, ...]
    seconds: float

    @property
    def row(self) -> str:
        """As a line of the table."""
        share = self.after / self.before if self.before else 1.0
        behind = f"{self.backdrops / 1000:.0f}, {self.ours / 1000:.0f} kB ({self.share:.0%})"
        told = "; ".join(self.differences[:2])
        return (
            f"| {self.name} | {self.drafted}, {self.left_out} | {self.before / 1000:.0f},"
            f" {self.after / 1000:.0f} kB ({share:.0%}) | {behind} | {self.mean:.1f} |"
            f" {self.far:.1f} | {self.moved:.1f} px | {self.seconds:.0f} s | {told} |"
        )

    @property
    def backdrops(self) -> int:
        """Bytes of what the copy's files stand for: all but what both pages show."""
        return self.before - (self.after - self.ours)

    @property
    def share(self) -> float:
        """Of the backdrops' bytes, that a phone still loads."""
        return self.ours / self.backdrops if self.backdrops else 1.0


def pages_in(named: list[Path]) -> Iterator[Path]:
    """The pages that are named, and the index of each folder."""
    for path in named:
        if path.is_dir():
            found = sorted(path.rglob("index.html"), key=lambda one: len(one.parts))
            yield from found[:1]
        else:
            yield path


def _run(*arguments: str | Path) -> tuple[int, Any, str]:
    command = [sys.executable, "-m", "brightcanvas", *map(str, arguments), "--json"]
    ran = subprocess.run(
        command, capture_output=True, encoding="utf-8", timeout=TIMEOUT, check=False
    )
    return ran.returncode, json.loads(ran.stdout or "null"), ran.stderr


def _place(page: Path, keep: Path | None) -> AbstractContextManager[str]:
    if keep is None:
        return tempfile.TemporaryDirectory()
    place = keep / "-".join(page.with_suffix("").parts[-4:])
    place.mkdir(parents=True)
    return nullcontext(str(place))


def measured(page: Path, browser: str, keep: Path | None = None) -> Figures | str:
    """The figures of one page; a text where nothing came of it."""
    with _place(page, keep) as place:
        brief, began = Path(place) / "brief.toml", time.monotonic()
        status, drafted, said = _run("begin", page, brief, "--browser", browser)
        if status:
            return said.strip().replace("\n", " ")
        status, _, said = _run("build", brief)
        if status > 1:
            return said.strip().splitlines()[-1]
        into = Path(place) / "after"
        status, told, said = _run("insert", page, brief, "--into", into, "--browser", browser)
        if status > 1:
            return said.strip().splitlines()[-1]
        return _figures(page, drafted, told["pages"][0], into, time.monotonic() - began)


def _figures(
    page: Path,
    drafted: dict[str, Any],
    told: dict[str, Any],
    into: Path,
    seconds: float,
) -> Figures:
    views, phone = told["views"], told["screens"][1]
    moved = [
        abs(one - other) for view in views
        for one, other in zip(view["box"], view["box_before"], strict=True)
    ]  # fmt: skip
    return Figures(
        page.parent.name if page.parent.name != "dist" else page.parent.parent.name,
        len(drafted["backdrops"]), len(drafted["left_out"]),
        phone["before"]["bytes"], phone["after"]["bytes"],
        _bytes_of_ours(phone["after"]["files"], into),
        max((view["lightness"]["mean"] for view in views), default=0.0),
        max((view["lightness"]["far"] for view in views), default=0.0),
        max(moved, default=0.0),
        tuple(f"{one['screen']}: {one['says']}" for one in told["differences"]), seconds,
    )  # fmt: skip


def _bytes_of_ours(urls: list[str], copy: Path) -> int:
    names = {url.rpartition("/")[2] for url in urls if "/backdrops/" in url}
    return sum(one.stat().st_size for one in copy.rglob("backdrops/*") if one.name in names)


def main() -> None:
    """Print a line for each page, then what holds for all."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("pages", nargs="+", type=Path)
    parser.add_argument("--browser", default="chromium")
    parser.add_argument("--keep", type=Path)
    arguments = parser.parse_args()
    print("| page | drafted, left out | phone | its backdrops | mean | 95th | moved", end="")
    print(" | wall | differs |\n|---|---|---|---|---|---|---|---|---|")
    found = []
    for page in pages_in(arguments.pages):
        one = measured(page, arguments.browser, arguments.keep)
        if isinstance(one, str):
            print(f"| {page.parent} | none | | | | | | {one[:300]} |", flush=True)
            continue
        found.append(one)
        print(one.row, flush=True)
    if found:
        shares = [one.after / one.before for one in found if one.before]
        same = sum(not one.differences for one in found)
        print(f"\n{same} of {len(found)} copies look the same; phones load"
              f" {median(shares):.0%} of before in the middle, of the backdrops"
              f" {median(one.share for one in found):.0%}, at most"
              f" {max(one.share for one in found):.0%}")  # fmt: skip


if __name__ == "__main__":
    main()
