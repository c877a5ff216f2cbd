"""Two clips and one of another host on one page: each with its own button, in two browsers."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Protocol

import pytest
from selenium.webdriver.common.keys import Keys

from brightcanvas.demo.host import host

from .browsing import CHROMIUM, DRIVER, Browser, Site
from .clips import codes, panned, scene, write
from .conftest import call
from .firefox_driver import FirefoxPage
from .test_firefox import FIREFOX

pytestmark = [pytest.mark.browser, pytest.mark.slow]

BRIEF = """
[[backdrop]]
name = "wheel"
source = "wheel.mp4"
element = ".wheel"
height = "30svh"
[backdrop.clip]

[[backdrop]]
name = "water"
source = "water.mp4"
element = ".water"
height = "30svh"
[backdrop.clip]
pause = "Stop the water"
play = "Let the water run"

[[backdrop]]
name = "far"
source = "water.mp4"
element = ".far"
height = "30svh"
[backdrop.hosted]
address = "{address}"
"""
STOPS = ("Pause", "Stop")
STATES = """(() => {
  const found = {};
  for (const name of ["wheel", "water", "far"]) {
    const box = document.querySelector("." + name);
    if (!box) continue;
    const part = box.querySelector("video, iframe");
    const button = box.querySelector("[data-moving-button]");
    found[name] = {
      moves: Boolean(part) && (part.tagName === "IFRAME" || !part.paused),
      label: button.hidden ? "" : button.textContent,
    };
  }
  return JSON.stringify(found);
})()"""


class Page(Protocol):
    """A browser's window, as far as these tests use it."""

    def open(self, url: str, width: int, height: int) -> object: ...
    def evaluate(self, expression: str) -> object: ...
    def press(self, *keys: str) -> None: ...


class InFirefox:
    """Firefox in the shape of the other one."""

    def __init__(self) -> None:
        self._page = FirefoxPage(str(FIREFOX), 1200, 800)
        self.evaluate, self.press, self.close = (
            self._page.evaluate, self._page.press, self._page.close
        )  # fmt: skip

    def open(self, url: str, _width: int, _height: int) -> None:
        self._page.open("about:blank")
        self._page.open(url)


@pytest.fixture(scope="module", params=["chromium", "firefox"])
def browser(request: pytest.FixtureRequest) -> Iterator[Page]:
    if request.param == "firefox":
        if not FIREFOX:
            pytest.skip("no Firefox here")
        firefox = InFirefox()
        yield firefox
        firefox.close()
        return
    if not (CHROMIUM and DRIVER):
        pytest.skip("no Chromium with chromedriver here")
    chromium = Browser()
    yield chromium
    chromium.close()


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    """The build; pages of several kinds beside it."""
    folder = tmp_path_factory.mktemp("two")
    for name, seed in (("wheel", 21), ("water", 22)):
        picture = scene(seed, (320, 180)) * 0.8
        write(folder / f"{name}.mp4", (codes(panned(picture, one / 48)) for one in range(48)))
    with host(folder, 0, 60) as other:
        threading.Thread(target=other.serve_forever, daemon=True).start()
        address = f"http://127.0.0.1:{other.server_port}/frame/7"
        (folder / "brief.toml").write_text(BRIEF.format(address=address), encoding="utf-8")
        ran = call("build", folder / "brief.toml")
        assert ran.status == 0, ran.out + ran.err
        _write_pages(folder / "published")
        yield folder / "published"
        other.shutdown()


def _write_pages(published: Path) -> None:
    """One with everything pasted; one whose parts a script puts in, with the file loaded again."""
    markup = (published / "markup.html").read_text(encoding="utf-8")
    assert markup.count("moving.js") == 3, "each section brings the script"
    head = (
        '<!doctype html><html lang="en"><meta charset="utf-8"><title>t</title>'
        '<link rel="icon" href="data:,"><link rel="stylesheet" href="backdrops.css">'
    )
    (published / "pasted.html").write_text(f"{head}<body>{markup}", encoding="utf-8")
    late = (
        f"{head}<body><main></main><template>{markup}</template><script src='moving.js'></script>"
        "<script>setTimeout(() => { document.querySelector('main').innerHTML ="
        " document.querySelector('template').innerHTML; }, 200);"
        "setTimeout(() => { const again = document.createElement('script');"
        " again.src = 'moving.js'; document.body.append(again); }, 400);</script>"
    )
    (published / "late.html").write_text(late, encoding="utf-8")


