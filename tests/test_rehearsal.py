"""Page loads played through, and what browsers do beside it."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as st

from brightcanvas.browsers.chromium import SWITCHES
from brightcanvas.browsers.firefox import firefox_window
from brightcanvas.page.folder import folder_of
from brightcanvas.page.page_load import load
from brightcanvas.page.reading import Page, read_page
from brightcanvas.rehearsal.confirming import chromium, confirm, firefox
from brightcanvas.rehearsal.engine_profiles import CHROMIUM as LIKE_CHROMIUM
from brightcanvas.rehearsal.engine_profiles import FIREFOX as LIKE_FIREFOX
from brightcanvas.rehearsal.engine_profiles import EngineProfile
from brightcanvas.rehearsal.rehearsing import rehearse
from brightcanvas.rehearsal.timeline import HEADERS, Waterfall, waterfall_of
from brightcanvas.serving.network_profiles import NetworkProfile, Protocol, line_of
from brightcanvas.serving.page_server import ServedFolder, served
from brightcanvas.values.environments import Environment
from brightcanvas.values.geometry import Size
from brightcanvas.values.screens import Screen

from .browsing import CHROMIUM, DRIVER, Browser, serving
from .conftest import SHORT, Demo, Ran, call, save_noise

LAPTOP = Environment(1440, 900, 1)
LINE = NetworkProfile(800_000, 0.1)
"""100 kB a second."""
PLAIN = EngineProfile("a browser without habits")


def write_page(folder: Path, head: str, body: str, **files: int) -> Page:
    """A page of 2000 bytes with files of so many bytes beside it."""
    text = f"<!doctype html><html lang=en><head><title>x</title>{head}</head><body>{body}"
    (folder / "index.html").write_text(text.ljust(2000 - HEADERS), "utf-8")
    for name, size in files.items():
        (folder / name.replace("_", ".")).write_bytes(b"x" * (size - HEADERS))
    return read_page(folder_of(folder / "index.html"))


def played(
    page: Page, engine: EngineProfile = PLAIN, protocol: Protocol = Protocol.HTTP1
) -> Waterfall:
    return waterfall_of(load(page, LAPTOP), page.folder.bytes_of, LINE, protocol, engine)


def times(waterfall: Waterfall) -> dict[str, tuple[float, float, float]]:
    return {
        one.fetch.url.rpartition("/")[2]: (
            round(one.asked, 4), round(one.begun, 4), round(one.done, 4),
        )
        for one in waterfall.timings
    }  # fmt: skip


def test_a_page_takes_two_trips_and_its_bytes(tmp_path: Path) -> None:
    page = write_page(tmp_path, "", "hello")
    assert times(played(page)) == {"index.html": (0.0, 0.2, 0.22)}
    assert times(played(page, protocol=Protocol.HTTP2)) == {"index.html": (0.0, 0.3, 0.32)}


def test_a_background_waits_for_the_sheet_a_hinted_one_does_not(tmp_path: Path) -> None:
    rule = '<link rel="stylesheet" href="s.css">'
    write_page(tmp_path, rule, "<div class=a></div>", a_png=10_000)
    (tmp_path / "s.css").write_text(".a { background: url(a.png) }".ljust(3000 - HEADERS), "utf-8")
    late = times(played(read_page(folder_of(tmp_path / "index.html")), protocol=Protocol.HTTP2))
    sheet = late["s.css"]
    assert late["a.png"][0] == sheet[2]
    assert late["a.png"][1] == pytest.approx(sheet[2] + 0.1)
    hint = '<link rel="preload" as="image" href="a.png">'
    write_page(tmp_path, hint + rule, "<div class=a></div>", a_png=10_000)
    early = times(played(read_page(folder_of(tmp_path / "index.html")), protocol=Protocol.HTTP2))
    assert early["a.png"][0] < sheet[1]
    assert early["a.png"][2] < late["a.png"][2]
    assert early["s.css"][2] == pytest.approx(sheet[2], abs=0.005), "the sheet still goes first"


def test_answers_share_a_line_evenly_over_http_1(tmp_path: Path) -> None:
    page = write_page(tmp_path, "", "<img src=a.png><img src=b.png>", a_png=10_000, b_png=10_000)
    waterfall = times(played(page))
    assert waterfall["a.png"][1] == pytest.approx(waterfall["a.png"][0] + 0.2), (
        "a connection of its own"
    )
    last = max(one[2] for one in waterfall.values())
    begun = max(one[1] for name, one in waterfall.items() if name != "index.html")
    assert last >= begun
    moved = sum(one.bytes for one in played(page).timings if one.fetch.kind == "picture")
    first = min(one[1] for name, one in waterfall.items() if name != "index.html")
    assert last - first >= moved / 100_000 - 1e-6, "no more than the line carries"


def test_six_connections_at_most(tmp_path: Path) -> None:
    body = "".join(f"<img src=n{number}.png>" for number in range(9))
    files = {f"n{number}_png": 20_000 for number in range(9)}
    waterfall = played(write_page(tmp_path, "", body, **files))
    for moment in [one.asked for one in waterfall.timings]:
        open_ = [one for one in waterfall.timings if one.asked <= moment < one.done]
        assert len(open_) <= 6


@pytest.mark.slow
@given(sizes=st.lists(st.integers(300, 40_000), min_size=1, max_size=8), newer=st.booleans())
def test_no_line_carries_more_than_it_can(sizes: list[int], *, newer: bool) -> None:
    with tempfile.TemporaryDirectory() as name:
        body = "".join(f"<img src=n{number}.png>" for number in range(len(sizes)))
        files = {f"n{number}_png": size for number, size in enumerate(sizes)}
        page = write_page(Path(name), "", body, **files)
        protocol = Protocol.HTTP2 if newer else Protocol.HTTP1
        waterfall = played(page, LIKE_CHROMIUM, protocol)
    assert len(waterfall.timings) == len(sizes) + 1
    begun = min(one.begun for one in waterfall.timings)
    assert (waterfall.done - begun) * 100_000 >= sum(one.bytes for one in waterfall.timings) - 1


def test_habits_of_browsers(tmp_path: Path) -> None:
    """Firefox asks for no picture over HTTP/1.1 before the head's sheet is there."""
    head = '<link rel="preload" as="image" href="a.png"><link rel="stylesheet" href="s.css">'
    page = write_page(tmp_path, head, "<img src=a.png>", a_png=5000, s_css=30_000)
    held = times(played(page, LIKE_FIREFOX))
    assert held["a.png"][0] == held["s.css"][2]
    free = times(played(page, LIKE_CHROMIUM))
    assert free["a.png"][0] < free["s.css"][1]


