"""Foretold paint times beside measured ones, with and without hints, and the line's own limit.

    python -m bench.loading                 the demo's page, built into a temporary folder
    python -m bench.loading PAGE [RUNS]     any page with hints

Needs Chromium with its driver. Each load comes from a server of its own, cold; the middle run
counts. The browser's own time is that of the same page without any line between.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import re
import shutil
import sys
import tempfile
from pathlib import Path

from brightcanvas.brief.loading import load_brief
from brightcanvas.demo.setup import set_up
from brightcanvas.page.folder import folder_of
from brightcanvas.page.reading import Page, read_page
from brightcanvas.pipeline.building import build
from brightcanvas.rehearsal.confirming import Browser, Confirmed, chromium, confirm
from brightcanvas.rehearsal.engine_profiles import CHROMIUM
from brightcanvas.rehearsal.rehearsing import Rehearsed, rehearse
from brightcanvas.rehearsal.timeline import limit_of
from brightcanvas.serving.network_profiles import LINES, Protocol
from brightcanvas.values.screens import DEVICES

NAMES = ("phone", "laptop")
RUNS = 7


def without_hints(page: Path, folder: Path) -> Path:
    """A copy of a page's folder whose page has no hints."""
    shutil.copytree(page.parent, folder)
    copy = folder / page.name
    text = re.sub(r'<link rel="preload"[^>]*>\n?', "", copy.read_text("utf-8"))
    copy.write_text(text, "utf-8")
    return copy


def measured(path: Path, browser: Browser, runs: int) -> list[Confirmed]:
    """A page on every line, foretold and measured."""
    page: Page = read_page(folder_of(path))
    devices = [one for one in DEVICES if one.name in NAMES]
    found = rehearse(page, devices, LINES, Protocol.HTTP1, CHROMIUM)
    return list(confirm(page.folder, found, browser, runs))


def limit(one: Confirmed) -> float:
    """Seconds that the line itself needs for the page and its first view's picture."""
    found: Rehearsed = one.rehearsed
    over = next(over for over in found.over if over.line == one.line)
    hero = set(found.hero.urls) if found.hero else set()
    sizes = {timing.fetch.url: timing.bytes for timing in over.hinted.timings}
    picture = sum(size for url, size in sizes.items() if url in hero)
    return limit_of(over.hinted.timings[0].bytes, 0, picture, one.line)


def own_time(one: Confirmed, predicted: float) -> float:
    """Seconds that the browser itself needs, measured without any line between."""
    found: Rehearsed = one.rehearsed
    over = next(over for over in found.over if over.line == one.line)
    return predicted - over.hinted.at_hand(found.hero) if found.hero else 0.0


def row(name: str, one: Confirmed) -> str:
    """One line of the table."""
    if one.predicted is None or one.measured is None:
        return f"{name}: not counted"
    own = own_time(one, one.predicted)
    return (
        f"{one.rehearsed.device.figures:15} {one.line.name:20} {name:14}"
        f" foretold {one.predicted:.2f} s, measured {one.measured:.2f} s"
        f" ({one.lowest:.2f} to {one.highest:.2f}): {one.predicted / one.measured - 1:+.0%};"
        f" measured / limit of the line {one.measured / limit(one):.2f},"
        f" {(one.measured - own) / limit(one):.2f} without the browser's own {own:.2f} s"
    )


def main() -> None:
    """Print everything."""
    with tempfile.TemporaryDirectory() as name:
        if len(sys.argv) > 1:
            page = Path(sys.argv[1])
        else:
            page = build(load_brief(set_up(Path(name) / "demo"))).plan.brief.output / "try-it.html"
        runs = int(sys.argv[2]) if len(sys.argv) > 2 else RUNS
        plain = without_hints(page, Path(name) / "plain")
        with chromium() as browser:
            pairs = zip(measured(page, browser, runs), measured(plain, browser, runs), strict=True)
            for hinted, bare in pairs:
                print(row("with hints", hinted))
                print(row("without hints", bare))
                if hinted.measured and bare.measured and hinted.predicted and bare.predicted:
                    print(
                        f"  gain: foretold {bare.predicted - hinted.predicted:+.2f} s,"
                        f" measured {bare.measured - hinted.measured:+.2f} s"
                    )


if __name__ == "__main__":
    main()
