"""Clips from brief to browser: what is published, what plays, and what is not even fetched."""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from selenium.webdriver.common.keys import Keys

from brightcanvas.brief.by_breakpoint import MOVES_FROM
from brightcanvas.demo.host import host
from brightcanvas.framing.usual_screens import USUAL_SCREENS

from .browsing import CHROMIUM, DRIVER, Browser, Site
from .clips import RATE, codes, panned, scene, write
from .conftest import call, save_noise

FRAMES = 48
BRIEF = """
[[breakpoint]]
name = "narrow"
below = 640
[[breakpoint]]
name = "wide"

[[backdrop]]
name = "wheel"
source = "wheel.mp4"
element = ".evening"
height = "60svh"
first_view = true
subject = { point = [0.5, 0.5] }
copy = { box = [0.1, 0.2, 0.5, 0.6], colour = "white", size = 30 }
scrim = { least = true }

[backdrop.clip]
"""

needs_browser = [
    pytest.mark.browser,
    pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here"),
]


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """One build of a clip that goes round."""
    folder = tmp_path_factory.mktemp("moving")
    picture = scene(21, (320, 180)) * 0.8
    rounds = (codes(panned(picture, number / FRAMES)) for number in range(FRAMES))
    write(folder / "wheel.mp4", rounds)
    (folder / "brief.toml").write_text(BRIEF, encoding="utf-8")
    ran = call("build", folder / "brief.toml")
    assert ran.status == 0, ran.out + ran.err
    return folder


@pytest.fixture(scope="module")
def ledger(folder: Path) -> Any:
    return json.loads((folder / "published/ledger.json").read_text(encoding="utf-8"))


def clip_of(ledger: Any) -> Any:
    narrow, wide = ledger["backdrops"][0]["breakpoints"]
    assert narrow["clip"] is None
    return wide["clip"]


@pytest.mark.slow
def test_every_clip_decodes_to_the_planned_frames(folder: Path, ledger: Any) -> None:
    clip = clip_of(ledger)
    assert clip["plays"] == "round"
    for asset in clip["assets"]:
        with av.open(str(folder / "published" / asset["file"])) as container:
            frames = list(container.decode(video=0))
            assert len(container.streams.audio) == 0
        assert len(frames) == asset["frames"] == FRAMES
        assert (frames[0].width, frames[0].height) == (asset["width"], asset["height"])
        assert asset["width"] % 2 == asset["height"] % 2 == 0
        last = float(frames[-1].time or 0)
        assert last == pytest.approx((FRAMES - 1) / RATE, abs=0.01)


def test_types_tell_the_codec_of_the_stream(ledger: Any) -> None:
    types = [asset["type"] for asset in clip_of(ledger)["assets"]]
    assert types[-1].startswith('video/mp4; codecs="avc1.')
    assert all("av01." in one for one in types[:-1])


def test_the_index_of_an_mp4_stands_at_its_front(folder: Path, ledger: Any) -> None:
    content = (folder / "published" / clip_of(ledger)["assets"][-1]["file"]).read_bytes()
    assert 0 < content.index(b"moov") < content.index(b"mdat")


def test_the_clip_begins_with_its_poster(folder: Path, ledger: Any) -> None:
    """The still and the first frame show the same moment, so nothing jumps when it starts."""
    wide = ledger["backdrops"][0]["breakpoints"][1]
    still = wide["oldest"]["file"]
    with av.open(str(folder / "published" / wide["clip"]["assets"][-1]["file"])) as container:
        frames = [frame.to_ndarray(format="rgb24") for frame in container.decode(video=0)]
    with av.open(str(folder / "published" / still)) as container:
        shown = next(container.decode(video=0)).reformat(
            frames[0].shape[1], frames[0].shape[0], format="rgb24"
        )
    apart = [np.abs(one.astype(float) - shown.to_ndarray()).mean() for one in frames]
    assert int(np.argmin(apart)) in (0, 1, FRAMES - 1)


def test_a_second_run_encodes_nothing(folder: Path) -> None:
    before = {
        path: (path.stat().st_mtime_ns, hashlib.sha256(path.read_bytes()).hexdigest())
        for path in (folder / "published").iterdir()
    }
    assert call("build", folder / "brief.toml").status == 0
    for path, (written, digest) in before.items():
        assert path.stat().st_mtime_ns == written
        assert hashlib.sha256(path.read_bytes()).hexdigest() == digest


