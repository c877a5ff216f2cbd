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
from .conftest import Demo, assets_of, call, parts_of, write_brief
from .test_rules import file_at, part_at

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
    found = {name: file_at(ledger, name, width, height, density) for name in BACKDROPS}
    return {name: file for name, file in found.items() if file}


@pytest.mark.slow
@pytest.mark.alone
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


@pytest.mark.slow
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
SUBJECT = (0.62, 0.20, 0.80, 0.56)
COPY = (0.04, 0.62, 0.96, 0.96)
VIEWPORTS = [
    (320, 480), (320, 568), (333, 711), (360, 640), (360, 780), (390, 844), (412, 915), (480, 853),
    (540, 720), (568, 320), (600, 960), (639, 1024), (640, 360), (740, 360), (768, 1024),
    (820, 1180), (844, 390), (932, 430), (1024, 768), (1024, 1366), (1099, 700), (1100, 1400),
    (1280, 600), (1280, 800), (1366, 1024), (1440, 900), (1600, 1200), (1920, 1080), (2048, 1152),
    (2560, 1080), (2560, 1440), (1111, 777),
]  # fmt: skip


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


def mark_masks(screen: NDArray[np.uint8]) -> dict[str, NDArray[np.bool_]]:
    """Where a screenshot shows each mark's colour."""
    signed = screen.astype(np.int16)
    return {
        name: np.abs(signed - np.array(mark, np.int16)).max(axis=2) < 70
        for name, mark in MARKS.items()
    }


def assert_marks_whole(screen: NDArray[np.uint8], where: object) -> None:
    """Every mark is there, and none is cut into."""
    counts = {name: int(mask.sum()) for name, mask in mark_masks(screen).items()}
    assert min(counts.values()) > 60, (where, counts)
    assert max(counts.values()) < 1.4 * min(counts.values()), (where, counts)


def build_site(folder: Path, keys: str, body: str) -> tuple[Path, Any]:
    """A site whose one backdrop shows the marked source; its folder and its ledger."""
    marked_source(folder / "marked.png")
    brief = write_brief(
        folder,
        '[site]\naddress = "/pictures/"\noutput = "site/pictures"\n'
        '[[backdrop]]\nname = "marked"\nsource = "marked.png"\nelement = "#top"\n'
        f'subject = {{ box = {list(SUBJECT)} }}\nfirst_view = true\nbehind = "#777"\n{keys}',
    )
    ran = call("build", brief)
    assert ran.status == 0, ran.out + ran.err
    site = folder / "site"
    head = (site / "pictures/head.html").read_text()
    (site / "index.html").write_text(
        '<!doctype html><html lang="en"><meta charset="utf-8"><title>t</title>'
        '<meta name="viewport" content="width=device-width"><link rel="icon" href="data:,">'
        f'{head}<link rel="stylesheet" href="/pictures/backdrops.css">'
        f"<style>body {{ margin: 0 }}</style>{body}"
    )
    return site, json.loads((site / "pictures/ledger.json").read_text())


@pytest.fixture(scope="module")
def marked(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Any]:
    """The marked backdrop with copy below its subject, framed under constraints."""
    keys = (
        f"copy = {{ box = {list(COPY)}, clear_of_subject = true }}\n"
        'height = "5/3"\n'
        '[backdrop.at.midsize]\nheight = "max(560px, 60svh)"\n'
        '[backdrop.at.handheld]\nheight = "max(480px, 70svh)"\n'
    )
    return build_site(tmp_path_factory.mktemp("marked"), keys, '<section id="top"></section>')


@pytest.mark.slow
@pytest.mark.parametrize("density", [1, 2])
def test_at_every_window_marks_in_view_copy_clear_one_fitting_file(
    marked: tuple[Path, Any], browser: Browser, density: float
) -> None:
    folder, ledger = marked
    with serving(folder) as site:
        for width, height in VIEWPORTS:
            browser.open(f"{site.address}/index.html", width, height, density)
            box = browser.evaluate(
                "(b => [b.width, b.height])(document.querySelector('#top').getBoundingClientRect())"
            )
            assert isinstance(box, list)
            (fetched,) = site.pictures()
            shot = browser.page_top(max(height, round(box[1])))
            screen = shot[:: int(density), :: int(density)]
            assert_marks_whole(screen, (width, height))
            assert_copy_clear(screen, box[1])
            assert fetched == file_at(ledger, "marked", width, height, density)
            assert_pixels_fit(ledger, fetched, part_at(ledger, "marked", width, height), box)