@pytest.fixture(scope="module")
def site(folder: Path) -> Iterator[Site]:
    site = Site(folder)
    yield site
    site.close()


def states(browser: Page) -> dict[str, Any]:
    """Of each backdrop: whether it moves, and what its button says; empty where it is hidden."""

    found: dict[str, Any] = json.loads(str(browser.evaluate(STATES)))
    return found


def until(browser: Page, holds: Callable[[dict[str, Any]], bool]) -> dict[str, Any]:
    """The states as soon as something holds, or the last ones seen."""
    end = time.monotonic() + 8
    while not holds(now := states(browser)) and time.monotonic() < end:
        time.sleep(0.1)
    return now


def moving(*names: str) -> Callable[[dict[str, Any]], bool]:
    """Whether just those move, and each button that is shown says so."""

    def holds(now: dict[str, Any]) -> bool:
        told = all(one["moves"] == one["label"].startswith(STOPS) for one in now.values())
        return told and {name for name, one in now.items() if one["moves"]} == set(names)

    return holds


def opened(browser: Page, site: Site, page: str) -> dict[str, Any]:
    """A page without anybody's earlier choice; all of it moves after a moment."""
    browser.open(f"{site.address}/{page}", 1200, 800)
    browser.evaluate("sessionStorage.clear()")
    browser.open(f"{site.address}/{page}", 1200, 800)
    return until(browser, moving("wheel", "water", "far"))


def click(browser: Page, name: str) -> None:
    browser.evaluate(f"document.querySelector('.{name} [data-moving-button]').click()")


@pytest.mark.parametrize("page", ["pasted.html", "late.html", "try-it.html"])
def test_each_button_stops_and_starts_its_own(browser: Page, site: Site, page: str) -> None:
    now = opened(browser, site, page)
    assert moving("wheel", "water", "far")(now), now
    click(browser, "water")
    now = until(browser, moving("wheel", "far"))
    assert moving("wheel", "far")(now), now
    assert now["water"]["label"] == "Let the water run"
    assert now["wheel"]["label"] == "Pause the moving background"
    click(browser, "far")
    now = until(browser, moving("wheel"))
    assert moving("wheel")(now), now
    assert now["far"]["label"] == "Show the moving background"
    click(browser, "water")
    now = until(browser, moving("wheel", "water"))
    assert moving("wheel", "water")(now), now
    assert now["water"]["label"] == "Stop the water"


def test_each_choice_is_kept_for_itself(browser: Page, site: Site) -> None:
    opened(browser, site, "pasted.html")
    click(browser, "wheel")
    until(browser, moving("water", "far"))
    browser.open(f"{site.address}/pasted.html", 1200, 800)
    now = until(browser, moving("water", "far"))
    assert moving("water", "far")(now), now
    time.sleep(0.5)
    assert moving("water", "far")(states(browser)), "it does not start later either"


@pytest.mark.parametrize("key", [Keys.SPACE, Keys.ENTER])
def test_keys_press_each_button(browser: Page, site: Site, key: str) -> None:
    opened(browser, site, "pasted.html")
    if not browser.evaluate("document.hasFocus()"):
        pytest.skip("this browser's window, which nobody sees, has no focus: keys press no button")
    browser.press(Keys.TAB)
    browser.press(Keys.TAB, key)
    now = until(browser, moving("wheel", "far"))
    assert moving("wheel", "far")(now), now
    browser.press(key)
    assert moving("wheel", "water", "far")(until(browser, moving("wheel", "water", "far")))


