"""What pages that people write make browsers fetch, told beforehand and held against them."""

from __future__ import annotations

import io
import time
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from fontTools.fontBuilder import FontBuilder  # type: ignore[import-untyped]
from fontTools.pens.ttGlyphPen import TTGlyphPen  # type: ignore[import-untyped]

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.browsers.window import Window
from brightcanvas.page.folder import HOST, folder_of
from brightcanvas.page.page_load import load
from brightcanvas.page.reading import read_page
from brightcanvas.rehearsal.rehearsing import hero_of
from brightcanvas.serving.opened_page import hosted
from brightcanvas.serving.page_server import served
from brightcanvas.values.environments import Environment, environment_of
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.geometry import Size
from brightcanvas.values.screens import DEVICES, Screen

from .browsing import CHROMIUM, DRIVER
from .conftest import call
from .mill_pages import clip, picture
from .test_firefox import FIREFOX

needs_chromium = pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium here")
needs_firefox = pytest.mark.skipif(not FIREFOX, reason="no Firefox here")

PAGE = """\
<!doctype html>
<html><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Mill</title>
<link rel="stylesheet" href="css/site.css?v=2">
<link rel="alternate stylesheet" href="css/other.css" title="dark">
<style>
@font-face { font-family: "Fen"; src: local("No such font"), url(fonts/fen.woff) format("woff"); }
@font-face { font-family: "Fen"; font-weight: 700; src: url(fonts/bold.woff); }
@font-face { font-family: "Fen"; unicode-range: U+0391-03A9; src: url(fonts/greek.woff); }
@font-face { font-family: "Unused"; src: url(fonts/unused.woff); }
body { font-family: Fen, serif; }
.mark::before { content: ""; background: url(img/mark.png); }
.never::before { background: url(img/never.png); }
.hidden { display: none; font-family: Unused; background: url(img/never.png); }
@supports (display: grid) and (not (display: -ms-grid)) { .grid { background: url(img/grid.png); } }
@supports not (display: grid) { .grid { background: url(img/never.png); } }
</style></head><body>
<ul><li>Flour</li><li>Bread</li></ul>
<p class="mark">Sails</p><p class="never">Fen</p><p class="hidden">Nobody <b>reads</b> this</p>
<div class="touch">x</div><div class="mouse">x</div>
<div class="grid">x</div><div class="twice">x</div>
<table background="img/old.png"><tr><td>x</td></tr></table>
<input type="image" src="img/button.png" alt="Go">
<svg width="20" height="20"><image href="img/vector.png" width="20" height="20"/></svg>
<iframe width="300" height="100" srcdoc="&lt;style&gt;@media (max-width: 400px) {
body { background: url(img/inner.png) } }&lt;/style&gt;&lt;img src='img/within.png'&gt;"></iframe>
<picture><source media="(pointer: coarse)" srcset="img/coarse.png">
<img src="img/fine.png" alt=""></picture>
<template><img src="img/in-template.png" loading="lazy"></template>
</body></html>
"""

SHEET = """\
@charset "utf-8";
@import "more.css" screen and (min-width: 600px);
@import url("not-here-yet.css") print;
/* a brace in a comment { and a string */
.touch { background: "}" url(../img/never.png); }
ul { list-style-image: url(../img/bullet.png); }
@media (pointer: coarse) { .touch { background-image: url(../img/touch.png); } }
@media (hover: hover) and (pointer: fine) { .mouse { background-image: url(../img/mouse.png); } }
.twice { background-image: url(../img//twice.png), url(../img/twice.png); }
@import "too-late.css";
"""

MORE = ".grid { border-image: url(../img/border.png) 3; mask-image: url(../img/mask.png); }"

NAMES = (
    "mark", "never", "grid", "old", "button", "vector", "inner", "within", "coarse", "fine",
    "in-template", "bullet", "touch", "mouse", "twice", "border", "mask",
)  # fmt: skip