@pytest.mark.parametrize(
    ("text", "name"),
    [("1.6Mbit/s,150ms", "1.6 Mbit/s, 150 ms"), ("400 kbit/s, 0.4ms", "400 kbit/s, 0.4 ms")],
)
def test_lines_are_named_by_their_figures(text: str, name: str) -> None:
    line = line_of(text)
    assert line is not None
    assert line.name == name


@pytest.mark.parametrize("text", ["", "fast", "1.2.3Mbit,1ms", "0Mbit/s,1ms", "5Mbit/s"])
def test_what_is_no_line_is_refused(text: str) -> None:
    assert line_of(text) is None


def rehearsed(page: Path, *more: str) -> tuple[Ran, Any]:
    ran = call("rehearse", page, "--into", page.parent / "drawn", "--json", *more)
    return ran, json.loads(ran.out)


@pytest.mark.slow
def test_a_hint_in_vain_is_told_and_breaks_the_promise(tmp_path: Path) -> None:
    hint = '<link rel="preload" as="image" href="b.png" media="(width >= 1000px)">'
    body = "<style>.a { background: #eee url(a.png) }</style><div class=a></div>"
    page = write_page(tmp_path, hint, body, a_png=4000, b_png=4000).folder.page
    ran, facts = rehearsed(page, "--screen", "390x844@3", "--screen", "1440x900")
    assert ran.status == 1
    assert [one["in_vain"] for one in facts["screens"]] == [[], ["b.png"]]
    assert "b.png" in ran.err
    assert (tmp_path / "drawn/waterfall.png").read_bytes().startswith(b"\x89PNG")
    assert "b.png" in (tmp_path / "drawn/rehearsal.html").read_text("utf-8")