def test_the_ledger_and_the_promises_tell_of_the_clip(ledger: Any) -> None:
    told = [one for one in ledger["promises"] if one["promise"] == "moving"]
    assert {one["breakpoint"] for one in told} == {"wide"}
    assert all(one["holds"] for one in told)
    files = {one["file"] for one in ledger["files"]}
    assert "moving.js" in files
    assert {asset["file"] for asset in clip_of(ledger)["assets"]} <= files


def test_a_clip_of_another_host_is_not_measured(tmp_path: Path) -> None:
    save_noise(tmp_path / "still.jpg", 640, 384)
    (tmp_path / "brief.toml").write_text(
        '[[backdrop]]\nname = "h"\nsource = "still.jpg"\nelement = ".h"\nheight = "420px"\n'
        '[backdrop.hosted]\naddress = "https://clips.example/7"\n',
        encoding="utf-8",
    )
    ran = call("build", tmp_path / "brief.toml", "--json")
    told, where = [one for one in ran.facts["promises"] if one["promise"] == "moving"]
    assert told["state"] == "not measured"
    assert "laptop, desk" in where["says"]
    assert "phone" not in where["says"]
    assert "1 not measured" in ran.err


@pytest.mark.slow
def test_a_flashing_clip_breaks_its_promise(tmp_path: Path) -> None:
    dark, light = np.full((90, 160, 3), 0.1), np.full((90, 160, 3), 0.9)
    frames = (codes(light if number // 2 % 2 else dark) for number in range(48))
    write(tmp_path / "flash.mp4", frames)
    (tmp_path / "brief.toml").write_text(
        '[[backdrop]]\nname = "f"\nsource = "flash.mp4"\nelement = ".f"\n[backdrop.clip]\n',
        encoding="utf-8",
    )
    ran = call("build", tmp_path / "brief.toml", "--json")
    assert ran.status == 1
    broken = [one for one in ran.facts["promises"] if not one["holds"]]
    assert any("flashes in its worst second" in one["says"] for one in broken)


@pytest.mark.slow
@pytest.mark.parametrize(("more", "holds"), [(4200, True), (-1000, False)])
def test_a_budget_counts_the_clip(folder: Path, tmp_path: Path, more: int, *, holds: bool) -> None:
    """What it leaves is for the pictures, whose scores come down; the clip's own stays."""
    shutil.copy(folder / "wheel.mp4", tmp_path)
    shutil.copytree(folder / ".bright-canvas", tmp_path / ".bright-canvas")
    free = json.loads((folder / "published/ledger.json").read_text(encoding="utf-8"))
    clip = clip_of(free)["assets"][0]["bytes"]
    budget = f'[[budget]]\nmost = "{clip + more}B"\nbreakpoint = "wide"\n'
    (tmp_path / "brief.toml").write_text(BRIEF + budget, encoding="utf-8")
    ran = call("build", tmp_path / "brief.toml", "--json")
    told = json.loads((tmp_path / "published/ledger.json").read_text(encoding="utf-8"))
    assert clip_of(told)["assets"] == clip_of(free)["assets"]
    (verdict,) = [one for one in ran.facts["promises"] if one["promise"] == "budget"]
    assert verdict["holds"] is holds
    assert f"{clip / 1000:.1f} kB of it clips" in verdict["says"]
    assert ("scores brought down" in verdict["says"]) is holds
    assert holds or "moving = false" in verdict["remedy"]


@pytest.mark.slow
def test_a_damaged_tail_is_told(tmp_path: Path) -> None:
    pictures = [codes(panned(scene(24, (160, 90)), number / 72)) for number in range(72)]
    write(tmp_path / "whole.mp4", pictures, options={"crf": "16", "g": "12"})
    content = bytearray((tmp_path / "whole.mp4").read_bytes())
    first = content.index(b"mdat")
    for at in range(first + (len(content) - first) * 2 // 3, len(content) - 2500):
        content[at] = 0
    (tmp_path / "torn.mp4").write_bytes(content)
    (tmp_path / "brief.toml").write_text(
        '[[backdrop]]\nname = "t"\nsource = "torn.mp4"\nelement = ".t"\n[backdrop.clip]\n',
        encoding="utf-8",
    )
    ran = call("build", tmp_path / "brief.toml")
    assert ran.status == 0, ran.err
    assert "of the source can't be read" in ran.out
    told = json.loads((tmp_path / "published/ledger.json").read_text(encoding="utf-8"))
    clip = told["backdrops"][0]["breakpoints"][-1]["clip"]
    assert 0 < clip["lost"] < 2.5
    assert 10 < clip["assets"][0]["frames"] < 70


@pytest.mark.slow
def test_a_clip_gets_the_tone_of_its_still(tmp_path: Path) -> None:
    picture = codes(scene(22, (160, 90)))
    write(tmp_path / "day.mp4", [picture] * 12)
    brief = """[[backdrop]]\nname = "d"\nsource = "day.mp4"\nelement = ".d"
tone = { darken = 0.6, desaturate = 1 }\n[backdrop.clip]\ncodecs = ["h264"]\n"""
    (tmp_path / "brief.toml").write_text(brief, encoding="utf-8")
    assert call("build", tmp_path / "brief.toml").status == 0
    with av.open(str(next((tmp_path / "published").glob("*.mp4")))) as container:
        shown = next(container.decode(video=0)).to_ndarray(format="rgb24").astype(float)
    assert shown.mean() < 0.75 * picture.mean()
    assert np.abs(shown[..., 0] - shown[..., 2]).mean() < 4


@pytest.mark.slow
def test_a_scrim_counts_for_the_clip_too(tmp_path: Path) -> None:
    """What was told of a clip without a scrim is not told again once it has one."""
    picture = scene(23, (160, 90))
    ways = [0.2 + 0.8 * abs(1 - number / 12) for number in range(24)]
    write(tmp_path / "wheel.mp4", (codes(picture * way) for way in (*ways[12:], *ways[:12])))
    more = 'poster_at = 0\n[backdrop.clip]\ncodecs = ["h264"]\n'
    text, brief = BRIEF.replace("[backdrop.clip]\n", more), tmp_path / "brief.toml"
    lowest = []
    for scrim in ("", "scrim = { least = true }\n"):
        brief.write_text(text.replace("scrim = { least = true }\n", scrim), encoding="utf-8")
        promises = call("build", brief, "--json").facts["promises"]
        (told,) = [
            one for one in promises if one["promise"] == "readable" and one["breakpoint"] == "wide"
        ]
        lowest.append(float(re.findall(r"([0-9.]+):1", told["says"])[0]))
    assert lowest[0] < 3 <= lowest[1]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("drift = 40\n[backdrop.clip]\n", "drift"),
        ("[backdrop.clip]\nbegin = 3\nend = 2\n", "end"),
        ('[backdrop.clip]\ncodecs = ["h266"]\n', "codecs"),
    ],
)
def test_mistakes_in_a_clip_are_told(tmp_path: Path, text: str, says: str) -> None:
    (tmp_path / "brief.toml").write_text(
        f'[[backdrop]]\nsource = "a.mp4"\nelement = ".a"\n{text}', encoding="utf-8"
    )
    ran = call("plan", tmp_path / "brief.toml")
    assert ran.status == 2
    assert says in ran.err


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    browser = Browser()
    yield browser
    browser.close()


@pytest.fixture
def site(folder: Path) -> Iterator[Site]:
    site = Site(folder / "published")
    yield site
    site.close()


def state(browser: Browser) -> Any:
    return browser.evaluate(
        """(() => { const video = document.querySelector("video"),
        button = document.querySelector("[data-moving-button]");
        return {time: video.currentTime, paused: video.paused, source: video.currentSrc,
        hidden: button.hidden, label: button.textContent}; })()"""
    )


def opened(browser: Browser, site: Site, width: int, height: int = 800) -> Any:
    browser.evaluate("0")
    browser.open(f"{site.address}/try-it.html", width, height)
    time.sleep(1.2)
    return state(browser)


class TestInChromium:
    """Clips in a real browser."""

    pytestmark = needs_browser

    @pytest.mark.slow
    def test_wide_windows_play_the_best_file_and_fetch_the_still_once(
        self, browser: Browser, site: Site, ledger: Any
    ) -> None:
        now = opened(browser, site, 1200)
        best = clip_of(ledger)["assets"][0]["file"]
        assert now["source"].endswith(best)
        assert site.clips() == [best]
        time.sleep(0.5)
        assert state(browser)["time"] != now["time"]
        assert not now["paused"]
        assert len(site.pictures()) == 1

    @pytest.mark.slow
    @pytest.mark.parametrize("kept_from", [360, 700, "less motion", "no scripts"])
    def test_where_it_does_not_play_not_one_byte_is_fetched(
        self, browser: Browser, site: Site, kept_from: str | int
    ) -> None:
        """Below 800 px it doesn't play either, though its breakpoint begins at 640."""
        if kept_from == "less motion":
            browser.prefers(reduced_motion="reduce")
        browser.scripts(run=kept_from != "no scripts")
        try:
            width = kept_from if isinstance(kept_from, int) else 1200
            browser.open(f"{site.address}/try-it.html", width, 800)
            time.sleep(1.2)
            assert site.clips() == []
            assert len(site.pictures()) == 1
        finally:
            browser.prefers()
            browser.scripts(run=True)

    @pytest.mark.slow
    def test_the_button_works_by_keyboard_and_is_remembered(
        self, browser: Browser, site: Site
    ) -> None:
        now = opened(browser, site, 1200)
        assert not now["hidden"]
        assert now["label"] == "Pause the moving background"
        browser.press(Keys.TAB, Keys.ENTER)
        time.sleep(0.3)
        now = state(browser)
        assert now["paused"]
        assert now["label"] == "Play the moving background"
        site.requested.clear()
        now = opened(browser, site, 1200)
        assert now["paused"]
        assert site.clips() == []
        browser.press(Keys.TAB, Keys.SPACE)
        time.sleep(0.6)
        now = state(browser)
        assert not now["paused"]
        assert now["label"] == "Pause the moving background"

    @pytest.mark.slow
    def test_a_page_may_name_the_script_more_than_once(
        self, browser: Browser, folder: Path, tmp_path: Path
    ) -> None:
        """Two moving backdrops each bring it; the button works all the same."""
        shutil.copytree(folder / "published", tmp_path / "published")
        page = tmp_path / "published" / "try-it.html"
        text = page.read_text(encoding="utf-8")
        line = '<script src="moving.js" defer></script>'
        assert line in text
        page.write_text(text.replace(line, line * 2), encoding="utf-8")
        site = Site(tmp_path / "published")
        try:
            browser.evaluate("sessionStorage.clear()")
            assert not opened(browser, site, 1200)["paused"]
            for paused in (True, False):
                browser.evaluate("document.querySelector('[data-moving-button]').click()")
                time.sleep(0.6)
                assert state(browser)["paused"] == paused
        finally:
            site.close()

    @pytest.mark.slow
    @pytest.mark.parametrize("window", [(320, 480), (1024, 768), (2560, 1080)])
    @pytest.mark.parametrize("paused", ["dim", "still"])
    def test_it_covers_its_element_at_any_shape(
        self, browser: Browser, folder: Path, tmp_path: Path, window: tuple[int, int], paused: str
    ) -> None:
        """Also where the brief lets it play on phones; and what it does when it is paused."""
        brief = BRIEF.replace("[backdrop.clip]", "moving = true\n[backdrop.clip]")
        shutil.copy(folder / "wheel.mp4", tmp_path)
        shutil.copytree(folder / ".bright-canvas", tmp_path / ".bright-canvas")
        (tmp_path / "brief.toml").write_text(f'{brief}when_paused = "{paused}"\n', "utf-8")
        assert call("build", tmp_path / "brief.toml").status == 0
        here = Site(tmp_path / "published")
        now = opened(browser, here, *window)
        assert not now["paused"]
        gaps = browser.evaluate(
            """(() => { const video = document.querySelector("video"),
            a = video.getBoundingClientRect(), b = video.parentNode.getBoundingClientRect();
            return [a.left - b.left, a.top - b.top, a.right - b.right, a.bottom - b.bottom]; })()"""
        )
        assert isinstance(gaps, list)
        assert max(abs(gap) for gap in gaps) < 0.01
        style = 'getComputedStyle(document.querySelector("video"))'
        assert browser.evaluate(f"{style}.objectFit") == "cover"
        browser.press(Keys.TAB, Keys.ENTER)
        time.sleep(0.3)
        look = [browser.evaluate(f"{style}.{name}") for name in ("filter", "visibility")]
        assert look == (["brightness(0.6)", "visible"] if paused == "dim" else ["none", "hidden"])
        here.close()

    @pytest.mark.slow
    def test_a_page_with_a_strict_security_policy_and_people_who_save_data(
        self, browser: Browser, folder: Path, site: Site
    ) -> None:
        markup = (folder / "published/markup.html").read_text(encoding="utf-8")
        policy = "default-src 'self'; img-src 'self' data:"
        (folder / "published/strict.html").write_text(
            '<!doctype html><html lang="en"><meta charset="utf-8"><title>t</title>'
            f'<meta http-equiv="Content-Security-Policy" content="{policy}">'
            '<link rel="icon" href="data:,"><link rel="stylesheet" href="backdrops.css">'
            f"{markup}",
            encoding="utf-8",
        )
        browser.open(f"{site.address}/strict.html", 1200, 700)
        time.sleep(1)
        assert state(browser)["time"] > 0
        assert browser.console() == []
        saving = browser.before_pages(
            "Object.defineProperty(navigator.connection, 'saveData', {get: () => true});"
        )
        site.requested.clear()
        browser.open(f"{site.address}/strict.html", 1200, 700)
        time.sleep(1)
        browser.undo(saving)
        assert site.clips() == []
        assert len(site.pictures()) == 1
        assert state(browser)["hidden"]

    @pytest.mark.slow
    def test_it_rests_out_of_view(self, browser: Browser, site: Site) -> None:
        opened(browser, site, 1200, 500)
        browser.evaluate('document.body.insertAdjacentHTML("beforeend", "<p style=height:3000px>")')
        browser.evaluate("scrollTo(0, 2000)")
        time.sleep(0.5)
        assert state(browser)["paused"]
        browser.evaluate("scrollTo(0, 0)")
        time.sleep(0.5)
        assert not state(browser)["paused"]

    @pytest.mark.slow
    @pytest.mark.parametrize("width", [700, 1200])
    def test_a_frame_of_another_host_only_in_wide_windows(
        self, browser: Browser, tmp_path: Path, width: int
    ) -> None:
        save_noise(tmp_path / "still.jpg", 450, 250)
        with host(tmp_path, 0, 60) as other:
            threading.Thread(target=other.serve_forever, daemon=True).start()
            address = f"http://127.0.0.1:{other.server_port}/frame/7"
            brief = (
                '[[backdrop]]\nname = "h"\nsource = "still.jpg"\nelement = ".h"\n'
                f'[backdrop.hosted]\naddress = "{address}"\n'
                'parameters = { play = "1", words = "a&b" }\n'
            )
            (tmp_path / "brief.toml").write_text(brief, encoding="utf-8")
            ran = call("build", tmp_path / "brief.toml")
            assert ran.status == 0
            assert "what the other host shows is not measured" in ran.out
            assert "moving.js" in ran.out
            here = Site(tmp_path / "published")
            browser.open(f"{here.address}/try-it.html", width, 700)
            time.sleep(0.6)
            frames = browser.evaluate('[...document.querySelectorAll("iframe")].map(f => f.src)')
            wide = width > 800
            assert frames == ([f"{address}?play=1&words=a%26b"] if wide else [])
            hidden = browser.evaluate('document.querySelector("[data-moving-button]").hidden')
            assert hidden is not wide
            if wide:
                gaps = browser.evaluate(
                    """(() => { const frame = document.querySelector("iframe"),
                    a = frame.getBoundingClientRect(),
                    b = frame.parentNode.getBoundingClientRect();
                    return [a.left - b.left, a.top - b.top, b.right - a.right,
                    b.bottom - a.bottom, Math.abs(a.width / a.height - 16 / 9) - 0.01]; })()"""
                )
                assert isinstance(gaps, list)
                assert max(gaps) < 0.5, "it covers its box, in its own shape"
                browser.press(Keys.TAB, Keys.ENTER)
                assert browser.evaluate('document.querySelectorAll("iframe").length') == 0
            other.shutdown()
            here.close()


def test_clips_play_on_no_usual_phone_and_on_every_desk(ledger: Any) -> None:
    """However it is held; and the build says on which screens they do."""
    for screen in USUAL_SCREENS:
        plays = (
            screen.viewport.width >= MOVES_FROM.width
            and screen.viewport.height >= MOVES_FROM.height
        )
        if "phone" in screen.name:
            assert not plays
        if screen.name in ("laptop", "desk", "tablet on its side"):
            assert plays
    [told] = [one for one in ledger["promises"] if "of visits" in one["says"]]
    assert "laptop, desk" in told["says"]
    assert "phone" not in told["says"]