def font() -> bytes:
    """A font with the letters of the page, each an empty square."""
    builder = FontBuilder(1000, isTTF=True)
    codes = {code: f"g{code}" for code in range(32, 127)}
    names = [".notdef", *codes.values()]
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap(codes)
    pen = TTGlyphPen(None)
    pen.moveTo((0, 0))
    for corner in ((500, 0), (500, 700), (0, 700)):
        pen.lineTo(corner)
    pen.closePath()
    glyph = pen.glyph()
    builder.setupGlyf(dict.fromkeys(names, glyph))
    builder.setupHorizontalMetrics(dict.fromkeys(names, (600, 0)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Fen", "styleName": "Regular"})
    builder.setupOS2()
    builder.setupPost()
    out = io.BytesIO()
    builder.font.flavor = "woff"
    builder.save(out)
    return out.getvalue()


@pytest.fixture(scope="module")
def page(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("odd")
    for name in ("css", "img", "fonts"):
        (folder / name).mkdir()
    (folder / "index.html").write_text(PAGE, "utf-8")
    (folder / "css/site.css").write_text(SHEET, "utf-8")
    (folder / "css/more.css").write_text(MORE, "utf-8")
    (folder / "css/other.css").write_text("p { color: red }", "utf-8")
    for name in NAMES:
        (folder / f"img/{name}.png").write_bytes(picture(8, 8, "PNG"))
    for name in ("fen", "bold", "greek", "unused"):
        (folder / f"fonts/{name}.woff").write_bytes(font())
    return folder / "index.html"


SCREENS = (
    Screen("phone", Size(360, 740), 2, touched=True), Screen("laptop", Size(1280, 800), 1),
)  # fmt: skip


def foretold(page: Path, screen: Screen) -> set[str]:
    found = load(read_page(folder_of(page)), environment_of(screen))
    return {one.url.removeprefix(HOST) for one in found.fetches if not one.is_late}


def asked(page: Path, screen: Screen, window: Window) -> set[str]:
    with hosted(folder_of(page), window) as host:
        window.resize(environment_of(screen))
        host.show(window)
        time.sleep(0.6)
        return set(host.asked()) - {"/favicon.ico"}


@pytest.mark.parametrize("screen", SCREENS, ids=lambda one: one.name)
def test_what_is_hard_to_foretell_is_foretold(page: Path, screen: Screen) -> None:
    told = foretold(page, screen)
    touched = {"/img/coarse.png", "/img/touch.png"}
    wide = {"/img/fine.png", "/img/mouse.png", "/css/more.css", "/img/border.png", "/img/mask.png"}
    everywhere = {
        "/img//twice.png", "/img/twice.png", "/img/bullet.png", "/img/inner.png", "/img/within.png",
        "/img/mark.png", "/img/grid.png", "/img/old.png", "/img/button.png", "/img/vector.png",
        "/fonts/fen.woff", "/css/site.css?v=2",
    }  # fmt: skip
    assert everywhere <= told
    assert (touched <= told, wide <= told) == (screen.touched, not screen.touched)
    never = {"never.png", "unused.woff", "greek.woff", "bold.woff", "too-late.css", "in-template"}
    assert not [one for one in told if any(name in one for name in never)]


@needs_chromium
@pytest.mark.parametrize("screen", SCREENS, ids=lambda one: one.name)
def test_chromium_fetches_just_that(page: Path, screen: Screen) -> None:
    with chromium_window() as window:
        assert asked(page, screen, window) == foretold(page, screen)


@needs_firefox
@pytest.mark.parametrize("screen", SCREENS, ids=lambda one: one.name)
def test_firefox_fetches_just_that(page: Path, screen: Screen) -> None:
    with firefox_window(touched=screen.touched) as window:
        assert asked(page, screen, window) == foretold(page, screen)


def test_nothing_of_frameworks_is_called_not_understood(tmp_path: Path) -> None:
    """Selectors newer than the library are told only where a picture is lost by them."""
    style = (
        "::-moz-focus-inner{border:0} a:focus-visible{color:red}"
        " .x::file-selector-button{padding:0}"
        "@media print{*{color:#000!important}} @-ms-viewport{width:device-width}"
        " :host(.y){display:block} p:future(2){background:url(lost.png)}"
    )
    (tmp_path / "index.html").write_text(f"<!doctype html><style>{style}</style><p>x", "utf-8")
    ran = call("rehearse", tmp_path / "index.html", "--json")
    assert ran.facts["not_understood"] == ["a rule for p:future(2)"]


def test_a_page_that_sends_its_readers_on_says_so(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text(
        "<!doctype html><meta http-equiv=refresh content='0; url=rooms.html'><p>x", "utf-8"
    )
    ran = call("rehearse", tmp_path / "index.html", "--json")
    (told,) = ran.facts["not_understood"]
    assert told == "what is behind rooms.html: the page sends its readers on to it"


def test_clips_are_counted_and_hidden_pictures_told(tmp_path: Path) -> None:
    (tmp_path / "sails.mp4").write_bytes(clip(tmp_path))
    (tmp_path / "gone.avif").write_bytes(picture(600, 400, heavy=True))
    (tmp_path / "index.html").write_text(
        "<!doctype html><style>.no { display: none }</style><video autoplay muted src=sails.mp4>"
        "</video><img class=no src=gone.avif>", "utf-8",
    )  # fmt: skip
    ran = call("rehearse", tmp_path / "index.html", "--json")
    assert ran.status == ExitStatus.PROMISE_BROKEN
    weight = sum((tmp_path / one).stat().st_size for one in ("sails.mp4", "gone.avif"))
    for screen in ran.facts["screens"]:
        assert [one["file"] for one in screen["clips"]] == ["sails.mp4"]
        assert (screen["bytes"], screen["hidden"]) == (weight, ["gone.avif"])
    told = call("rehearse", tmp_path / "index.html").out
    assert "Some pictures are hidden, and fetched: bright-canvas inspect" in told
    assert "nothing in vain" not in told


def test_no_chart_is_written_beside_a_page_of_the_user(tmp_path: Path) -> None:
    site = tmp_path / "home/site"
    site.mkdir(parents=True)
    (site / "index.html").write_text("<!doctype html><p>x", "utf-8")
    ran = call("rehearse", site / "index.html")
    assert "No charts were drawn: name a folder for them with --into." in ran.out
    assert [one.name for one in tmp_path.rglob("*") if one.is_file()] == ["index.html"]


def test_the_first_view_is_no_icon(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text(
        "<!doctype html><style>.icon { width: 1.5em; background: url(icon.svg) } nav img { height:"
        " 24px } header { min-height: 80vh; background: url(mill.jpg) } .menu { background-image:"
        " url('data:image/svg+xml,%3Csvg%3E') }</style><nav><span class=icon></span><img"
        " src=logo.png><span class=menu></span></nav><header>Mill</header>", "utf-8",
    )  # fmt: skip
    page = read_page(folder_of(tmp_path / "index.html"))
    heroes = {hero_of(load(page, environment_of(one))) for one in DEVICES}
    assert {hero.element for hero in heroes if hero} == {"header"}


def test_a_page_of_a_folder_below_finds_what_lies_above(tmp_path: Path) -> None:
    (tmp_path / "site/pages").mkdir(parents=True)
    (tmp_path / "site/mill.avif").write_bytes(picture(300, 200))
    page = tmp_path / "site/pages/index.html"
    page.write_text(
        "<!doctype html><img src='../mill.avif' width=300 height=200 alt=Mill>", "utf-8"
    )
    assert call("inspect", page).status == ExitStatus.ALL_WELL


@pytest.mark.parametrize(
    ("url", "path"),
    [("a//b.png", "/x/a//b.png"), ("../b.png", "/b.png"), ("b c.png", "/x/b%20c.png"),
     ("./b.png#icon", "/x/b.png"), ("/b.png?v=1", "/b.png?v=1"), ("\t b.png\n", "/x/b.png")],
)  # fmt: skip
def test_addresses_are_joined_as_browsers_do(tmp_path: Path, url: str, path: str) -> None:
    (tmp_path / "x").mkdir()
    page = tmp_path / "x/index.html"
    page.write_text(f'<!doctype html><img src="{url}">', "utf-8")
    found = load(read_page(folder_of(page, tmp_path)), Environment(800, 600))
    parts = urlsplit(found.pictures[0].url)
    assert f"{parts.path}{f'?{parts.query}' if parts.query else ''}" == path


@pytest.fixture
def pages(tmp_path: Path) -> Path:
    (tmp_path / "site.css").write_text(
        ".hero { background: url(hero.avif) fixed } .only-b { background: url(b.avif) }"
        " .nowhere { background: url(b.avif) }", "utf-8",
    )  # fmt: skip
    for name in ("hero", "b"):
        (tmp_path / f"{name}.avif").write_bytes(picture(800, 400))
    for name, more in (("a", ""), ("b", "<p class=only-b>x")):
        (tmp_path / f"{name}.html").write_text(
            f"<!doctype html><link rel=stylesheet href=site.css><div class=hero>Mill</div>{more}",
            "utf-8",
        )
    return tmp_path


def test_a_folder_is_read_at_once_and_shared_findings_told_once(pages: Path) -> None:
    ran = call("inspect", pages, "--json")
    found = {one["fault"]: one for one in ran.facts["findings"]}
    assert ran.facts["pages"] == ["a.html", "b.html"]
    assert found["fixed on phones"]["pages"] == ["a.html", "b.html"]
    assert found["rule that hits nothing"]["selector"] == ".nowhere"
    assert found["found late"]["pages"] == ["a.html", "b.html"]
    assert len(ran.facts["findings"]) == len(found) == 3
    alone = [
        one["selector"] for one in call("inspect", pages / "a.html", "--json").facts["findings"]
    ]
    assert ".only-b" in alone


def test_a_page_on_this_machine_is_read_by_its_address(pages: Path) -> None:
    with served(folder_of(pages / "a.html")) as host:
        ran = call("inspect", f"{host.address}/a.html", "--json")
    assert "fixed on phones" in [one["fault"] for one in ran.facts["findings"]]
    other = call("inspect", "http://mill.example/a.html")
    assert (other.status, "only pages of this machine" in other.err) == (2, True)


@needs_chromium
def test_a_browser_tells_what_scripts_fetch_and_where_copy_is_lost(tmp_path: Path) -> None:
    (tmp_path / "pale.avif").write_bytes(picture(1200, 600))
    (tmp_path / "more.avif").write_bytes(picture(600, 300, heavy=True))
    (tmp_path / "index.html").write_text(
        "<!doctype html><style>body { margin: 0 } .hero { height: 300px; background: #333"
        " url(pale.avif) center / cover; color: #5a5a5a }</style><div class=hero><p>Pale on pale"
        "</div><script>new Image().src = 'more.avif'</script>", "utf-8",
    )  # fmt: skip
    ran = call("inspect", tmp_path / "index.html", "--browser", "--json")
    faults = [one["fault"] for one in ran.facts["findings"]]
    assert "copy can't be read on the picture" in faults
    (told,) = ran.facts["not_decided"]
    assert told.startswith("1 further files that scripts fetched")
    assert told.endswith("more.avif")


def test_hostile_pages_do_no_harm(tmp_path: Path) -> None:
    """Text that would be markup, endless imports, rules within rules, names that lead away."""
    (tmp_path / "loop.css").write_text("@import 'loop.css';" + "a{" * 3000 + "}" * 3000, "utf-8")
    (tmp_path / "index.html").write_text(
        "<!doctype html><link rel=stylesheet href=loop.css><link rel=stylesheet"
        " href='../../../../etc/passwd'><div class='&lt;script&gt;alert(1)&lt;/script&gt;"
        "\x1b[31m' style='background: url(x.png) fixed'>Hi</div>", "utf-8",
    )  # fmt: skip
    ran = call("inspect", tmp_path / "index.html", "--into", tmp_path / "shown")
    assert ran.status == ExitStatus.PROMISE_BROKEN
    assert "\x1b" not in ran.out
    shown = (tmp_path / "shown/inspection.html").read_text("utf-8")
    assert "<script>alert" not in shown
    assert "&lt;script&gt;alert" in shown


def test_two_backdrops_on_one_element_are_told(tmp_path: Path) -> None:
    for name in ("a", "b"):
        (tmp_path / f"{name}.avif").write_bytes(picture(300, 200))
    brief = tmp_path / "brief.toml"
    brief.write_text(
        '[[backdrop]]\nname = "one"\nsource = "a.avif"\nelement = ".hero"\n'
        '[[backdrop]]\nname = "two"\nsource = "b.avif"\nelement = "#top"\n', "utf-8",
    )  # fmt: skip
    page = tmp_path / "index.html"
    page.write_text("<!doctype html><div id=top class=hero>x</div>", "utf-8")
    ran = call("hits", page, brief)
    assert ran.status == ExitStatus.PROMISE_BROKEN
    assert "one and two both fill div#top.hero: only two is seen" in ran.out
    assert "our rules win" not in ran.out
    assert "Nothing is built yet" in ran.out