@pytest.mark.slow
def test_the_demo_fetches_nothing_in_vain_and_hints_gain(demo: Demo, tmp_path: Path) -> None:
    ran = call("rehearse", demo.published / "try-it.html", "--into", tmp_path, "--json")
    assert ran.status == 0, ran.err
    for screen in json.loads(ran.out)["screens"]:
        assert screen["in_vain"] == []
        assert sum(one["hinted"] for one in screen["pictures"]) == 1
        for line in screen["lines"]:
            assert line["with_hints"] < line["without_hints"], screen["name"]


@pytest.mark.slow
@pytest.mark.parametrize(
    ("markup", "says"),
    [("", "no page is there"), ("<div>" * 5000, "nested more than")],
    ids=["none", "deep"],
)
def test_pages_that_are_none(tmp_path: Path, markup: str, says: str) -> None:
    if markup:
        (tmp_path / "index.html").write_text(markup, "utf-8")
    ran = call("rehearse", tmp_path / "index.html")
    assert ran.status == 2
    assert says in ran.err


@pytest.mark.slow
def test_a_sheet_nested_without_end_is_told(tmp_path: Path) -> None:
    page = tmp_path / "index.html"
    page.write_text(f"<style>{'@media all {' * 5000}</style>", "utf-8")
    ran = call("rehearse", page, "--into", tmp_path / "drawn")
    assert ran.status == 0, ran.err
    assert "nested too deeply" in ran.out


@pytest.mark.slow
@given(st.binary(max_size=300))
def test_any_bytes_can_be_rehearsed(content: bytes) -> None:
    with tempfile.TemporaryDirectory() as name:
        page = Path(name, "index.html")
        page.write_bytes(b"<style>" + content + b"</style><link rel=preload as=image " + content)
        load(read_page(folder_of(page)), LAPTOP)


def test_files_outside_the_root_are_not_read(tmp_path: Path) -> None:
    (tmp_path / "site").mkdir()
    (tmp_path / "secret.css").write_text(".a { background: url(x.png) }", "utf-8")
    page = tmp_path / "site/index.html"
    page.write_text('<link rel="stylesheet" href="../secret.css"><div class=a>', "utf-8")
    found = load(read_page(folder_of(page)), LAPTOP)
    assert found.pictures == ()


# What selectors hit


def hit(tmp_path: Path, element: str, markup: str) -> Ran:
    save_noise(tmp_path / "a.jpg", 90, 60)
    brief = tmp_path / "brief.toml"
    brief.write_text(
        f'[[backdrop]]\nname = "x"\nsource = "a.jpg"\nelement = "{element}"\n', "utf-8"
    )
    assert call("build", brief).status == SHORT
    (tmp_path / "page.html").write_text(f"<!doctype html><title>x</title>{markup}", "utf-8")
    return call("hits", tmp_path / "page.html", brief)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("element", "markup", "status", "says"),
    [
        (".arrival", "<main class=arrival></main>", 0, "1 element: main.arrival"),
        (".arrival", "<p class=arrival><p class=arrival>", 0, "2 elements"),
        (".arrival", "<main id=arrival></main>", 1, "is an id on this page, not a class"),
        ("#arrival", "<main class=arrival></main>", 1, "write .arrival"),
        (".arrivel", "<main class=arrival></main>", 1, "did you mean .arrival?"),
        (".a", "<main class=a style='background: red'></main>", 1, "force = true wins"),
        ("main", "<style>.a { background: none }</style><main class=a></main>", 1, "wins: back"),
        (".a", "<style>main { background: none }</style><main class=a></main>", 0, "our rules win"),
        (".a", "<style>body { width: 900px }</style><main class=a></main>", 0, "likely 900 px"),
    ],
)
def test_hits(tmp_path: Path, element: str, markup: str, status: int, says: str) -> None:
    ran = hit(tmp_path, element, markup)
    assert ran.status == status, ran.out + ran.err
    assert says in ran.out


