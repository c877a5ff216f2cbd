"""The page is the judge: its veils, conditions, boxes and forms stay; px have the last word."""

from __future__ import annotations

import io
import json
import re
import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from brightcanvas.brief.measured_file import signed
from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.window import Window
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.integration.differing import tone_between
from brightcanvas.integration.screenshots import look_at
from brightcanvas.measuring.elements import laid
from brightcanvas.measuring.letters import without_letters
from brightcanvas.page.folder import folder_of
from brightcanvas.page.reading import read_page
from brightcanvas.serving.opened_page import hosted
from brightcanvas.values.environments import TOUCHED, Environment
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.geometry import Size
from brightcanvas.values.layers import check_layers, with_picture

from .browsing import CHROMIUM, DRIVER
from .conftest import Ran, call
from .test_firefox import FIREFOX

needs_chromium = pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium here")
PHONE = Environment(390, 844, 3, TOUCHED)


def scene(width: int, height: int, turn: int) -> bytes:
    """A sky above a field with a tower: every part of it looks different."""
    down, across = np.mgrid[0:height, 0:width] / np.array([height, width]).reshape(2, 1, 1)
    rng = np.random.default_rng(turn)
    light = np.stack([90 + 120 * down, 120 + 60 * across, 200 - 120 * down], 2)
    tower = (abs(across - 0.2 * turn) < 0.05) & (down > 0.3)
    light[tower] = (30, 20, 10)
    noisy = light + rng.normal(0, 6, (height, width, 1))
    buffer = io.BytesIO()
    Image.fromarray(np.clip(noisy, 0, 255).astype(np.uint8)).save(buffer, "JPEG", quality=92)
    return buffer.getvalue()


SHEET = """
* { box-sizing: border-box } body { margin: 0; font: 18px/1.5 sans-serif; color: #222 }
.hero { min-height: 70vh; padding: 3rem 1rem; color: #fff; position: relative; z-index: 0 }
.hero::after { content: ""; position: absolute; inset: 0; z-index: -1;
  background: rgb(0 0 40 / 40%) }
.home { background: linear-gradient(to bottom, rgba(0,0,0,.1), rgba(0,0,0,.7)), url(../img/mill.jpg)
  30% 50% / cover no-repeat fixed }
@media (pointer: coarse) { .home { background-attachment: scroll } }
@media (max-width: 700px) { .home { background-position: 0 0, 80% 50% } }
.about { background: url(../img/fen.jpg) center / cover; border-top: 6px solid #753 }
.wide { display: block; width: 100%; height: 320px; object-fit: cover; object-position: 70% 20% }
nav { position: fixed; left: -300px; top: 0; width: 280px; color: #111; transition: left .4s }
.over { position: absolute; left: 2rem; bottom: 1rem; color: #fff; margin: 0 }
figure { margin: 0; position: relative }
"""


def page(kind: str, hero: str, more: str = "") -> str:
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>Marrowfen Mill: {kind}</title>"
        '<link rel="stylesheet" href="css/site.css"></head><body>'
        f'<nav>Flour<br>Beds</nav><header class="hero {hero}"><h1>Ground by wind</h1>'
        f"<p>Bread from our own flour, and a bed under the sails.</p></header>{more}</body></html>"
    )


@dataclass(frozen=True)
class Kept:
    """A site of two pages, its drafted brief, and the copy of both."""

    site: Path
    brief: Path
    after: Path
    pages: dict[str, dict[str, Any]]
    ran: Ran