def assert_copy_clear(screen: NDArray[np.uint8], height: float) -> None:
    """No mark lies in the rows and columns of the copy's box."""
    top, bottom = round(COPY[1] * height) + 2, round(COPY[3] * height) - 2
    left, right = (round(COPY[i] * screen.shape[1]) for i in (0, 2))
    for mask in mark_masks(screen).values():
        assert not mask[top:bottom, left:right].any()


def assert_pixels_fit(ledger: Any, fetched: str, part: Any, box: list[float]) -> None:
    """No window sees a file blown up without need: the cut has no more px, or it is a rare one."""
    asset = next(one for one in assets_of(part) if one["file"] == fetched)
    left, top, right, bottom = part["picture"]["cut"]
    shown = max(box[0], box[1] * (right - left) / (bottom - top))
    widest = max(one["picture"]["stage"]["widest"]["box"][0] for one in parts_of(ledger, "marked"))
    enough = min(shown * 0.6, right - left - 1)
    assert asset["width"] >= enough or box[0] > widest / 2, (asset["width"], shown)


@pytest.mark.slow
def test_a_drifting_picture_keeps_its_subject_in_view_while_it_moves(
    browser: Browser, tmp_path: Path
) -> None:
    keys = 'height = "max(560px, 60svh)"\nwidth = "1200px"\ndrift = 100\n'
    keys += "[backdrop.at.handheld]\ndrift = 0\n"
    space = '<div style="height:1200px"></div>'
    body = f'{space}<section id="top" style="max-width:1200px"></section>{space}'
    folder, _ = build_site(tmp_path, keys, body)
    tops = []
    with serving(folder) as site:
        browser.open(f"{site.address}/index.html", 1280, 800)
        for scroll in (850, 1000, 1150):
            browser.evaluate(f"scrollTo(0, {scroll})")
            time.sleep(0.2)
            screen = browser.screenshot()
            assert_marks_whole(screen, scroll)
            tops.append(int(np.nonzero(mark_masks(screen)["red"])[0].min()) + scroll)
        assert len(site.pictures()) == 1
    assert tops[0] < tops[1] < tops[2] or tops[0] > tops[1] > tops[2], "it drifts"
    assert 10 < abs(tops[2] - tops[0]) < 100


@pytest.mark.slow
def test_whole_tiles_fill_the_element_without_a_cut_motif(browser: Browser, tmp_path: Path) -> None:
    tile = np.full((120, 120, 3), 240, np.uint8)
    tile[:25, :25] = tile[95:, :25] = tile[:25, 95:] = tile[95:, 95:] = (200, 0, 0)
    Image.fromarray(tile).save(tmp_path / "dots.png")
    brief = write_brief(
        tmp_path,
        '[[backdrop]]\nsource = "dots.png"\nelement = "#d"\nsize = "60px"\nrepeat = "repeat"\n'
        'whole_motifs = true\nheight = "300px"\n',
    )
    assert call("build", brief).status == 0
    page = tmp_path / "published/p.html"
    page.write_text(
        '<!doctype html><link rel="icon" href="data:,"><link rel="stylesheet" href="backdrops.css">'
        '<style>body { margin: 0 }</style><div id="d"></div>'
    )
    with serving(tmp_path / "published") as site:
        for width in (500, 733, 1001):
            browser.open(f"{site.address}/p.html", width, 400)
            strip = browser.screenshot()[:300].astype(int)
            red = (strip[..., 0] - strip[..., 1]) > 90
            assert red.any()
            assert not red[:, :3].any(), "no motif is cut at the left"
            assert not red[:, -3:].any(), "nor at the right"
            assert not red[:3].any()
            assert not red[-3:].any()
