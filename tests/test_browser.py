"""What a real Chromium fetches and shows."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

from .browsing import CHROMIUM, DRIVER, Browser, serving
from .conftest import Demo, call, write_brief
from .test_rules import matches, rungs

pytestmark = [
    pytest.mark.browser,
    pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here"),
]

UNUSED_HINT_SECONDS = 4
"""Chromium tells of an unused hint about 3 s after the load event."""

BACKDROPS = ("mill-at-dusk", "bakery", "woven-reed", "dykes", "turning-sails")


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    browser = Browser()
    yield browser
    browser.close()


def best_files(ledger: Any, width: float, height: float, density: float) -> dict[str, str]:
    """The file that each backdrop's rules choose for a screen, newest format first."""
    return {
        name: rung["assets"][0]["file"]
        for name in BACKDROPS
        for rung in rungs(ledger, name)
        if matches(rung["condition"], width, height, density)
    }


@pytest.mark.parametrize("density", [1, 2])
@pytest.mark.parametrize("width", [360, 800, 1600])
def test_each_screen_fetches_one_file_and_it_is_the_hinted_one(
    demo: Demo, browser: Browser, width: int, density: float
) -> None:
    expected = best_files(demo.ledger, width, 800, density)
    assert len(expected) == (4 if width == 360 else 5)
    with serving(demo.published) as site:
        browser.open(f"{site.address}/try-it.html", width, 800, density)
        time.sleep(UNUSED_HINT_SECONDS)
        assert browser.evaluate("[innerWidth, devicePixelRatio]") == [width, density]
        fetched = site.pictures()
        assert sorted(fetched) == sorted(set(expected.values()))
        assert fetched[0] == expected["mill-at-dusk"], "the hinted one comes first"
        assert browser.console() == []


def test_an_unused_hint_would_have_been_told(demo: Demo, browser: Browser, tmp_path: Path) -> None:
    """The test above can fail: the same wait shows a warning where a hint serves no rule."""
    picture = next(demo.published.glob("bakery-*.jpg"))
    (tmp_path / "b.jpg").write_bytes(picture.read_bytes())
    (tmp_path / "p.html").write_text(
        '<!doctype html><link rel="icon" href="data:,"><link rel="preload" as="image" href="b.jpg">'
    )
    with serving(tmp_path) as site:
        browser.open(f"{site.address}/p.html", 800, 600)
        time.sleep(UNUSED_HINT_SECONDS)
        assert any("preloaded" in line for line in browser.console())


MARKS = {"red": (230, 0, 0), "green": (0, 200, 0), "blue": (0, 0, 230), "magenta": (220, 0, 220)}
SUBJECT = (0.62, 0.20, 0.80, 0.66)


def marked_source(path: Path) -> None:
    """Grey, with a mark just inside each corner of the subject's box."""
    picture = np.full((1600, 2400, 3), 120, np.uint8)
    left, top, right, bottom = (
        round(f * n) for f, n in zip(SUBJECT, (2400, 1600) * 2, strict=True)
    )
    side = 60
    spots = [(top, left), (top, right - side), (bottom - side, left), (bottom - side, right - side)]
    for (y, x), mark in zip(spots, MARKS.values(), strict=True):
        picture[y : y + side, x : x + side] = mark
    Image.fromarray(picture).save(path)


def seen_marks(screen: NDArray[np.uint8]) -> dict[str, int]:
    """How many pixels of each mark's colour a screenshot shows."""
    near = {
        name: np.abs(screen.astype(int) - mark).max(axis=2) < 70 for name, mark in MARKS.items()
    }
    return {name: int(mask.sum()) for name, mask in near.items()}


@pytest.fixture(scope="module")
def marked(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Any]:
    """A site whose one backdrop has a marked subject, and its ledger."""
    folder = tmp_path_factory.mktemp("marked")
    marked_source(folder / "marked.png")
    brief = write_brief(
        folder,
        '[site]\naddress = "/pictures/"\noutput = "site/pictures"\n'
        '[[backdrop]]\nname = "marked"\nsource = "marked.png"\nelement = "#top"\n'
        f"subject = {{ box = {list(SUBJECT)} }}\nfirst_view = true\n"
        'height = "5/3"\nbehind = "#777"\n'
        '[backdrop.at.midsize]\nheight = "max(560px, 60svh)"\n'
        '[backdrop.at.handheld]\nheight = "max(480px, 70svh)"\n',
    )
    assert call("build", brief).status == 0
    site = folder / "site"
    head = (site / "pictures/head.html").read_text()
    (site / "index.html").write_text(
        '<!doctype html><html lang="en"><meta charset="utf-8"><title>t</title>'
        '<meta name="viewport" content="width=device-width"><link rel="icon" href="data:,">'
        f'{head}<link rel="stylesheet" href="/pictures/backdrops.css">'
        '<style>body { margin: 0 }</style><section id="top"></section>'
    )
    return site, json.loads((site / "pictures/ledger.json").read_text())


def extreme_viewports(ledger: Any) -> list[tuple[int, int]]:
    """The viewports of every stage's narrowest and widest box, in whole px inside the range."""
    stages = [shown["picture"]["stage"] for shown in ledger["backdrops"][0]["breakpoints"]]
    sights = [stage[end]["viewport"] for stage in stages for end in ("narrowest", "widest")]
    return [(int(width), int(height)) for width, height in sights]


@pytest.mark.parametrize("density", [1, 2])
def test_the_marked_subject_is_in_view_at_the_extreme_boxes(
    marked: tuple[Path, Any], browser: Browser, density: float
) -> None:
    folder, ledger = marked
    viewports = [*extreme_viewports(ledger), (360, 740), (800, 600), (1600, 900)]
    with serving(folder) as site:
        for width, height in viewports:
            browser.open(f"{site.address}/index.html", width, height, density)
            counts = seen_marks(browser.screenshot())
            assert min(counts.values()) > 100, (width, height, counts)
            assert max(counts.values()) < 1.35 * min(counts.values()), "no mark is cut into"
            (fetched,) = site.pictures()
            (rung,) = [
                r
                for r in rungs(ledger, "marked")
                if matches(r["condition"], width, height, density)
            ]
            assert fetched == rung["assets"][0]["file"]
