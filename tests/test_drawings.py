"""SVG drawings as sources of a brief: cut as drawings, or as pixels where those are lighter."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from brightcanvas.browsers.programs import FIREFOX
from brightcanvas.formats.drawings.drawing_cleaning import cleaned_root
from brightcanvas.formats.drawings.drawing_cuts import counted_size, cut_drawing, read_drawing_head
from brightcanvas.formats.loaded import load
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.page.folder import Folder, folder_of
from brightcanvas.page.reading import read_page
from brightcanvas.rehearsal.confirming import BY_ENGINE
from brightcanvas.rehearsal.engine_profiles import CHROMIUM as LIKE_CHROMIUM
from brightcanvas.rehearsal.engine_profiles import FIREFOX as LIKE_FIREFOX
from brightcanvas.rehearsal.engine_profiles import EngineProfile
from brightcanvas.rehearsal.rehearsing import rehearse
from brightcanvas.serving.network_profiles import NetworkProfile, Protocol
from brightcanvas.serving.page_server import served
from brightcanvas.values.environments import environment_of
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.screens import Screen

from .browsing import CHROMIUM, DRIVER, Browser, serving
from .conftest import Ran, assets_of, call

NAMESPACE = 'xmlns="http://www.w3.org/2000/svg"'
FEN = f"""<svg {NAMESPACE} viewBox="0 0 1200 500"><metadata>who drew it</metadata>
<rect width="1200" height="500" fill="#dfe8e4"/>
<g stroke="#33566b" stroke-width="6" fill="none"><path d="M0 100C300 40 600 300 1200 180"/>
<path d="M0 300C300 240 600 400 1200 380"/></g>
<circle cx="800" cy="240" r="60" fill="#b5532c"/></svg>"""
BRIEF = """
[site]
widest = 900
densest = 1

[[breakpoint]]
name = "narrow"
below = 640
[[breakpoint]]
name = "wide"

[[backdrop]]
name = "fen"
source = "fen.svg"
element = ".fen"
height = "400px"
subject = { point = [0.667, 0.48] }
copy = { box = [0.02, 0.02, 0.3, 0.2], colour = "black", size = 24, contrast = 1.5 }
first_view = true
"""

needs_browser = [
    pytest.mark.browser,
    pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here"),
]


def built(folder: Path, drawing: str, more: str = "") -> Ran:
    (folder / "fen.svg").write_text(drawing, encoding="utf-8")
    (folder / "brief.toml").write_text(BRIEF + more, encoding="utf-8")
    return call("build", folder / "brief.toml")


def shown(folder: Path) -> Any:
    ledger = json.loads((folder / "published/ledger.json").read_text(encoding="utf-8"))
    return ledger["backdrops"][0]["breakpoints"]


@pytest.fixture(scope="module")
def fen(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A built brief with a light drawing."""
    folder = tmp_path_factory.mktemp("fen")
    ran = built(folder, FEN)
    assert ran.status == 0, ran.out + ran.err
    return folder


@pytest.mark.slow
def test_a_light_drawing_is_one_file_for_all_screens_of_a_breakpoint(fen: Path) -> None:
    for one in shown(fen):
        (asset,) = assets_of(one)
        assert asset["file"].endswith(".svg")
        assert asset["bytes"] < len(FEN) + 200
        content = (fen / "published" / asset["file"]).read_bytes()
        assert b"metadata" not in content
    head = (fen / "published/head.html").read_text(encoding="utf-8")
    assert head.count("<link") == 2
    assert head.count('type="image/svg+xml"') == 2


