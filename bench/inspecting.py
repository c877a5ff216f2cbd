"""How long inspecting a large page takes, as a process of its own, without a browser.

    python -m bench.inspecting

A page of 200 kB with 1300 sections and a style sheet of 500 kB; once where every second rule is for
an element that the page has, once where hardly any is, as with a framework's sheet.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from PIL import Image

SECTIONS, RULES = 1300, 3600


def page(folder: Path, *, every: int) -> Path:
    """The page, with a rule for each section in so many."""
    sections = "\n".join(
        f'<section class="part part-{number} band"><h2 class="title title-{number}">Flour</h2>'
        f'<p>Ground by wind, number {number}: a <a href="#{number}">way</a> to it.</p></section>'
        for number in range(SECTIONS)
    )
    (folder / "index.html").write_text(
        "<!doctype html><html><head><meta charset=utf-8><title>Mill</title>"
        f'<link rel="stylesheet" href="site.css"></head><body>{sections}</body></html>', "utf-8",
    )  # fmt: skip
    rules = "\n".join(
        f".part-{number if not number % every else number + SECTIONS} .title-{number % SECTIONS},"
        f" .band > .t-{number}"
        " { color: #20262b; background-color: rgb(0 0 0 / 5%); margin: 0 auto; padding: 12px 5vw;"
        " border: 1px solid #d9dfe4 }"
        for number in range(RULES)
    )
    hero = ".part-1 { background: #1d2a33 url(mill.jpg) center / cover; color: #fff }"
    (folder / "site.css").write_text(f"{rules}\n{hero}", "utf-8")
    Image.new("RGB", (1600, 900), "#234").save(folder / "mill.jpg", quality=80)
    return folder / "index.html"


def main() -> None:
    """Print both."""
    for name, every in (("half of the rules", 2), ("one rule in fifty", 50)):
        with tempfile.TemporaryDirectory() as made:
            path = page(Path(made), every=every)
            sizes = [one.stat().st_size / 1000 for one in (path, path.with_name("site.css"))]
            began = time.monotonic()
            subprocess.run(
                [sys.executable, "-m", "brightcanvas", "inspect", str(path)],
                capture_output=True, check=False,
            )  # fmt: skip
            took = time.monotonic() - began
        print(f"{sizes[0]:.0f} kB and {sizes[1]:.0f} kB, {name} concern the page: {took:.2f} s")


if __name__ == "__main__":
    main()