@pytest.fixture(scope="module")
def kept(tmp_path_factory: pytest.TempPathFactory) -> Kept:
    folder = tmp_path_factory.mktemp("kept")
    site = folder / "site"
    for name in ("css", "img"):
        (site / name).mkdir(parents=True)
    for name, turn in (("mill", 1), ("fen", 2), ("loaf", 3)):
        (site / f"img/{name}.jpg").write_bytes(scene(1800, 1000, turn))
    (site / "css/site.css").write_text(SHEET, "utf-8")
    figure = (
        '<figure><img class="wide" id="loaf" src="img/loaf.jpg" alt="A loaf" width="1800"'
        ' height="1000"><p class="over">Rye on Tuesdays</p></figure>'
        "<script>document.body.append(document.createElement('figure'))</script>"  # by its place
    )
    (site / "index.html").write_text(page("home", "home", figure), "utf-8")
    about = page("about", "home", "").replace(
        "</head>", "<style>.home { background-image: none, url(img/fen.jpg) }</style></head>"
    )
    (site / "about.html").write_text(about, "utf-8")
    brief = folder / "brief" / "brief.toml"
    brief.parent.mkdir()
    began = call("begin", site, brief)
    assert began.status == ExitStatus.ALL_WELL, began.err
    built = call("build", brief)
    assert built.status == ExitStatus.ALL_WELL, built.out
    ran = call("insert", site, brief, "--into", folder / "after", "--json")
    pages = {Path(one["page"]).stem: one for one in ran.facts["pages"]}
    return Kept(site, brief, folder / "after", pages, ran)


@pytest.fixture(scope="module")
def chromium() -> Iterator[Window]:
    with chromium_window() as window:
        yield window


@needs_chromium
def test_a_folder_is_drafted_whole(kept: Kept) -> None:
    """Two pages share a selector, but not a picture: each has a backdrop, boxes and a sheet."""
    brief = tomllib.loads(kept.brief.read_text("utf-8"))
    pages = {one["name"]: one["backdrops"] for one in brief["page"]}
    assert pages == {"about": ["fen"], "index": ["mill", "loaf"]}
    named = {one["name"]: one for one in brief["backdrop"]}
    assert named["mill"]["element"] == named["fen"]["element"]
    assert (named["mill"]["measured"], named["fen"]["measured"]) == (
        "boxes-index.json", "boxes-about.json",
    )  # fmt: skip
    assert named["loaf"]["form"] == "img"
    published = kept.brief.parent / "published"
    assert {one.name for one in published.glob("*.css")} == {
        "backdrops-about.css", "backdrops-index.css",
    }  # fmt: skip


@needs_chromium
def test_veils_positions_and_conditions_are_the_page_s(kept: Kept) -> None:
    brief = tomllib.loads(kept.brief.read_text("utf-8"))
    mill, loaf = (one for one in brief["backdrop"] if one["name"] in ("mill", "loaf"))
    assert mill["layers"].startswith("linear-gradient(")
    assert mill["layers"].endswith(", picture")
    assert (mill["position"], mill["attachment"]) == ([0.3, 0.5], "fixed")
    assert mill["at"]["handheld" if "handheld" in mill["at"] else "narrow"] == {
        "position": [0.8, 0.5]
    }
    assert loaf["position"] == [0.7, 0.2]
    sheet = (kept.brief.parent / "published/backdrops-index.css").read_text("utf-8")
    assert "attachment" not in sheet, "what fingers get is the page's own to say"
    assert "min-height" not in sheet


@needs_chromium
def test_nothing_is_seen_to_differ_on_either_page(kept: Kept) -> None:
    told = {name: one["differences"] for name, one in kept.pages.items()}
    assert told == {"index": [], "about": []}
    assert kept.ran.status == ExitStatus.ALL_WELL
    for one in kept.pages.values():
        for screen in one["screens"]:
            assert screen["after"]["bytes"] < screen["before"]["bytes"]
    sources = re.findall("<source[^>]*>", (kept.after / "index.html").read_text("utf-8"))
    assert sources
    assert not [one for one in sources if "width=" in one], "an img without a size would take it"


def _asked(kept: Kept, name: str, window: Window) -> list[str]:
    with hosted(folder_of(kept.after / name), window) as host:
        window.resize(PHONE)
        host.show(window)
        asked = host.asked()
    return [one for one in asked if one.endswith((".avif", ".jpg"))]


@needs_chromium
def test_a_page_gets_its_own_files_alone(kept: Kept, chromium: Window) -> None:
    """On a phone: hints stand behind the viewport tag, and those of the other page aren't there."""
    for name, stems in (("index.html", ["loaf", "mill"]), ("about.html", ["fen"])):
        text = (kept.after / name).read_text("utf-8")
        assert text.index('name="viewport"') < text.index('rel="preload"')
        found = sorted(
            one.rpartition("/")[2].partition("-")[0] for one in _asked(kept, name, chromium)
        )
        assert found == stems, name