@pytest.mark.slow
def test_pictures_in_containers_are_told(tmp_path: Path) -> None:
    style = "@container (width > 1px) { p { background: url(a.jpg) } }"
    (tmp_path / "index.html").write_text(f"<style>{style}</style><p>x", "utf-8")
    ran = call("rehearse", tmp_path / "index.html", "--into", tmp_path / "into")
    assert "not counted: pictures in @container (width > 1px)" in ran.out


@pytest.mark.slow
def test_what_is_not_understood_never_buries_the_verdict(tmp_path: Path) -> None:
    rules = "".join(f".a:nonsense({n}) {{ background: url(a.jpg) }}" for n in range(40))
    page = tmp_path / "page.html"
    page.write_text(f"<!doctype html><style>{rules}</style><div class=a></div>")
    ran = call("rehearse", page, "--into", tmp_path / "charts")
    told = ran.out.splitlines()
    verdict = next(n for n, line in enumerate(told) if "nothing in vain" in line)
    [unread] = [line for line in told if line.startswith("Not understood")]
    assert told.index(unread) > verdict
    assert unread.count("nonsense") == 3
    ran = call("rehearse", page, "--into", tmp_path / "charts", "--json")
    listed = ran.facts["not_understood"]
    assert unread.endswith(f" and {len(listed) - 3} more: --json")
    assert len(listed) > 10


def test_a_browser_without_what_drives_it_is_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "page.html").write_text("<!doctype html><p>x</p>")
    monkeypatch.setattr("shutil.which", lambda name: f"/here/{name}")
    monkeypatch.setitem(sys.modules, "websocket", None)
    ran = call("rehearse", tmp_path / "page.html", "--into", tmp_path / "charts", "--browser")
    assert ran.status == 4
    assert 'pip install "brightcanvas[browser]"' in ran.err


def test_hits_finds_no_fault_with_a_page_that_does_as_told(demo: Demo, tmp_path: Path) -> None:
    """It has our hints, links our sheet, and holds our elements."""
    site = tmp_path / "site"
    shutil.copytree(demo.published, site)
    head, markup = ((site / f"{name}.html").read_text("utf-8") for name in ("head", "markup"))
    page = f"<!doctype html><title>x</title>{head}<link rel=stylesheet href=backdrops.css>{markup}"
    (site / "page.html").write_text(page, "utf-8")
    ran = call("hits", site / "page.html", demo.folder / "brief.toml")
    assert ran.status == 0, ran.out
    assert "our rules win on every usual screen" in ran.out
    assert "The page itself" not in ran.out


# Real browsers


NESTED = """
.a { .b { background-image: url(1.png) } }
.a { & .c { background-image: url(2.png) } }
.a { &.d { background-image: url(3.png) } }
.e { .a & { background-image: url(4.png) } }
.a, #f { > .g, + .h { background-image: url(5.png) } }
.i { background-image: url(6.png); &:is(.i) { background-image: url(7.png) }
     background-image: url(8.png) }
.j { @media (width > 500px) { background-image: url(9.png); .k { background-image: url(10.png) } } }
.l { .m { &.n { background-image: url(11.png) } .o & { background-image: url(12.png) } } }
.p { &:not(.q &) { background-image: url(13.png) } }
@media (width > 500px) { .r { @layer low { background-image: url(14.png) } } }
.s { background-image: url(15.png); @supports (display: grid) { background-image: url(16.png) } }
#t, .u { .v { background-image: url(17.png) } } .w .v { background-image: url(18.png) }
.x { [title="&"] { background-image: url(19.png) } }
"""
NESTED_BODY = """
<div class=a><p class=b>x</p><p class=c>x</p><p class=e>x</p><p class=g>x</p></div><p class=h>x</p>
<p class="a d">x</p><p class=i>x</p><div class=j>x<p class=k>x</p></div>
<div class=o><div class=l><p class="m n">x</p><p class=m>x</p></div></div>
<p class=p>x</p><div class=q><p class=p>x</p></div><p class=r>x</p><p class=s>x</p>
<div class="u w"><p class=v>x</p></div><div class=x><p title="&amp;">x</p></div>
"""


