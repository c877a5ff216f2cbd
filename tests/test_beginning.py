"""A brief drafted from a page, built untouched, put into a copy: the same page, only lighter."""

from __future__ import annotations

import hashlib
import json
import subprocess
import tomllib
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from brightcanvas.adjusting.session import Session
from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.css.backgrounds import Layer
from brightcanvas.drafting.own_rules import KeptError, SeenRule, rule_of, stretches_of
from brightcanvas.page.folder import folder_of
from brightcanvas.serving.opened_page import hosted
from brightcanvas.serving.page_server import served
from brightcanvas.values.environments import TOUCHED, Environment
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.geometry import Point, Size

from .browsing import CHROMIUM, DRIVER
from .built_pages import PICTURES, write_page
from .conftest import call
from .mill_pages import picture
from .test_firefox import FIREFOX

needs_chromium = pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium here")
needs_firefox = pytest.mark.skipif(not FIREFOX, reason="no Firefox here")

WINDOWS = (
    *(Environment(*one, TOUCHED) for one in ((390, 844, 3), (844, 390, 3), (820, 1180, 2))),
    *(Environment(*one) for one in ((767, 1024), (768, 1024), (1440, 900), (1512, 945, 2))),
)  # fmt: skip


@dataclass(frozen=True)
class Begun:
    """A page of a building system with its drafted brief, built, and its copy."""

    name: str
    page: Path
    after: Path
    brief: Path
    elements: tuple[str, ...]
    inserted: dict[str, Any]