@needs_chromium
def test_hints_before_the_viewport_tag_fetch_a_second_file(kept: Kept, chromium: Window) -> None:
    """What is mended here, shown: else the test above could not fail."""
    spoilt = kept.after / "spoilt.html"
    text = (kept.after / "index.html").read_text("utf-8")
    tag = '<meta name="viewport" content="width=device-width, initial-scale=1">'
    spoilt.write_text(text.replace(tag, "").replace("<title>", f"{tag}<title>", 1), "utf-8")
    try:
        assert len(_asked(kept, "spoilt.html", chromium)) > 2
        found = call("inspect", spoilt, "--json").facts["findings"]
        assert "hint before the viewport tag" in {one["fault"] for one in found}
    finally:
        spoilt.unlink()


@needs_chromium
def test_px_contradict_a_brief_that_changes_the_page(kept: Kept, tmp_path: Path) -> None:
    """Another box, and copy that nobody can read any more: told, with status 1."""
    brief = tmp_path / "brief.toml"
    source = (kept.site / "img/fen.jpg").as_posix()
    brief.write_text(
        f'[[backdrop]]\nsource = "{source}"\nelement = ".home"\nheight = "900px"\n'
        "tone = { lighten = 0.8 }\n", "utf-8",
    )  # fmt: skip
    into = tmp_path / "after"
    ran = call("insert", kept.site / "index.html", brief, "--into", into, "--json")
    kinds = {one["kind"] for one in ran.facts["pages"][0]["differences"]}
    assert ran.status == ExitStatus.PROMISE_BROKEN
    assert {"box", "copy"} <= kinds, kinds
    assert "tone" not in kinds, "that was asked for"
    assert "different:" in ran.err


@needs_chromium
def test_a_page_without_a_background_gets_one(tmp_path: Path) -> None:
    (tmp_path / "mill.jpg").write_bytes(scene(1600, 900, 2))
    path = tmp_path / "index.html"
    path.write_text(page("home", "plain").replace("css/site.css", "none.css"), "utf-8")
    alone = call("begin", path, tmp_path / "brief.toml")
    assert (alone.status, "No element shows a large picture" in alone.err) == (2, True)
    wrong = call("begin", path, tmp_path / "brief.toml", "--picture", tmp_path / "mill.jpg")
    assert (wrong.status, "--on go together" in wrong.err) == (2, True)
    named = ("--picture", tmp_path / "mill.jpg", "--on", ".hero")
    ran = call("begin", path, tmp_path / "brief.toml", *named)
    assert ran.status == ExitStatus.ALL_WELL, ran.err
    (one,) = tomllib.loads((tmp_path / "brief.toml").read_text("utf-8"))["backdrop"]
    assert (one["element"], one["measured"]) == (".hero", "boxes.json")
    assert one["scrim"] == {"least": True}
    built = call("build", tmp_path / "brief.toml", "--json")
    promises = {one["promise"] for one in built.facts["promises"]}
    assert {"readable", "boxes"} <= promises
    sheet = (tmp_path / "published/backdrops.css").read_text("utf-8")
    assert "height" not in sheet, "its box is the page's"
    (tmp_path / "other").mkdir()
    wrong_name = (*named[:3], ".heroo")
    miss = call("begin", path, tmp_path / "other/brief.toml", *wrong_name)
    assert "did you mean .hero?" in miss.err