SILENT = """#!{python}
import base64, hashlib, pathlib, re, socket, sys, time
listener = socket.create_server(("127.0.0.1", 0))
profile = next(one for one in sys.argv if one.startswith("--user-data-dir=")).split("=")[1]
told = f"{{listener.getsockname()[1]}}\\n/devtools/browser/1\\n"
(pathlib.Path(profile) / "DevToolsActivePort").write_text(told)
line = listener.accept()[0]
key = re.search(rb"Sec-WebSocket-Key: (\\S+)", line.recv(4096))[1]
magic = hashlib.sha1(key + b"258EAFA5-E914-47DA-95CA-C5AB0DC85B11").digest()
line.sendall(b"HTTP/1.1 101 Switching Protocols\\r\\nUpgrade: websocket\\r\\n"
             b"Connection: Upgrade\\r\\nSec-WebSocket-Accept: "
             + base64.b64encode(magic) + b"\\r\\n\\r\\n")
time.sleep(20)
"""
"""A browser that takes a line, and says nothing more (RFC 6455, section 4.2.2)."""


def test_a_page_with_files_of_every_kind_is_drawn(tmp_path: Path) -> None:
    save_noise(tmp_path / "fen.png", 60, 40)
    (tmp_path / "index.html").write_text(
        "<link rel=stylesheet href=look.css><script src=play.js></script><p>Flour"
        "<img src=fen.png width=300><iframe src=inner.html></iframe>"
        "<video src=sails.mp4 autoplay muted></video>",
        "utf-8",
    )
    look = "@font-face { font-family: Mill; src: url(mill.woff2) } p { font-family: Mill }"
    (tmp_path / "look.css").write_text(look, "utf-8")
    (tmp_path / "inner.html").write_text("<p>x", "utf-8")
    for name in ("play.js", "mill.woff2", "sails.mp4"):
        (tmp_path / name).write_bytes(b" " * 2000)
    ran = call("rehearse", tmp_path / "index.html", "--into", tmp_path / "drawn")
    assert ran.status in (0, 1), ran.err
    drawn = (tmp_path / "drawn" / "rehearsal.html").read_text("utf-8")
    assert all(name in drawn for name in ("mill.woff2", "look.css", "play.js", "fen.png"))
    assert (tmp_path / "drawn" / "waterfall.png").stat().st_size > 5000


@pytest.mark.slow
@pytest.mark.browser
def test_firefox_is_asked_in_windows_narrower_than_its_own(tmp_path: Path) -> None:
    if FIREFOX is None:
        pytest.skip("no Firefox here: see scripts/test")
    for name in ("narrow", "wide"):
        save_noise(tmp_path / f"{name}.png", 60, 40)
    (tmp_path / "index.html").write_text(
        '<meta name="viewport" content="width=device-width"><picture>'
        '<source media="(max-width: 400px)" srcset="narrow.png"><img src="wide.png"></picture>',
        "utf-8",
    )
    with firefox() as browser, served(folder_of(tmp_path / "index.html")) as host:
        seen = browser.visit(host, "index.html", Environment(320, 568, 2), 0.2)
    assert (seen.window.width, seen.window.height, seen.window.density) == (320, 568, 2)
    assert [one for one in seen.asked if one.endswith(".png")] == ["/narrow.png"]