@pytest.fixture(scope="module", params=sorted(PICTURES))
def begun(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Begun:
    folder = tmp_path_factory.mktemp("begun")
    page = write_page(request.param, folder / "site")
    brief = folder / "brief" / "brief.toml"
    brief.parent.mkdir()
    began = call("begin", page, brief)
    assert began.status == ExitStatus.ALL_WELL, began.err
    built = call("build", brief)
    assert built.status == ExitStatus.ALL_WELL, built.out
    ran = call("insert", page, brief, "--into", folder / "after", "--json")
    assert ran.status == ExitStatus.ALL_WELL, ran.out + ran.err
    elements = tuple(one["element"] for one in tomllib.loads(brief.read_text())["backdrop"])
    after = folder / "after" / "index.html"
    return Begun(request.param, page, after, brief, elements, ran.facts["pages"][0])


@needs_chromium
def test_the_page_s_own_rules_are_drafted(begun: Begun) -> None:
    """Its breakpoints, the largest file of each picture, its positions; no height, no scrim."""
    brief = tomllib.loads(begun.brief.read_text("utf-8"))
    expected: dict[str, tuple[list[int], list[tuple[str, list[float]]]]] = {
        "sections": ([768, 1025], [("mill.jpg", [0.5, 0.5]), ("bakery.jpg", [0, 0])]),
        "blocks": ([782], [("mill.jpg", [0.5, 0.5])]),
        "bands": ([901], [("fen-large.jpg", [0.5, 0.5])]),
    }
    cuts = [one["below"] for one in brief["breakpoint"] if "below" in one]
    found = [(Path(one["source"]).name, one["position"]) for one in brief["backdrop"]]
    assert (cuts, found) == expected[begun.name]
    assert all(one["replaces"] == "picture" for one in brief["backdrop"])
    assert not any({"height", "scrim", "subject"} & one.keys() for one in brief["backdrop"])
    if begun.name == "sections":  # as its own rule for phones has it
        assert brief["backdrop"][0]["at"]["handheld"] == {"position": [0.7, 0.5]}


@needs_chromium
def test_nothing_is_seen_to_differ(begun: Begun) -> None:
    """Tone, framing, boxes, copy, files and console, on four kinds of screen."""
    assert begun.inserted["differences"] == []
    assert len(begun.inserted["looked_at"]) == 4
    sheet = (begun.after.parent / "backdrops" / "backdrops.css").read_text("utf-8")
    properties = {line.strip().partition(":")[0] for line in sheet.splitlines() if ": " in line}
    assert properties - {"@media (min-width", "@media (max-width", "@supports (width"} == {
        "background-image"
    }, "the rest of its rule is the page's"


def _pictures(asked: Iterable[str]) -> list[str]:
    paths = [one.lstrip("/") for one in asked]
    return [one for one in paths if one.endswith((".avif", ".jpg", ".png", ".webp"))]


def _are_ours_alone(begun: Begun, pictures: list[str]) -> None:
    """One file of ours for each backdrop, and nothing of what was there before."""
    assert len(pictures) == len(set(pictures)) == len(begun.elements), pictures
    assert all(one.startswith("backdrops/") for one in pictures), pictures


@needs_chromium
def test_one_file_for_each_backdrop_in_chromium(begun: Begun) -> None:
    """Phones and tablets are emulated: they judge what stands before a viewport tag otherwise.

    A browser that is driven may be made to lay a page out while sheets are on their way, and then
    fetches what they override, so that one of six loads has to show it.
    """
    old = set(PICTURES[begun.name])
    with chromium_window() as window:
        for environment in WINDOWS:
            for _ in range(6):
                with hosted(folder_of(begun.after), window) as host:
                    window.resize(environment)
                    host.show(window)
                    window.evaluate("new Promise((done) => setTimeout(done, 300))")
                    pictures = _pictures(host.asked())
                if pictures and not old & set(pictures):
                    break
            _are_ours_alone(begun, pictures)


@needs_chromium
@needs_firefox
@pytest.mark.parametrize("width", [600, 1440])
def test_one_file_for_each_backdrop_in_firefox(begun: Begun, width: int, tmp_path: Path) -> None:
    """By itself: driven, it lays pages out before all of their sheets are there."""
    with served(folder_of(begun.after)) as host:
        subprocess.run(
            [str(FIREFOX), "--headless", "--no-remote", "--profile", str(tmp_path),
             "--window-size", f"{width},900", "--screenshot", str(tmp_path / "seen.png"),
             f"{host.address}/index.html"],
            check=True, capture_output=True, timeout=120,
        )  # fmt: skip
        _are_ours_alone(begun, _pictures(one.path for one in host.taken()))


@needs_chromium
def test_the_copy_of_the_page_weighs_less(begun: Begun) -> None:
    screens = begun.inserted["screens"]
    assert len(screens) == 7
    for one in screens[:2]:
        most = (
            0.8 if begun.name == "bands" else 0.5
        )  # it has no viewport tag: phones are 980 px wide
        assert one["after"]["bytes"] < most * one["before"]["bytes"]
        for line, wait in one["after"]["first_view"].items():
            assert wait <= one["before"]["first_view"][line]


@needs_chromium
def test_the_page_itself_is_not_changed(begun: Begun, tmp_path: Path) -> None:
    fresh = write_page(begun.name, tmp_path / "fresh").parent
    for path in fresh.rglob("*"):
        if path.is_file():
            assert (begun.page.parent / path.relative_to(fresh)).read_bytes() == path.read_bytes()
    kept = {one.relative_to(begun.page.parent) for one in begun.page.parent.rglob("*")}
    assert kept == {one.relative_to(fresh) for one in fresh.rglob("*")}


@needs_chromium
def test_adjusting_shows_the_measured_boxes(begun: Begun) -> None:
    session = Session(begun.brief, 120)
    try:
        name = session.state()["backdrops"][0]["name"]
        view = session.scene(name)["views"][0]
    finally:
        session.close()
    columns = dict(view["element"]["boxes"])
    assert dict(columns[390])[844][0] == 390


@needs_chromium
def test_a_page_that_has_changed_is_told_first(begun: Begun) -> None:
    text = begun.page.read_text("utf-8")
    try:
        begun.page.write_text(text + "<!-- changed -->", "utf-8")
        for command in (("build", begun.brief), ("plan", begun.brief),
                        ("hits", begun.page, begun.brief)):  # fmt: skip
            told = call(*command).out
            assert told.startswith("The page has changed since it was measured"), told
        assert call("measure", begun.page, begun.brief).status == ExitStatus.ALL_WELL
        assert "has changed" not in call("build", begun.brief).out
    finally:
        begun.page.write_text(text, "utf-8")


def _layer(**said: str) -> Layer:
    usual = {"image": 'url("mill.jpg")', "size": "cover", "position": "50% 50%",
             "repeat": "repeat", "attachment": "scroll"}  # fmt: skip
    return Layer(**(usual | said))


def _source(url: str) -> tuple[Path, Size]:
    return Path(url), Size(2000, 1000)


BOX = Size(1440, 600)


@pytest.mark.parametrize(
    ("layer", "size", "position"),
    [
        (_layer(position="70% 50%"), "cover", Point(0.7, 0.5)),
        (_layer(position="right"), "cover", Point(1.0, 0.5)),
        (_layer(position="top"), "cover", Point(0.5, 0.0)),
        (_layer(position="bottom right"), "cover", Point(1.0, 1.0)),
        (_layer(position="calc(50% - 10px) 50%"), "cover", None),
        (_layer(position="120% 50%"), "cover", None),
        (_layer(size="contain", repeat="no-repeat"), "contain", None),
        (_layer(size="auto", repeat="no-repeat"), "2000px", None),
        (_layer(size="auto"), "2000px", None),
        (_layer(size="900px", repeat="no-repeat"), "900px", None),
    ],
)  # fmt: skip
def test_the_page_s_own_rule_is_read(layer: Layer, size: str, position: Point | None) -> None:
    rule = rule_of([layer], BOX, _source)
    assert (rule.size, rule.position, rule.layers) == (size, position, "picture")


@pytest.mark.parametrize(
    ("layers", "why"),
    [
        ([_layer(), _layer()], "2 pictures"),
        ([_layer(size="100% 100%")], "background-size is 100% 100%"),
        ([_layer(size="300px")], "a repeated tile"),
        ([_layer(size="contain")], "a repeated tile"),
    ],
)
def test_what_can_t_be_kept_is_refused_with_the_reason(layers: list[Layer], why: str) -> None:
    with pytest.raises(KeptError, match=why):
        rule_of(layers, BOX, _source)


def _seen(width: float, height: float, **said: str) -> SeenRule:
    return SeenRule(Size(width, height), rule_of([_layer(**said)], BOX, _source))


def test_a_rule_changes_where_the_page_changes_it() -> None:
    seen = [_seen(width, height, position="70% 50%" if width < 768 else "50% 50%")
            for width in (390, 767, 768, 1440) for height in (640, 900)]  # fmt: skip
    found = stretches_of(seen)
    assert [(one.low, one.rule.position) for one in found] == [
        (0.0, Point(0.7, 0.5)), (768, Point(0.5, 0.5)),
    ]  # fmt: skip
    by_height = [_seen(1440, height, position=f"{height / 20}% 50%") for height in (640, 900)]
    assert stretches_of(by_height)[0].rule.position is None, "all of the picture serves both"
    veils = [f"linear-gradient({one}, {one})" for one in ("red", "blue")]
    layered = [
        SeenRule(Size(1440, height), rule_of([_layer(image=veil), _layer()], BOX, _source))
        for veil, height in zip(veils, (640, 900), strict=True)
    ]
    with pytest.raises(KeptError, match="window's height"):
        stretches_of(layered)


@pytest.mark.slow
def _refuse_what_a_folder_says_of_itself(folder: Path, page: Path, brief: Path) -> None:
    """A record that lies in the folder itself is believed by nobody, and no path climbs unseen."""
    own = folder / "own"
    (own / ".bright-canvas").mkdir(parents=True)
    (own / "index.html").write_text("mine", "utf-8")
    digest = hashlib.sha256(b"mine").hexdigest()
    for name in ("copied.json", "copies.json", "outputs.json"):
        (own / ".bright-canvas" / name).write_text(json.dumps({"index.html": digest}), "utf-8")
    for into in (own, own / "missing" / ".."):
        ran = call("insert", page, brief, "--into", into, "--browser", "none")
        assert (ran.status, "holds other files" in ran.err) == (2, True)
    assert (own / "index.html").read_text("utf-8") == "mine"


def test_a_copy_that_somebody_changed_is_left_alone(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = write_page("blocks", tmp_path / "site")
    brief = tmp_path / "brief/brief.toml"
    brief.parent.mkdir()
    assert call("begin", page, brief, "--browser", "none").status == 0
    into, blind = tmp_path / "after", ("--browser", "none")
    assert call("insert", page, brief, "--into", into, *blind).status == 0
    monkeypatch.chdir(tmp_path)
    assert call("insert", page, brief, "--into", "after", *blind).status == 0, (
        "its own copy is in the way"
    )
    _refuse_what_a_folder_says_of_itself(tmp_path, page, brief)
    (into / "index.html").write_text("mine", "utf-8")
    ran = call("insert", page, brief, "--into", into, *blind)
    assert (ran.status, (into / "index.html").read_text("utf-8")) == (2, "mine")
    assert "was changed since it was copied" in ran.err
    text = page.read_text("utf-8")
    page.write_bytes(text.replace("\n", "\r\n").encode())
    assert call("insert", page, brief, "--into", tmp_path / "ends", *blind).status == 0
    kept = (tmp_path / "ends/index.html").read_bytes()
    assert kept.count(b"\r\n") == kept.count(b"\n") > 10
    page.write_bytes(text.replace("bed", "b\xe9d").encode("latin-1"))
    ran = call("insert", page, brief, "--into", tmp_path / "latin", *blind)
    assert (ran.status, "bytes that are no UTF-8" in ran.err) == (2, True)
    other = call("insert", page, brief, "--into", tmp_path / "site", *blind)
    assert (other.status, "holds other files" in other.err) == (2, True)


def test_no_brief_is_overwritten(tmp_path: Path) -> None:
    page = write_page("bands", tmp_path / "site")
    brief = tmp_path / "brief.toml"
    brief.write_text("mine", "utf-8")
    ran = call("begin", page, brief, "--browser", "none")
    assert ran.status == ExitStatus.BRIEF_WRONG
    assert "is there already, and is not overwritten" in ran.err
    assert brief.read_text("utf-8") == "mine"
    assert not (tmp_path / "subjects.png").exists()


def test_without_a_browser_heights_are_guessed(tmp_path: Path) -> None:
    page = write_page("blocks", tmp_path / "site")
    ran = call("begin", page, tmp_path / "brief.toml", "--browser", "none")
    assert ran.status == ExitStatus.ALL_WELL
    assert "no browser: boxes are guessed" in ran.out
    (backdrop,) = tomllib.loads((tmp_path / "brief.toml").read_text("utf-8"))["backdrop"]
    assert backdrop["height"] == "900px"
    assert not {"measured", "position"} & backdrop.keys(), "a guess cuts nothing off"
    assert call("plan", tmp_path / "brief.toml").status in (0, 1)


def test_a_page_named_by_its_address_brings_its_sources(tmp_path: Path) -> None:
    page = write_page("bands", tmp_path / "site")
    brief = tmp_path / "brief/brief.toml"
    brief.parent.mkdir()
    with served(folder_of(page)) as host:
        ran = call("begin", f"{host.address}/index.html", brief, "--browser", "none")
    assert ran.status == ExitStatus.ALL_WELL, ran.err
    (backdrop,) = tomllib.loads(brief.read_text("utf-8"))["backdrop"]
    assert backdrop["source"] == "sources/fen-large.jpg"
    original = (page.parent / "pictures/fen-large.jpg").read_bytes()
    assert (brief.parent / backdrop["source"]).read_bytes() == original
    assert call("plan", brief).status in (0, 1)


def test_a_drawing_stays_as_it_is(tmp_path: Path) -> None:
    drawing = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1200 500"><rect x="700" y="90"'
    (tmp_path / "fen.svg").write_text(f'{drawing} width="200" height="300"/></svg>', "utf-8")
    page = tmp_path / "index.html"
    page.write_text(
        "<!doctype html><style>.hero { height: 300px; background: url(fen.svg) 50% / cover }"
        "</style><div class=hero>x</div>", "utf-8",
    )  # fmt: skip
    ran = call("begin", page, tmp_path / "brief.toml", "--browser", "none")
    assert (ran.status, "fen.svg is a drawing" in ran.err) == (ExitStatus.BRIEF_WRONG, True)


def test_a_page_without_backdrops_is_told(tmp_path: Path) -> None:
    page = tmp_path / "index.html"
    page.write_text("<!doctype html><p>Flour", "utf-8")
    ran = call("begin", page, tmp_path / "brief.toml", "--browser", "none")
    assert ran.status == ExitStatus.BRIEF_WRONG
    assert "No element shows a large picture" in ran.err


def test_names_that_need_care_are_written_as_they_are(tmp_path: Path) -> None:
    """Quotes and spaces in file names, and a title that tries to leave its string."""
    page = tmp_path / "index.html"
    name = "a \"mill\" 'at' dusk.jpg"
    (tmp_path / name).write_bytes(picture(1200, 700, "JPEG"))
    page.write_text(
        '<!doctype html><title>Mill"\n[[x]] \\u0041</title>'
        "<div class='hero' style='background-image:url(\"a %22mill%22 %27at%27 dusk.jpg\");"
        "background-size:cover;height:300px'>Hi</div>",
        "utf-8",
    )
    ran = call("begin", page, tmp_path / "brief.toml", "--browser", "none")
    assert ran.status == ExitStatus.ALL_WELL, ran.err
    brief = tomllib.loads((tmp_path / "brief.toml").read_text("utf-8"))
    assert brief["site"]["title"] == 'Mill" [[x]] \\u0041'
    assert (brief["backdrop"][0]["source"], brief["backdrop"][0]["force"]) == (name, True)