@needs_chromium
def test_only_copy_that_can_be_seen_is_measured(tmp_path: Path, chromium: Window) -> None:
    """Not what is off the canvas, clipped, transparent, faded out, behind something or an icon."""
    path = tmp_path / "index.html"
    seen = "<p>Flour</p><p style='opacity:0;animation:in .2s forwards'>Fades in</p>"
    unseen = (
        "<p style='position:absolute;left:-900px'>Off</p><p style='opacity:0'>Faded</p>"
        "<p style='color:transparent'>Clear</p><p style='height:0;overflow:hidden'>Shut</p>"
        "<p style='font-family:Fen Icons'>menu</p>"
        "<p style='position:absolute;top:300px;left:9px'>Below</p>"
        "<div style='position:absolute;top:280px;left:0;width:300px;height:90px;"
        "background:#fff'></div>"
    )
    path.write_text(
        "<!doctype html><style>@keyframes in { to { opacity: 1 } } .hero { position: relative;"
        f" height: 500px; overflow: hidden }}</style><div class=hero>{seen}{unseen}</div>", "utf-8",
    )  # fmt: skip
    with hosted(folder_of(path), chromium) as host:
        chromium.resize(Environment(800, 700))
        host.show(chromium)
        (found,) = laid(chromium, [".hero"], Size(800, 700))
    assert found is not None
    assert [one.words for one in found.lines] == ["Flour", "Fades in"]


@needs_chromium
@pytest.mark.skipif(not FIREFOX, reason="no Firefox here")
@pytest.mark.slow
def test_what_is_measured_is_the_same_twice_and_in_both_browsers(
    kept: Kept, tmp_path: Path
) -> None:
    brief = tmp_path / "brief.toml"
    brief.write_text(
        f'[[backdrop]]\nsource = "{(kept.site / "img/fen.jpg").as_posix()}"\nelement = ".home"\n'
        'measured = "boxes.json"\n', "utf-8",
    )  # fmt: skip
    found = []
    for browser in ("chromium", "chromium", "firefox"):
        ran = call("measure", kept.site / "index.html", brief, "--browser", browser)
        assert ran.status == ExitStatus.ALL_WELL, ran.err
        found.append(json.loads((tmp_path / "boxes.json").read_text("utf-8"))["elements"][".home"])
    assert found[0] == found[1]
    ours, theirs = ({tuple(one["viewport"]): one["element"] for one in found[at]} for at in (0, 2))
    both = ours.keys() & theirs.keys()
    assert len(both) >= 0.8 * len(ours), "each adds windows where its own lines wrap"
    off = np.abs(np.array([np.subtract(ours[at], theirs[at]) for at in both]))
    assert off[:, 0].max() <= 2
    assert (off[:, 1] <= 2).mean() >= 0.9, "a line may wrap otherwise in a window or two"


def test_a_scrim_without_copy_is_written_all_the_same(tmp_path: Path) -> None:
    """Nothing that a brief asks for is dropped, and what isn't checked is counted so."""
    (tmp_path / "mill.jpg").write_bytes(scene(1600, 900, 2))
    brief = tmp_path / "brief.toml"
    brief.write_text(
        '[[backdrop]]\nsource = "mill.jpg"\nelement = ".hero"\nscrim = { strength = 0.5 }\n'
        "copy = { box = [0.1, 0.1, 0.5, 0.5] }\n", "utf-8",
    )  # fmt: skip
    ran = call("build", brief)
    sheet = (tmp_path / "published/backdrops.css").read_text("utf-8")
    assert "linear-gradient(rgb(0 0 0 / 50%), rgb(0 0 0 / 50%))" in sheet
    assert "not measured" in ran.out
    assert "min-height" not in sheet, "without a height the element keeps its own"


def test_no_scrim_helps_some_letters_and_ruins_others(tmp_path: Path) -> None:
    """White and black letters on grey: each kind is judged under what is finally shown."""
    Image.new("RGB", (1500, 900), (119, 119, 119)).save(tmp_path / "grey.png")
    lines = [
        {"box": [0.1, top, 0.5, top + 0.1], "colour": colour, "size": 18, "words": colour}
        for top, colour in ((0.1, "#ffffff"), (0.5, "#000000"))
    ]
    window = {"viewport": [1440, 900], "element": [1440, 540], "lines": lines}
    (tmp_path / "copy.json").write_text(
        json.dumps(signed({"made_by": "x", "read": {}, "elements": {".hero": [window]}}))
    )
    brief = tmp_path / "brief.toml"
    brief.write_text(
        '[[backdrop]]\nsource = "grey.png"\nelement = ".hero"\nheight = "540px"\n'
        'copy = { measured = "copy.json" }\nscrim = { least = true }\n', "utf-8",
    )  # fmt: skip
    ran = call("build", brief, "--json")
    told = [one for one in ran.facts["promises"] if one["promise"] == "readable"]
    assert told
    assert {one["state"] for one in told} == {"broken"}, "4.5:1 can't be had by both"
    assert "light letters want a dark ground" in told[0]["remedy"]