def test_a_button_that_another_script_put_in_place_of_ours_works(browser: Page, site: Site) -> None:
    opened(browser, site, "pasted.html")
    browser.evaluate(
        "document.querySelectorAll('[data-moving-button]').forEach("
        "(one) => one.replaceWith(one.cloneNode(true)))"
    )
    click(browser, "wheel")
    now = until(browser, moving("water", "far"))
    assert moving("water", "far")(now), now
    assert now["wheel"]["label"] == "Play the moving background"


def test_what_is_out_of_view_rests(browser: Page, site: Site) -> None:
    opened(browser, site, "pasted.html")
    browser.evaluate(
        "document.querySelector('.water')"
        ".insertAdjacentHTML('beforebegin', '<p style=height:3000px>')"
    )
    now = until(browser, lambda now: not now["water"]["moves"])
    assert now["wheel"]["moves"]
    assert not now["water"]["moves"]
    browser.evaluate("scrollTo(0, 3300)")
    now = until(browser, lambda now: bool(now["water"]["moves"]))
    assert now["water"]["moves"]
    assert not now["wheel"]["moves"]


def test_a_page_that_comes_back_moves_as_it_did(browser: Page, site: Site) -> None:
    """From the cache of whole pages, or loaded anew: each as it was left."""
    opened(browser, site, "pasted.html")
    click(browser, "wheel")
    until(browser, moving("water", "far"))
    browser.evaluate("location.assign('paste.html'), 1")
    end = time.monotonic() + 8
    while "paste.html" not in str(browser.evaluate("location.href")) and time.monotonic() < end:
        time.sleep(0.1)
    browser.evaluate("history.back(), 1")
    while "pasted" not in str(browser.evaluate("location.href")) and time.monotonic() < end:
        time.sleep(0.1)
    now = until(browser, moving("water", "far"))
    assert moving("water", "far")(now), now
    click(browser, "wheel")
    assert moving("wheel", "water", "far")(until(browser, moving("wheel", "water", "far")))


@pytest.fixture(scope="module")
def chromium() -> Iterator[Browser]:
    """What only this browser lets us ask for."""
    if not (CHROMIUM and DRIVER):
        pytest.skip("no Chromium with chromedriver here")
    browser = Browser()
    yield browser
    browser.close()


def test_a_screen_reader_is_told_of_each_button(chromium: Browser, site: Site) -> None:
    opened(chromium, site, "pasted.html")
    click(chromium, "water")
    until(chromium, moving("wheel", "far"))
    nodes = chromium.driver.execute_cdp_cmd("Accessibility.getFullAXTree", {})["nodes"]
    told = [
        (node["role"]["value"], node["name"]["value"])
        for node in nodes
        if not node["ignored"] and node.get("name", {}).get("value")
    ]
    assert [name for role, name in told if role == "button"] == [
        "Pause the moving background", "Let the water run", "Stop the moving background",
    ]  # fmt: skip
    assert not any(node["role"]["value"] == "Video" for node in nodes if not node["ignored"])


@pytest.mark.parametrize("asked", ["less motion", "less data"])
def test_who_asked_for_less_gets_stills_alone(chromium: Browser, site: Site, asked: str) -> None:
    saving = chromium.before_pages(
        "Object.defineProperty(navigator.connection, 'saveData', {get: () => %s});"
        % ("true" if asked == "less data" else "false")
    )
    if asked == "less motion":
        chromium.prefers(reduced_motion="reduce")
    try:
        chromium.open("about:blank", 1200, 800)
        time.sleep(0.5)  # for what an earlier page still asks for
        site.requested.clear()
        chromium.open(f"{site.address}/pasted.html", 1200, 800)
        time.sleep(1.5)
        now = states(chromium)
        assert moving()(now), now
        assert {one["label"] for one in now.values()} == {""}
        assert site.clips() == []
    finally:
        chromium.prefers()
        chromium.undo(saving)


def test_a_phone_on_its_side_asks_no_other_host(chromium: Browser, site: Site) -> None:
    """It is wider than 800 px, and a phone all the same."""
    chromium.open("about:blank", 932, 430)
    time.sleep(0.5)
    site.requested.clear()
    chromium.open(f"{site.address}/pasted.html", 932, 430, 3)
    time.sleep(1.5)
    assert moving()(states(chromium))
    assert site.clips() == []
