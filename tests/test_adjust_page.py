"""The page in real browsers: what is dragged is followed, proved, written, drafted, undone."""

from __future__ import annotations

import json
import shutil
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.common.keys import Keys

from brightcanvas.adjusting.server import AdjustServer
from brightcanvas.adjusting.session import Session, started
from brightcanvas.browsers.webkit import NEEDED, is_here, webkit_window
from brightcanvas.commands.adjust import opened
from brightcanvas.values.files import LARGEST_SOURCE

from .browsing import CHROMIUM, DRIVER, Browser
from .conftest import Demo, call, wait, write_brief
from .firefox_driver import FirefoxPage
from .test_firefox import FIREFOX

pytestmark = [pytest.mark.browser, pytest.mark.slow]
CHROMIUM_IS_HERE = pytest.mark.skipif(
    not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here"
)


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    browser = Browser()
    yield browser
    browser.close()


# The page itself


@dataclass(frozen=True)
class Page:
    """A brief that is being adjusted."""

    brief: Path
    address: str

    @property
    def text(self) -> str:
        return self.brief.read_text("utf-8")


@pytest.fixture
def adjusted() -> Iterator[Callable[[Path], Page]]:
    """Serves the page of a brief."""
    stop, open_ = threading.Event(), []

    def serve(brief: Path) -> Page:
        session = Session(brief, LARGEST_SOURCE)
        server = AdjustServer(session)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        open_.append((session, server, started(session, stop)))
        return Page(brief, server.address)

    yield serve
    stop.set()
    for session, server, threads in open_:
        server.shutdown()
        server.server_close()
        for one in threads:
            one.join(60)
        session.close()


@pytest.fixture
def mill(demo: Demo, tmp_path: Path, adjusted: Callable[[Path], Page]) -> Page:
    """The demo's page, on a copy of it."""
    folder = tmp_path / "mill"
    shutil.copytree(demo.folder, folder)
    return adjusted(folder / "brief.toml")


READY = "document.querySelectorAll('.tile').length > 20"
SUBJECT = "document.querySelector('.source .subject').getBoundingClientRect().toJSON()"
COPY = """((one) => (one.scrollIntoView({ block: "center" }),
  one.getBoundingClientRect().toJSON()))(document.querySelector(".part .tile .copy"))"""
UNDO = "[...document.querySelectorAll('.bar button')].find(one => one.textContent === 'Undo')"
VERDICT = "document.querySelector('.first .card:last-child .verdict')?.textContent"


