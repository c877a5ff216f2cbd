"""The published demo in WebKit: what it asks for, what its script does, what it looks like."""

from __future__ import annotations

import io
import random
import shutil
import time
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

import numpy as np
import pytest
from PIL import Image

from brightcanvas.browsers.webkit import NEEDED, WebKitWindow, is_here, webkit_window
from brightcanvas.page.folder import folder_of
from brightcanvas.page.page_load import load
from brightcanvas.page.reading import Page, read_page
from brightcanvas.rehearsal.confirming import Browser, webkit
from brightcanvas.rehearsal.engine_profiles import WEBKIT
from brightcanvas.serving.page_server import ServedFolder, served
from brightcanvas.values.environments import Environment
from brightcanvas.values.geometry import Size
from brightcanvas.values.screens import Screen

from .conftest import Demo, call

pytestmark = [
    pytest.mark.browser,
    pytest.mark.slow,
    pytest.mark.skipif(not is_here(), reason=f"no WebKit here: it needs Debian's {NEEDED}"),
]

PICTURES = (".avif", ".webp", ".jpg", ".png", ".svg")
CLIPS = (".mp4", ".webm")

SIZES = [
    (320, 568), (360, 740), (375, 667), (390, 844), (412, 915), (430, 932), (568, 320),
    (639, 900), (640, 900), (667, 375), (768, 1024), (820, 1180), (844, 390), (932, 430),
    (1024, 768), (1099, 800), (1100, 800), (1280, 720), (1366, 768), (1440, 900), (1600, 900),
    (1920, 1080), (2199, 1200), (2200, 1200), (2560, 1440),
]  # fmt: skip
WINDOWS = [
    (width, height, density)
    for width, height in SIZES
    for density in (1, 2, 3)
    if width * density <= 4200
]


def named(served: ServedFolder, endings: tuple[str, ...]) -> list[str]:
    paths = [Path(one.path).name for one in served.taken()]
    return [one for one in paths if one.endswith(endings)]


@pytest.fixture(scope="module")
def page(demo: Demo) -> Page:
    return read_page(folder_of(demo.published / "try-it.html"))


@pytest.fixture
def host(page: Page) -> Iterator[ServedFolder]:
    with served(page.folder, None, ()) as host:
        yield host


@pytest.mark.timeout(900)
def test_sixty_windows_fetch_what_the_engine_foretells(page: Page) -> None:
    """One file for each backdrop, the hinted one first, nothing twice."""
    assert len(WINDOWS) >= 60
    random.seed(1)
    with webkit() as browser:
        for width, height, density in sorted(WINDOWS, key=lambda one: one[2]):
            environment = Environment(width, height, density)
            screen = Screen("window", Size(width, height), density)
            foretold = load(page, WEBKIT.environment(screen))
            wanted = {Path(urlsplit(one.url).path).name: one for one in foretold.pictures}
            loads = (asked_for(browser, page, environment, set(wanted)) for _ in range(LOADS))
            assert any(wanted[asked[0]].is_hinted for asked in loads), "the hinted one comes first"
            assert foretold.useless == ()


LOADS = 4
"""On a crowded machine requests overtake each other on their way to the server; so one load of
these is enough to show which was asked for first, and what is asked for has to be right in all."""


def asked_for(
    browser: Browser, page: Page, environment: Environment, wanted: set[str]
) -> list[str]:
    """The pictures of one load, in order: those that are wanted, each once."""
    with served(page.folder, None, ()) as host:
        seen = browser.visit(host, "try-it.html", environment, 0.3)
    assert (seen.window.width, seen.window.density) == (environment.width, environment.density)
    asked = [Path(one).name for one in seen.asked if one.endswith(PICTURES)]
    assert sorted(asked) == sorted(wanted), environment
    return asked


