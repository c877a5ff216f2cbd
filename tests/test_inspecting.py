"""What a page does wrong: one fault planted at a time, each found where it is, and nothing else."""

from __future__ import annotations

from pathlib import Path

import pytest

import brightcanvas
from brightcanvas.values.errors import ExitStatus

from .conftest import call
from .mill_pages import Planted, Site, picture, planted, right

FAULTS = {one.name: one for one in planted()}


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Site:
    return right(tmp_path_factory.mktemp("made"))


def test_a_page_that_does_everything_right_is_silent(site: Site, tmp_path: Path) -> None:
    ran = call("inspect", site.write(tmp_path))
    assert (ran.status, ran.out) == (
        ExitStatus.ALL_WELL, "index.html, on 9 screens: nothing wrong was found.\n",
    )  # fmt: skip


@pytest.mark.parametrize("fault", FAULTS.values(), ids=FAULTS.keys())
def test_a_planted_fault_is_found_and_nothing_else(
    fault: Planted, site: Site, tmp_path: Path
) -> None:
    made = tmp_path / "made"
    made.mkdir()
    page = fault.spoil(site, made).write(tmp_path / "site")
    ran = call("inspect", page, "--json")
    findings = ran.facts["findings"]
    assert [one["fault"] for one in findings] == [fault.fault], findings
    assert ran.status == ExitStatus.PROMISE_BROKEN
    (one,) = findings
    lines = (page.parent / fault.file).read_text("utf-8").splitlines()
    assert one["file"] == fault.file
    assert fault.mark in lines[one["line"] - 1], (one["line"], lines[one["line"] - 1])


def test_the_library_tells_the_same(site: Site, tmp_path: Path) -> None:
    page = FAULTS["fixed on phones"].spoil(site, tmp_path).write(tmp_path / "site")
    (finding,) = brightcanvas.inspect(page).findings
    assert (finding.fault, finding.place.file) == ("fixed on phones", "css/site.css")
    with pytest.raises(ValueError, match="chromium"):
        brightcanvas.inspect(page, browser="nobody")


def _faults(page: Path) -> set[str]:
    return {one["fault"] for one in call("inspect", page, "--json").facts["findings"]}


def _hero(folder: Path, css: str, body: str = '<div class="hero"><h1>Flour</h1></div>') -> Path:
    for name in ("wide", "middle"):
        (folder / f"{name}.jpg").write_bytes(picture(1200, 700, "JPEG"))
    page = folder / "index.html"
    page.write_text(
        '<!doctype html><html lang="en"><meta name="viewport" content="width=device-width">'
        f"<title>Mill</title><style>h1 {{ color: #fff }} {css}</style>{body}", "utf-8",
    )  # fmt: skip
    return page


def test_a_rule_that_wins_between_two_screens_is_no_rule_in_vain(tmp_path: Path) -> None:
    """It shows from 480 to 767 px, where none of the usual screens is."""
    shown = "@media (min-width: 480px) and (max-width: 767px) { .hero { %s url(middle.jpg) } }"
    base = ".hero { min-height: 300px; background: #222 url(wide.jpg) } "
    rule = shown % "background-image:"
    assert "two rules for one element" not in _faults(_hero(tmp_path, base + rule))
    later = _hero(tmp_path, rule.replace(" and (max-width: 767px)", "") + base)
    assert "two rules for one element" in _faults(later), "it loses at every width"


@pytest.mark.parametrize(
    ("veil", "says"),
    [
        ("", "told"),
        ("background: rgba(var(--dark), var(--much))", "nothing"),
        ("background: #000; opacity: 0.7", "nothing"),
        ("background: #000; opacity: 0.15", "told"),
    ],
)
def test_veils_count_for_the_colour_behind(tmp_path: Path, veil: str, says: str) -> None:
    """White letters on a light colour, under what the page itself lays over it."""
    layer = f".hero::before {{ content: ''; position: absolute; inset: 0; {veil} }}" if veil else ""
    css = (
        ":root { --dark: 0, 0, 0; --much: 0.8 } .hero { position: relative; min-height: 300px;"
        f" background: #ddd url(wide.jpg) center / cover }} {layer}"
    )
    is_told = "copy can't be read on the colour" in _faults(_hero(tmp_path, css))
    assert is_told == (says == "told")


GRADIENT = "linear-gradient(rgba(0, 0, 0, %s), #000), url(wide.jpg)"


@pytest.mark.parametrize(
    ("css", "body", "says"),
    [
        (f".hero {{ background: {GRADIENT % 0.1} }}", "<h1>Flour</h1>", "nothing"),
        (".hero { background: #ddd url(wide.jpg) } .hero .veil::after { content: '';"
         " position: absolute; top: 0; left: 0; width: 100%; height: 100%; background: #000b }",
         "<div class=veil></div><h1>Flour</h1>", "nothing"),
        (".hero { background: #ddd url(wide.jpg) } .hero .veil { position: relative }"
         " .hero .veil::after { content: ''; position: absolute; top: 0; left: 0; width: 100%;"
         " height: 100%; background: #000b }", "<div class=veil></div><h1>Flour</h1>", "told"),
        (".hero { background: #ddd url(wide.jpg) } b { color: #fff;"
         " background-image: linear-gradient(#123, #456) }", "<b>Flour</b>", "nothing"),
        (".hero { background: #ddd url(wide.jpg) } b { color: #fff }", "<b>Flour</b>", "told"),
    ],
    ids=["a gradient that may be dark there", "a child's veil", "a veil over a child alone",
         "a button's own ground", "bare letters"],
)  # fmt: skip
def test_what_lies_between_letters_and_picture_counts(
    tmp_path: Path, css: str, body: str, says: str
) -> None:
    hero = f'<div class="hero">{body}</div>'
    page = _hero(tmp_path, f".hero {{ position: relative; min-height: 300px }} {css}", hero)
    told = {"copy can't be read on the colour", "no colour behind"} & _faults(page)
    assert bool(told) == (says == "told")


def test_a_picture_far_down_is_in_no_first_view(tmp_path: Path) -> None:
    (tmp_path / "site.css").write_text("@import 'more.css';", "utf-8")
    (tmp_path / "more.css").write_text(".hero { background: #222 url(wide.jpg) }", "utf-8")
    link, hero = '<link rel="stylesheet" href="site.css">', '<div class="hero"><h1>Flour</h1></div>'
    assert "found late" in _faults(_hero(tmp_path, "", link + hero))
    text = f"{link}<p>{'Flour. ' * 600}</p>"
    assert "found late" not in _faults(_hero(tmp_path, "", text + hero))


def test_a_strip_wider_than_the_window_is_shown_piece_by_piece(tmp_path: Path) -> None:
    strip = ".hero { background: #222 url(wide.jpg); height: %s; width: %s }"
    assert "one size for all" in _faults(_hero(tmp_path, strip % ("300px", "200px")))
    assert "one size for all" not in _faults(_hero(tmp_path, strip % ("43.75em", "200em")))


def test_a_page_in_utf_16_is_read_as_browsers_do(tmp_path: Path) -> None:
    page = _hero(tmp_path, ".hero { min-height: 300px; background: url(wide.jpg) }")
    told = _faults(page)
    page.write_bytes(b"\xff\xfe" + page.read_text("utf-8").encode("utf-16-le"))
    assert _faults(page) == told
    assert told