@pytest.mark.slow
@pytest.mark.skipif(os.name == "nt", reason="stands in for the browser with a script")
@pytest.mark.parametrize(("program", "says"), [
    ("#!/bin/sh\nexit 3\n", "Chromium ended when it was started, with status 3"),
    (SILENT, "Chromium didn't answer within"),
], ids=["ends", "silent"])  # fmt: skip
def test_a_browser_that_fails_is_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, program: str, says: str
) -> None:
    monkeypatch.setattr("brightcanvas.browsers.chromium.TIMEOUT", 0.5)
    monkeypatch.setattr("brightcanvas.browsers.chromium.PARTING", 0.5)
    monkeypatch.setenv("PATH", str(tmp_path))
    (tmp_path / "chromium").write_text(program.format(python=sys.executable), "utf-8")
    (tmp_path / "chromium").chmod(0o755)
    (tmp_path / "index.html").write_text("<p>x", "utf-8")
    ran = call("rehearse", tmp_path / "index.html", "--browser", "--into", tmp_path / "drawn")
    assert ran.status == 4
    assert says in ran.out + ran.err


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
@pytest.mark.parametrize("width", [400, 900])
def test_nested_rules_fetch_what_chromium_fetches(tmp_path: Path, width: int) -> None:
    for number in range(1, 20):
        save_noise(tmp_path / f"{number}.png", 4, 4, seed=number)
    page = tmp_path / "index.html"
    page.write_text(
        f"<!doctype html><html><head><title>x</title><style>{NESTED}</style></head>"
        f"<body>{NESTED_BODY}",
        "utf-8",
    )
    read = read_page(folder_of(page))
    foretold = load(read, Environment(width, 700, 1))
    wanted = {one.url.rpartition("/")[2] for one in foretold.pictures}
    with serving(tmp_path) as site:
        browser = Browser()
        try:
            browser.open(f"{site.address}/index.html", width, 700)
            assert wanted == set(site.pictures())
        finally:
            browser.close()
    assert read.reading.unread == []
    assert len(wanted) >= 10


@pytest.mark.slow
@pytest.mark.alone
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
def test_chromium_paints_about_when_it_was_foretold(demo: Demo) -> None:
    """On a slow line, where the browser's own time matters least; figures are in ``bench``."""
    page = read_page(folder_of(demo.published / "try-it.html"))
    lines = [NetworkProfile(400e3, 0.4)]
    found = rehearse(
        page,
        [Screen("laptop", Size(LAPTOP.width, LAPTOP.height), LAPTOP.density)],
        lines,
        Protocol.HTTP1,
        LIKE_CHROMIUM,
    )
    with chromium() as browser:
        (seen,) = confirm(page.folder, found, browser, 3)
    assert seen.is_as_foretold
    assert seen.warnings == ()
    assert seen.shift == 0
    assert seen.measured is not None
    assert seen.predicted == pytest.approx(seen.measured, rel=0.3)


FIREFOX = shutil.which("firefox") or shutil.which("firefox-esr")
WIDTHS = (
    320,
    359.5,
    371.5,
    390,
    432,
    499.5,
    500,
    599.5,
    639.5,
    640,
    700.5,
    853,
    1099.5,
    1100,
    1400,
)
FRAMES = "".join(
    f'<iframe loading="lazy" style="position: absolute; left: 0; top: 0" width="{width}"'
    f' height="800" src="/w{number}/try-it.html"></iframe>' for number, width in enumerate(WIDTHS)
)  # fmt: skip
"""All in view, and fetched when they have a width: a script in one that hasn't sees none."""
TOLD = """<script>
let low = 0, high = 4000;
while (high - low > 1e-5) {
  const middle = (low + high) / 2;
  if (matchMedia(`(min-width: ${middle}px)`).matches) low = middle; else high = middle;
}
fetch(location.pathname.replace("try-it.html", "") +
  `told?${low.toFixed(3)}x${innerHeight}@${devicePixelRatio}`);
</script>"""
"""Tells the width that media conditions see: scroll bars included, snapped as the browser does."""


def frame_of(
    page: Page, asked: list[str], number: int
) -> tuple[Environment | None, list[str], list[str]]:
    """What a frame told of its window, the pictures that it asked for, and those foretold."""
    own = [path.split("/", 2)[2] for path in asked if path.startswith(f"/w{number}/")]
    told = next((path.removeprefix("told?") for path in own if path.startswith("told?")), None)
    if told is None:
        return None, [], []
    width, height, density = (float(part) for part in told.replace("@", "x").split("x"))
    seen = Environment(width, height, density)
    foretold = load(page, seen)
    assert foretold.useless == ()
    fetched = [path for path in own if path.endswith((".avif", ".webp", ".jpg", ".svg"))]
    return seen, sorted(fetched), sorted(one.url.rpartition("/")[2] for one in foretold.pictures)