def test_no_byte_of_a_clip_on_phones_however_they_are_held(page: Page) -> None:
    with webkit_window() as window:
        for width, height in ((390, 844), (844, 390), (932, 430)):
            with served(page.folder, None, ()) as host:
                opened(window, host, "try-it.html", Environment(width, height, 2), 2)
                assert named(host, CLIPS) == []


def opened(
    window: WebKitWindow, host: ServedFolder, page: str, environment: Environment, pause: float
) -> None:
    """A page in a window, and so many seconds for what comes late."""
    window.resize(environment)
    window.open(f"{host.address}/{page}")
    time.sleep(pause)


BUTTON = """(() => {
  const video = document.querySelector("video"), button = video.parentNode.querySelector("button");
  return { text: button.textContent, hidden: button.hidden, paused: video.paused,
           play: button.dataset.play, pause: button.dataset.pause,
           state: video.dataset.state ?? null, loaded: video.readyState };
})()"""


def visited(
    page: Page, folder: Path, *, is_mute: bool = False, is_calm: bool = False
) -> tuple[dict[str, object], list[str]]:
    """The clip's page with the clip in the first view; the button, and what was fetched of it."""
    published = folder / "published"
    shutil.copytree(page.folder.root, published)
    text = (published / "try-it.html").read_text(encoding="utf-8")
    script = "<script>document.querySelector('video').parentNode.scrollIntoView()</script>"
    (published / "clip.html").write_text(text + script, encoding="utf-8")
    said = {"prefers-reduced-motion": "reduce"} if is_calm else {}
    with (
        served(folder_of(published / "clip.html"), None, ()) as host,
        webkit_window(is_mute=is_mute) as window,
    ):
        opened(window, host, "clip.html", Environment(1280, 720, said=said), 3)
        return window.evaluate(BUTTON), named(host, CLIPS)


def test_the_clip_plays_and_its_button_says_so(page: Page, tmp_path: Path) -> None:
    told, clips = visited(page, tmp_path)
    assert clips
    assert (told["paused"], told["text"], told["state"]) == (False, told["pause"], "playing")


def test_where_starting_is_forbidden_nothing_is_fetched_and_the_button_is_true(
    page: Page, tmp_path: Path
) -> None:
    told, clips = visited(page, tmp_path, is_mute=True)
    assert clips == []
    assert (told["paused"], told["hidden"], told["text"]) == (True, False, told["play"])


def test_less_motion_means_not_one_byte_of_the_clip(page: Page, tmp_path: Path) -> None:
    told, clips = visited(page, tmp_path, is_calm=True)
    assert (clips, told["hidden"]) == ([], True)


def test_it_looks_like_the_pictures(page: Page, demo: Demo, host: ServedFolder) -> None:
    """The first backdrop is there: no blank, and its colours are the picture's."""
    with webkit_window() as window:
        opened(window, host, "try-it.html", Environment(390, 844, 2), 1)
        seen = io.BytesIO(window.screenshot())
    pixels = np.asarray(Image.open(seen).convert("RGB"), float)
    assert pixels.shape[:2] in ((844, 390), (1688, 780))
    sky = pixels[: pixels.shape[0] // 8]
    shown = load(page, WEBKIT.environment(Screen("phone", Size(390, 844), 2)))
    with Image.open(demo.published / Path(urlsplit(shown.pictures[0].url).path).name) as image:
        own = np.asarray(image.convert("RGB"), float)
    assert sky.std() > 1, "a blank"
    assert np.abs(sky.mean((0, 1)) - own[: own.shape[0] // 8].mean((0, 1))).max() < 40


def test_rehearse_confirms_in_webkit(demo: Demo) -> None:
    ran = call(
        "rehearse", demo.published / "try-it.html", "--like", "webkit", "--browser", "--runs", "1",
        "--screen", "390x844@3", "--line", "10Mbit/s,40ms",
    )  # fmt: skip
    assert ran.status == 0, ran.err
    assert "As WebKit loads it" in ran.out.replace("as WebKit", "As WebKit")
    assert "as foretold" in ran.out