def test_a_cut_shows_its_part(tmp_path: Path) -> None:
    (tmp_path / "fen.svg").write_text(FEN, encoding="utf-8")
    assert read_drawing_head(load(tmp_path / "fen.svg")).size.rounded == (6000, 2500)
    part = decode(cut_drawing(load(tmp_path / "fen.svg"), Rect(3700, 900, 4300, 1500))).pixels
    assert part.shape[:2] == (600, 600)
    assert tuple(part[300, 300]) == (0xB5, 0x53, 0x2C)
    assert tuple(part[2, 2]) == (0xDF, 0xE8, 0xE4)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("drawing", "more"),
    [
        (FEN, "tone = { desaturate = 1 }\n"),
        (
            FEN.replace("</svg>", "<g>" + '<path d="M9 9l1 1z"/>' * 20000 + "</g></svg>"),
            "",
        ),
    ],
    ids=["treated", "heavy"],
)
def test_where_pixels_are_lighter_or_treated_there_are_pixels(
    tmp_path: Path, drawing: str, more: str
) -> None:
    ran = built(tmp_path, drawing, more)
    assert ran.status == 0, ran.out + ran.err
    files = [asset["file"] for one in shown(tmp_path) for asset in assets_of(one)]
    assert not any(name.endswith(".svg") for name in files)
    narrow = shown(tmp_path)[0]
    smallest = narrow["oldest"]["file"]
    with Image.open(tmp_path / "published" / smallest) as image:
        pixels = np.asarray(image.convert("RGB")).astype(int)
    grey = np.abs(pixels[..., 0] - pixels[..., 2]).max() <= 3
    assert grey == bool(more)


@pytest.mark.slow
def test_a_second_run_makes_nothing_anew_and_a_changed_drawing_does(fen: Path) -> None:
    before = {path.name for path in (fen / "published").glob("*.svg")}
    assert call("build", fen / "brief.toml").status == 0
    assert {path.name for path in (fen / "published").glob("*.svg")} == before
    assert built(fen, FEN.replace("#b5532c", "#2c53b5")).status == 0
    assert not before & {path.name for path in (fen / "published").glob("*.svg")}
    assert built(fen, FEN).status == 0


BOMB = "".join(
    f'<g id="a{level}">' + f'<use href="#a{level - 1}"/>' * 10 + "</g>" for level in range(1, 30)
)


CHAIN = "".join(f'<g id="b{link}"><use href="#b{link + 1}"/></g>' for link in range(80))


@pytest.mark.parametrize(
    ("drawing", "says"),
    [
        (f'<svg {NAMESPACE}><rect id="a0"/>{BOMB}</svg>', "by reference"),
        (f"<svg {NAMESPACE}>" + "<g>" * 20000 + "</g>" * 20000 + "</svg>", "nested more than"),
        (f"<svg {NAMESPACE}>" + "<g>" * 105 + "</g>" * 105 + "</svg>", "nested more than"),
        (f"<svg {NAMESPACE}>{CHAIN}</svg>", "within each other"),
        (f"<svg {NAMESPACE}><g>", "damaged"),
        ('<svg viewBox="0 0 9 9"/>', "no SVG drawing"),
        (f'<!DOCTYPE svg [<!ENTITY a "b">]><svg {NAMESPACE}>&a;</svg>', "entities"),
    ],
    ids=["multiplies", "endless", "deep", "chained", "cut short", "no namespace", "entities"],
)
def test_drawings_that_cannot_be_used_are_refused(tmp_path: Path, drawing: str, says: str) -> None:
    ran = built(tmp_path, drawing)
    assert (ran.status, says in ran.err) == (3, True), ran.err
    assert not (tmp_path / "published").exists()


WINDOW = Screen("a window", Size(600, 600))

nasty = st.sampled_from(
    ["0", "-1", "1e300", "1e-300", "inf", "NaN", "9" * 400, "50%", "10 20", "", ".", "0 0 1e308 1"]
)


@given(nasty, nasty, st.tuples(nasty, nasty, nasty, nasty).map(" ".join))
def test_any_size_counts_for_something(width: str, height: str, box: str) -> None:
    drawing = f'<svg {NAMESPACE} width="{width}" height="{height}" viewBox="{box}"><path/></svg>'
    size = counted_size(cleaned_root(drawing.encode(), "x"))
    assert max(size.rounded) == 6000
    assert min(size.rounded) >= 1


SIZES = [
    'viewBox="0 0 30 10"', 'width="3in" height="254mm"', 'width="30pt" height="10px"',
    'width="600" viewBox="0 0 20 10"', 'height="50px" viewBox="5,5 20 40"', "",
    'width="100%" height="100%" viewBox="0 0 7 9"', 'width="40" height="30" viewBox="0 0 10 10"',
]  # fmt: skip