@CHROMIUM_IS_HERE
def test_the_key_is_no_argument_of_the_browser(
    browser: Browser, mill: Page, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another user sees what programs are started with: the way there is a file of one's own."""
    asked: list[str] = []
    monkeypatch.setattr("webbrowser.open", asked.append)
    with opened(mill.address, wanted=True):
        (url,) = asked
        assert urlsplit(mill.address).path.strip("/") not in url
        way = Path(url.removeprefix("file://"))
        assert way.stat().st_mode & 0o077 == 0
        browser.open(url, 1280, 800)
        wait(lambda: browser.evaluate("location.protocol") == "http:")
        wait(lambda: browser.evaluate(READY))
    assert not way.exists()


def middle(box: Any) -> tuple[float, float]:
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(browser: Browser, begin: tuple[float, float], *ways: tuple[float, float]) -> None:
    """Press at a place of the viewport, move, let go: by no element, as the page may build anew."""
    actions = ActionBuilder(browser.driver, duration=20)
    pointer: Any = actions.pointer_action
    x, y = begin
    pointer.move_to_location(round(x), round(y)).pointer_down()
    for across, down in ways:
        x, y = x + across, y + down
        pointer.move_to_location(round(x), round(y))
    pointer.pointer_up()
    actions.perform()


def differing(before: str, after: str) -> list[tuple[str, str]]:
    pairs = zip(before.splitlines(), after.splitlines(), strict=True)
    return [(one, other) for one, other in pairs if one != other]


@CHROMIUM_IS_HERE
def test_a_subject_is_dragged_written_drafted_and_undone(browser: Browser, mill: Page) -> None:
    before = mill.text
    browser.open(mill.address, 1280, 800)
    wait(lambda: browser.evaluate(READY))
    box: Any = browser.evaluate(SUBJECT)
    drag(browser, middle(box), *[(-5, 2)] * 10)
    wait(lambda: mill.text != before)
    [(was, now)] = differing(before, mill.text)
    assert was == "subject = { box = [0.66, 0.25, 0.76, 0.46] }"
    moved: Any = browser.evaluate(SUBJECT)
    assert moved["x"] == pytest.approx(box["x"] - 50, abs=1.5)
    edges = json.loads(now.partition("box = ")[2].rstrip("} "))
    source: Any = browser.evaluate(SUBJECT.replace(" .subject", ""))
    assert edges[0] == pytest.approx(0.66 - 50 / source["width"], abs=0.002)
    assert edges[1] == pytest.approx(0.25 + 20 / source["height"], abs=0.002)
    wait(lambda: browser.evaluate("document.querySelectorAll('.tile.drafted').length > 10"))
    browser.evaluate(f"{UNDO}.click()")
    wait(lambda: mill.text == before)
    assert browser.console() == []


@CHROMIUM_IS_HERE
def test_keys_move_it_too_and_say_where_it_is(browser: Browser, mill: Page) -> None:
    browser.open(mill.address, 1280, 800)
    wait(lambda: browser.evaluate(READY))
    browser.evaluate("document.querySelector('.source .subject').focus()")
    browser.press(Keys.ARROW_LEFT)
    wait(lambda: "0.655, 0.25, 0.755, 0.46" in mill.text)
    wait(lambda: browser.evaluate("document.activeElement.className") == "subject")
    label = browser.evaluate("document.activeElement.getAttribute('aria-label')")
    assert label == "Subject 1: left 65.5 %, top 25.0 %, right 75.5 %, bottom 46.0 %"
    driver = browser.driver
    held = ActionChains(driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN).key_up(Keys.SHIFT)
    held.perform()
    wait(lambda: "0.655, 0.25, 0.755, 0.465" in mill.text)


@CHROMIUM_IS_HERE
def test_copy_that_is_dragged_onto_the_subject_breaks_a_promise(
    browser: Browser, mill: Page
) -> None:
    before = mill.text
    browser.open(mill.address, 1280, 800)
    wait(lambda: browser.evaluate(READY))
    assert browser.evaluate(VERDICT) == "No promise is broken"

    def dragged() -> bool:
        """The page may have been built anew, with everything at another place, meanwhile."""
        drag(browser, middle(browser.evaluate(COPY)), (50, 0), (52, -4))
        time.sleep(1.5)
        return mill.text != before

    wait(dragged)
    wait(lambda: "broken" in str(browser.evaluate(VERDICT)))
    wait(lambda: browser.evaluate("document.querySelectorAll('.tile.covered, .tile.lost').length"))
    browser.evaluate(f"{UNDO}.click()")
    wait(lambda: mill.text == before)
    wait(lambda: browser.evaluate(VERDICT) == "No promise is broken")


@CHROMIUM_IS_HERE
def test_what_an_editor_writes_is_shown_and_a_mistake_is_told(browser: Browser, mill: Page) -> None:
    browser.open(mill.address, 1280, 800)
    wait(lambda: browser.evaluate(READY))
    text = mill.text
    mill.brief.write_text(text.replace("[0.66, 0.25, 0.76, 0.46]", "[0.6, 0.25, 0.7, 0.46]"))
    value = "document.querySelector('[aria-label=\"Subject: left, percent\"]').value"
    wait(lambda: browser.evaluate(value) == "60.0")
    mill.brief.write_text("[[backdrop")
    told = "document.querySelector('.told').textContent"
    wait(lambda: "not valid TOML" in str(browser.evaluate(told)))
    mill.brief.write_text(text)
    wait(lambda: browser.evaluate(value) == "66.0")


MARK = (230, 0, 0)
MARKED = """\
[[backdrop]]
name = "marked"
source = "marked.png"
element = ".a"
height = "400px"
subject = { box = [0.45, 0.4, 0.5, 0.5] }
"""


def marked(folder: Path) -> Path:
    """A grey picture with a red box, which is its subject."""
    pixels = np.full((800, 1200, 3), 120, np.uint8)
    pixels[320:400, 540:600] = MARK
    Image.fromarray(pixels).save(folder / "marked.png")
    return write_brief(folder, MARKED)


def red_in(shot: NDArray[np.uint8], place: Any) -> float:
    """The share of a place (CSS px of the viewport) that is as red as the mark."""
    left, top = round(place["x"]), round(place["y"])
    part = shot[top : top + round(place["height"]), left : left + round(place["width"])]
    near = np.abs(part.astype(int) - MARK).max(2) < 60
    return float(near.mean())


PLACES = """[...document.querySelectorAll('.part .tile')].map((one) => ({
  mark: one.querySelector('.mark').getBoundingClientRect().toJSON(),
  tile: one.getBoundingClientRect().toJSON() }))"""


@CHROMIUM_IS_HERE
def test_every_tile_shows_the_subject_where_its_mark_is(
    browser: Browser, tmp_path: Path, adjusted: Callable[[Path], Page]
) -> None:
    """By the reduced source while nothing is built yet, and by the draft's own files."""
    page = adjusted(marked(tmp_path))
    browser.open(page.address, 1280, 4000)
    wait(lambda: browser.evaluate("document.querySelectorAll('.part .tile').length > 20"))
    for drafted in (False, True):
        if drafted:
            wait(lambda: browser.evaluate("document.querySelectorAll('.tile.drafted').length > 20"))
        wait(lambda: marks_are_red(browser))


def marks_are_red(browser: Browser) -> bool:
    """Of all tiles in the viewport, once nothing moves any more."""
    before: Any = browser.evaluate(PLACES)
    shot = browser.settled()
    seen = [one for one in before if one["tile"]["bottom"] < 4000]
    # Marks are a few px large, and their outer ones are mixed with what is beside them.
    are_red = all(red_in(shot, one["mark"]) > 0.5 for one in seen)
    return len(seen) > 15 and are_red and before == browser.evaluate(PLACES)


@pytest.mark.skipif(not FIREFOX, reason="no Firefox here")
def test_firefox_drags_writes_and_undoes(mill: Page) -> None:
    before = mill.text
    firefox = FirefoxPage(str(FIREFOX), 1280, 800)
    try:
        firefox.open(mill.address)
        wait(lambda: firefox.evaluate(READY))
        box = firefox.evaluate(SUBJECT)
        firefox.drag(middle(box), (-40, 10))
        wait(lambda: mill.text != before)
        [(was, now)] = differing(before, mill.text)
        assert was == "subject = { box = [0.66, 0.25, 0.76, 0.46] }"
        assert now.startswith("subject = { box = [0.5")
        moved = firefox.evaluate(SUBJECT)
        assert moved["x"] == pytest.approx(box["x"] - 40, abs=1.5)
        wait(lambda: firefox.evaluate("document.querySelectorAll('.tile.drafted').length > 10"))
        firefox.evaluate(f"{UNDO}.click()")
        wait(lambda: mill.text == before)
        assert firefox.screenshot().std() > 20
    finally:
        firefox.close()


@pytest.mark.skipif(not is_here(), reason=f"no WebKit here: it needs Debian's {NEEDED}")
def test_webkit_shows_it(mill: Page) -> None:
    script = """({ tiles: document.querySelectorAll('.tile').length,
      verdict: document.querySelector('.first .card:last-child .verdict')?.textContent,
      told: document.querySelector('.told')?.textContent })"""

    with webkit_window() as view:
        view.open(mill.address)

        def shown() -> Any:
            told = view.evaluate(script)
            return told if told.get("tiles", 0) > 20 and told["verdict"] else None

        told = wait(shown, patience=90)
    assert (told["verdict"], told["told"]) == ("No promise is broken", "")


@CHROMIUM_IS_HERE
@pytest.mark.parametrize("width", [390, 1280])
def test_the_proof_opens_from_the_disk_and_fits(demo: Demo, browser: Browser, width: int) -> None:
    assert call("sheet", demo.folder / "brief.toml").status == 0
    browser.open((demo.folder / "proof/proof.html").as_uri(), width, 800)
    assert browser.evaluate("document.querySelectorAll('.tile').length > 100")
    assert browser.evaluate("document.documentElement.scrollWidth") == width
    assert browser.console() == []


def choose(browser: Browser, says: str) -> None:
    """A button, when it is there and may be pressed."""
    find = f"[...document.querySelectorAll('button')].find((one) => one.textContent === '{says}')"
    wait(
        lambda: browser.evaluate(f"((one) => one && !one.disabled && (one.click(), true))({find})")
    )


@CHROMIUM_IS_HERE
def test_choices_for_a_breakpoint_are_written_and_taken_out_again(
    browser: Browser, mill: Page
) -> None:
    before = mill.text
    browser.open(mill.address, 1280, 800)
    wait(lambda: browser.evaluate(READY))
    choose(browser, "bakery")
    wait(lambda: browser.evaluate("document.querySelectorAll('.subject').length") == 0)
    choose(browser, "Suggest")
    choose(browser, "Take it")
    wait(lambda: mill.text.count("subject = ") == before.count("subject = ") + 1)
    choose(browser, "Undo")
    wait(lambda: mill.text == before)
    choose(browser, "midsize")
    choose(browser, "The colour alone")
    wait(lambda: "[backdrop.at.midsize]\nplain = true\n" in mill.text)
    choose(browser, "as above again")
    wait(lambda: "plain = true" not in mill.text.partition("woven-reed")[0])
    choose(browser, "turning-sails")
    wait(lambda: browser.evaluate("document.querySelectorAll('.stills img').length > 2"))
    choose(browser, "desk and all below")
    wait(lambda: browser.evaluate("document.querySelectorAll('.stills img').length > 2"))
    third = "document.querySelectorAll('.stills button')[2]"
    wait(lambda: browser.evaluate(f"((one) => one && (one.click(), true))({third})"))
    wait(lambda: "poster_at = " in mill.text)
    assert browser.console() == []


PRESS = """((number) => {
  const one = [...document.querySelectorAll("button, select, summary, input")][number];
  if (!one || one.closest("[inert]")) return "nothing";
  if (one.tagName === "SELECT") {
    one.selectedIndex = (one.selectedIndex + 1) % one.length;
    one.dispatchEvent(new Event("change", { bubbles: true }));
  } else one.click();
  return one.textContent.slice(0, 30);
})"""


@CHROMIUM_IS_HERE
def test_every_button_may_be_pressed(browser: Browser, mill: Page) -> None:
    """One after the other, and again, without waiting for what the one before does."""
    browser.open(mill.address, 1280, 800)
    pressed = []
    for number in range(120):  # from the first moment on, before anything is there
        told = browser.evaluate(f"{PRESS}({number % 60})")
        pressed.append(told)
        time.sleep(0.05)
    wait(lambda: browser.evaluate(READY))
    pressed += [browser.evaluate(f"{PRESS}({number})") for number in range(150)]
    time.sleep(2)
    errors = [one for one in browser.console() if "TypeError" in one or "Uncaught" in one]
    assert errors == [], pressed
    assert len(set(pressed)) > 15