@pytest.mark.parametrize(
    "text",
    ["picture, picture", "linear-gradient(red, blue)", "url(a.png), picture", "picture; color: red",
     "picture, image-set('a.png' 1x)", "linear-gradient(red, url(a.png)), picture", ""],
)  # fmt: skip
def test_layers_hold_gradients_and_one_picture(text: str) -> None:
    with pytest.raises(ValueError, match="gradients and one 'picture'"):
        check_layers(text)


def test_a_picture_takes_its_place_among_the_layers() -> None:
    layers = "linear-gradient(rgb(0 0 0 / 50%), transparent), picture, none"
    assert check_layers(layers) == layers
    assert with_picture(layers, "url(x.avif)") == (
        "linear-gradient(rgb(0 0 0 / 50%), transparent), url(x.avif), none"
    )
    assert with_picture(layers, "900px auto", others="auto") == "auto, 900px auto, auto"


def test_what_is_seen_is_compared_by_lightness() -> None:
    same, darker = (Image.new("RGB", (390, 844), (tone,) * 3) for tone in (120, 100))
    pngs = []
    for one in (same, darker):
        buffer = io.BytesIO()
        one.save(buffer, "PNG")
        pngs.append(buffer.getvalue())
    assert tone_between(pngs[0], pngs[0]).mean == 0
    assert tone_between(*pngs).mean == pytest.approx(20, abs=0.1)
    assert not tone_between(*pngs).is_same


@needs_chromium
def test_a_backdrop_is_looked_at_where_it_stands_when_it_is_seen(
    chromium: Window, tmp_path: Path
) -> None:
    """What stands above it grows as soon as one scrolls, as slides of other heights do."""
    (tmp_path / "fen.jpg").write_bytes(scene(1200, 700, 2))
    grows = "onscroll = () => document.querySelector('#slides').style.height = '1500px'"
    (tmp_path / "index.html").write_text(
        "<!doctype html><title>Fen</title><style>body { margin: 0; overflow-anchor: none }"
        " .fen { height: 500px; background: url(fen.jpg) center / cover; color: #fff }</style>"
        '<div id="slides" style="height:1200px"></div><div class="fen"><p>Words on it</div>'
        f'<div style="height:3000px"></div><script>{grows}</script>',
        "utf-8",
    )
    seen = look_at(chromium, read_page(folder_of(tmp_path / "index.html")), [".fen"])
    for screen, one in seen.items():
        view = one.views[".fen"]
        height, width = (shown := decode(view.png).pixels[..., :3]).shape[:2]
        upper = height // 10 + 2
        part = shown[upper : min(height, upper + round(400 * width / screen.viewport.width))]
        assert part.reshape(-1, 3).mean(0).min() < 200, screen.name
        assert [line.words for line in view.lines] == ["Words on it"], screen.name


@needs_chromium
def test_letters_come_back_at_once(chromium: Window, tmp_path: Path) -> None:
    """Whatever transitions the page has, also those of what is round them."""
    (tmp_path / "index.html").write_text(
        "<!doctype html><title>Fen</title><style>* { transition: color 3s } p { color: #fff }"
        " body { background: #263 }</style><p>Words",
        "utf-8",
    )
    colour = "getComputedStyle(document.querySelector('p')).color"
    with hosted(folder_of(tmp_path / "index.html"), chromium) as host:
        host.show(chromium)
        ground = without_letters(chromium)
        assert len(np.unique(ground.reshape(-1, 3), axis=0)) == 1
        assert chromium.evaluate(colour) == "rgb(255, 255, 255)"