class TestInChromium:
    """Drawings in a real browser."""

    pytestmark = needs_browser

    @pytest.mark.slow
    def test_sizes_are_those_of_the_browser(self, tmp_path: Path) -> None:
        for number, said in enumerate(SIZES):
            drawing = f"<svg {NAMESPACE} {said}><rect width='3' height='3'/></svg>"
            (tmp_path / f"{number}.svg").write_text(drawing, encoding="utf-8")
        images = "".join(f'<img src="{number}.svg" alt="">' for number in range(len(SIZES)))
        (tmp_path / "index.html").write_text(f"<!doctype html>{images}", encoding="utf-8")
        with serving(tmp_path) as site:
            browser = Browser()
            try:
                browser.open(f"{site.address}/index.html", 900, 600)
                ratios = browser.evaluate(
                    "[...document.images].map((one) => one.naturalWidth / one.naturalHeight)"
                )
            finally:
                browser.close()
        assert isinstance(ratios, list)
        for said, ratio, number in zip(SIZES, ratios, range(len(SIZES)), strict=True):
            content = (tmp_path / f"{number}.svg").read_bytes()
            counted = counted_size(cleaned_root(content, "x"))
            assert counted.aspect == pytest.approx(ratio, rel=0.02), said

    @pytest.mark.slow
    def test_the_browser_shows_what_was_measured(self, fen: Path) -> None:
        """The whole box, against our own rendering of what the window shows of the cut."""
        with serving(fen / "published") as site:
            browser = Browser()
            try:
                browser.open(f"{site.address}/try-it.html", 500, 700)
                asked = [Path(path).name for path in site.requested]
                box: Any = browser.evaluate(
                    "(({x, y, width, height}) => [x, y, width, height])"
                    '(document.querySelector(".fen").getBoundingClientRect())'
                )
                drawn = browser.settled()
            finally:
                browser.close()
        (name,) = {one["oldest"]["file"] for one in shown(fen)[:1]}
        assert asked.count(name) == 1
        x, y, width, height = (round(one) for one in box)
        seen = drawn[y : y + height, x : x + width].astype(float)
        ours = self._expected(fen / "published" / name, width, height, shown(fen)[0])
        lower = slice(height // 2, None)  # below the copy's box
        assert np.abs(seen[lower] - ours[lower]).mean() < 3

    @pytest.mark.slow
    def test_a_drawing_that_says_its_type_in_a_set_is_taken_by_one_browser(
        self, tmp_path: Path
    ) -> None:
        """So ours don't say it; the engine knows both habits."""
        said = 'image-set(url(fen.svg) 1x type("image/svg+xml"), url(fen.png) 1x)'
        page = f"<!doctype html><style>p {{ background: {said} }}</style><p>x"
        (tmp_path / "index.html").write_text(page, encoding="utf-8")
        (tmp_path / "fen.svg").write_text(FEN, encoding="utf-8")
        Image.new("RGB", (8, 8)).save(tmp_path / "fen.png")
        folder = folder_of(tmp_path / "index.html")
        for engine in (LIKE_CHROMIUM, LIKE_FIREFOX):
            (found,) = rehearse(
                read_page(folder), [WINDOW], [NetworkProfile(1e7, 0.01)], Protocol.HTTP1, engine
            )
            foretold = [urlsplit(one.url).path for one in found.load.pictures]
            asked = self._asked(folder, engine)
            assert [one for one in asked if one.startswith("/fen")] == foretold, engine.name

    @staticmethod
    def _asked(folder: Folder, engine: EngineProfile) -> tuple[str, ...]:
        if engine is LIKE_FIREFOX and not FIREFOX.find():
            pytest.skip("no Firefox here: see scripts/test")
        with BY_ENGINE[engine.name]() as browser, served(folder, port=browser.port) as host:
            return browser.visit(host, "index.html", environment_of(WINDOW), 0.2).asked

    @staticmethod
    def _expected(path: Path, width: int, height: int, told: Any) -> Any:
        cut = decode(path.read_bytes()).pixels
        scale = max(width / cut.shape[1], height / cut.shape[0])
        size = round(cut.shape[1] * scale), round(cut.shape[0] * scale)
        image = Image.fromarray(cut).resize(size, Image.Resampling.BOX)
        x, y = told["picture"]["position"]
        left, top = round((size[0] - width) * x), round((size[1] - height) * y)
        buffer = io.BytesIO()
        image.crop((left, top, left + width, top + height)).save(buffer, "PNG")
        return np.asarray(Image.open(buffer)).astype(float)[..., :3]