def all_fetched(page: Page, asked: list[str]) -> bool:
    """Whether each frame has told its window and asked for what it is foretold to ask for."""
    if sum("told?" in path for path in asked) < len(WIDTHS):
        return False
    frames = [frame_of(page, asked, number) for number in range(len(WIDTHS))]
    return all(told and set(wanted) <= set(fetched) for told, fetched, wanted in frames)


Enough = Callable[[list[str]], bool]


def asked_until(host: ServedFolder, is_enough: Enough) -> list[str]:
    """What was asked for until that was enough, or for 60 s, and for 1.5 s more."""
    until, asked = time.monotonic() + 60, list[str]()
    while time.monotonic() < until and not is_enough(asked):
        time.sleep(0.2)
        asked += [one.path for one in host.taken()]
    time.sleep(1.5)
    return asked + [one.path for one in host.taken()]


def in_chromium(host: ServedFolder, density: float, profile: Path, is_enough: Enough) -> list[str]:
    """What a real window asks for: the driver's emulation would snap widths to whole px."""
    command = [
        str(CHROMIUM), *SWITCHES, f"--user-data-dir={profile}", "--remote-debugging-port=0",
        "--window-size=1600,1000", f"--force-device-scale-factor={density}",
        f"{host.address}/index.html",
    ]  # fmt: skip
    quiet = subprocess.DEVNULL
    with subprocess.Popen(command, stdout=quiet, stderr=quiet) as running:
        asked = asked_until(host, is_enough)
        running.terminate()
    return asked


def in_firefox(host: ServedFolder, density: float, _: Path, is_enough: Enough) -> list[str]:
    port = urlsplit(host.address).port or 0
    with firefox_window(port=port, density=density) as window:
        window.resize(Environment(1600, 1000, density))
        window.open(f"{host.address}/index.html")
        return asked_until(host, is_enough)


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.parametrize("density", [1, 1.25, 1.5, 2, 3])
@pytest.mark.parametrize("ask", [in_chromium, in_firefox])
def test_every_frame_fetches_one_hinted_file(
    demo: Demo,
    tmp_path: Path,
    ask: Callable[[ServedFolder, float, Path, Enough], list[str]],
    density: float,
) -> None:
    """15 widths, whole and fractional: each frame has its own copy of the page and its files."""
    if not (CHROMIUM if ask is in_chromium else FIREFOX):
        pytest.skip("that browser is not here")
    site = tmp_path / "site"
    for number in range(len(WIDTHS)):
        copy = site / f"w{number}"
        shutil.copytree(demo.published, copy)
        page = copy / "try-it.html"
        text = page.read_text("utf-8").replace("</body>", f"{TOLD}</body>")
        page.write_text(text.replace("moving.js", "none.js"), "utf-8")
    (site / "index.html").write_text(f"<!doctype html><title>x</title>{FRAMES}", "utf-8")
    page_read = read_page(folder_of(demo.published / "try-it.html"))
    with served(folder_of(site / "index.html")) as host:
        asked = ask(
            host, density, tmp_path / "profile", lambda asked: all_fetched(page_read, asked)
        )
    for number in range(len(WIDTHS)):
        told, fetched, wanted = frame_of(page_read, asked, number)
        assert (told is not None, fetched) == (True, wanted), told


@pytest.mark.slow
def test_a_rehearsal_overwrites_its_own_charts_only(small: Path) -> None:
    call("build", small)
    page = small.parent / "published/try-it.html"
    assert call("rehearse", page).status == 0
    assert call("rehearse", page).status == 0, "its own charts are in the way"
    chart = small.parent / "rehearsal/rehearsal.html"
    chart.write_text("notes of mine")
    ran = call("rehearse", page)
    assert (ran.status, chart.read_text()) == (2, "notes of mine")
    assert "was not made by rehearsals" in ran.err
