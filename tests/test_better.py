"""What would be better than a page as it is: proposed, looked at, and taken by its name."""

from __future__ import annotations

import json
import tomllib
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from brightcanvas.brief.measured_file import signed
from brightcanvas.values.errors import ExitStatus
from tests.conftest import call

VIEWPORTS = ((320, 568), (390, 844), (820, 1106), (1440, 844), (2560, 1305))
BRIEF = """\
[[backdrop]]
name = "mill"
source = "mill.png"
element = ".hero"
replaces = "picture"
measured = "boxes.json"
position = [0.5, 0.5]
"""


def spotted(path: Path) -> None:
    """A light ground with one dark thing on it, far to the left."""
    pixels = np.full((900, 1600, 3), 205, np.uint8)
    pixels[380:520, 90:230] = (20, 30, 120)
    Image.fromarray(pixels).save(path)


def level(path: Path) -> int:
    """Of the ground, code values."""
    return int(np.asarray(Image.open(path).convert("L"))[5, 5])


def drafted(folder: Path, *, veiled: bool = False, colour: str = "#ffffff") -> Path:
    """A brief as ``begin`` writes it, with measured boxes and a headline in them."""
    spotted(folder / "mill.png")
    line = {"box": [0.3, 0.4, 0.7, 0.5], "colour": colour, "size": 40, "words": "Flour"}
    windows: list[dict[str, Any]] = [
        {"viewport": [width, height], "element": [width, 500], "lines": [line],
         **({"veiled": True} if veiled else {})}
        for width, height in VIEWPORTS
    ]  # fmt: skip
    document = {"made_by": "bright-canvas", "read": {}, "elements": {".hero": windows}}
    (folder / "boxes.json").write_text(json.dumps(signed(document)), "utf-8")
    (folder / "brief.toml").write_text(BRIEF, "utf-8")
    return folder / "brief.toml"


def test_what_stands_out_comes_into_view_where_it_is_taken(tmp_path: Path) -> None:
    brief = drafted(tmp_path, colour="#000000")
    before = brief.read_bytes()
    noted = call("build", brief, "--json").facts["promises"]
    assert any("no subject is named; 100%" in one["says"] for one in noted)
    ran = call("better", brief, "--json")
    (proposal,) = ran.facts["proposals"]
    assert proposal["name"] == "mill.subject"
    phone = proposal["screens"][0]
    assert phone["before"]["says"] == "100% of what stands out is cut off"
    assert phone["after"]["says"] == "all that stands out is seen"
    assert brief.read_bytes() == before, "nothing is taken unasked"
    page = (tmp_path / "better.html").read_text("utf-8")
    assert page.count('src="data:image/') == 2 * len(proposal["screens"])
    assert call("better", brief, "mill.subject").status == ExitStatus.ALL_WELL
    (entry,) = tomllib.loads(brief.read_text("utf-8"))["backdrop"]
    assert "position" not in entry
    left, _, right, _ = entry["subject"]["box"]
    assert left < 160 / 1600 < right
    built = call("build", brief, "--json")
    kept = [one for one in built.facts["promises"] if one["promise"] == "in view"]
    assert kept
    assert all(one["state"] != "broken" for one in kept)
    assert "background-position:" in (tmp_path / "published/backdrops.css").read_text("utf-8")
    assert "mill.subject" not in call("better", brief).out


def test_a_scrim_is_proposed_where_text_cannot_be_read(tmp_path: Path) -> None:
    brief = drafted(tmp_path)
    ran = call("better", brief, "--json")
    scrim = next(one for one in ran.facts["proposals"] if one["name"] == "mill.scrim")
    assert scrim["screens"][0]["after"]["scrim"].startswith("linear-gradient(")
    told = scrim["screens"][0]
    before, after = (
        float(told[side]["says"].split()[-1].removesuffix(":1")) for side in ("before", "after")
    )
    assert before < 3 <= after, "letters of 40 px"
    assert call("better", brief, "mill.scrim").status == ExitStatus.ALL_WELL
    call("build", brief)
    shown = [level(one) for one in (tmp_path / "published").glob("*.png")]
    assert shown
    assert all(130 < one < 150 for one in shown), "a tint of the picture: the page's rule stays"


def test_no_second_veil_is_proposed(tmp_path: Path) -> None:
    names = {
        one["name"]
        for one in call("better", drafted(tmp_path, veiled=True), "--json").facts["proposals"]
    }
    assert names == {"mill.subject"}


def test_a_scrim_is_tinted_into_the_picture_or_refused(tmp_path: Path) -> None:
    """Beneath the page's own layers, and without copy to judge it by."""
    brief = drafted(tmp_path)
    veil = 'layers = "linear-gradient(#0008, #0008), picture"\n'
    brief.write_text(BRIEF + veil + "scrim = { strength = 0.4 }\n", "utf-8")
    call("build", brief)
    shown = next((tmp_path / "published").glob("*.png"))
    assert abs(level(shown) - 0.6 * 205) < 8
    brief.write_text(BRIEF + veil + "scrim = { strength = 0.4, side = 'left' }\n", "utf-8")
    ran = call("plan", brief)
    assert (ran.status, "no side" in ran.err) == (ExitStatus.BRIEF_WRONG, True)


@pytest.mark.parametrize("names", [["mill.sky"], ["other.toml"]])
def test_what_is_not_proposed_is_not_taken(tmp_path: Path, names: list[str]) -> None:
    brief = drafted(tmp_path)
    before = brief.read_bytes()
    assert call("better", brief, *names).status == ExitStatus.BRIEF_WRONG
    assert brief.read_bytes() == before


def test_a_page_of_somebody_else_stays(tmp_path: Path) -> None:
    brief = drafted(tmp_path)
    (tmp_path / "better.html").write_text("mine", "utf-8")
    ran = call("better", brief)
    assert (ran.status, "no page of ours" in ran.err) == (ExitStatus.BRIEF_WRONG, True)
    assert (tmp_path / "better.html").read_text("utf-8") == "mine"


def test_a_picture_of_too_few_px_breaks_its_promise(tmp_path: Path) -> None:
    """A stretch of some times is a note; what nobody would publish is no note."""
    states = []
    for width in (800, 160):
        Image.new("RGB", (width, width * 9 // 16), "#4a7").save(tmp_path / "few.png")
        (tmp_path / "brief.toml").write_text(
            '[[backdrop]]\nsource = "few.png"\nelement = ".hero"\nheight = "420px"\n', "utf-8"
        )
        ran = call("plan", tmp_path / "brief.toml", "--json")
        told = {one["state"] for one in ran.facts["promises"] if one["promise"] == "sharp"}
        states.append((ran.status, "broken" in told))
    assert states == [(ExitStatus.ALL_WELL, False), (ExitStatus.PROMISE_BROKEN, True)]


LIES = [
    ("viewport", [float("nan"), 800]), ("viewport", [0, 800]), ("viewport", None),
    ("element", [1440, -5]), ("element", [1e300, 500]), ("element", [1440]), ("lines", "x"),
    ("lines", [{"box": [0.9, 0, 0.1, 1], "colour": "#fff", "size": 16}]),
    ("lines", [{"box": [0, 0, 2, 1], "colour": "#fff", "size": 16}]),
    ("lines", [{"box": [0, 0, 1, 1], "colour": "#fff", "size": float("inf")}]),
    ("lines", [{"box": [0, 0, 1, 1], "colour": "mud", "size": 16}]),
]  # fmt: skip


@pytest.mark.parametrize(("key", "lie"), LIES)
def test_a_measured_file_that_lies_is_refused(tmp_path: Path, key: str, lie: object) -> None:
    brief = drafted(tmp_path)
    found = json.loads((tmp_path / "boxes.json").read_text("utf-8"))
    found["elements"][".hero"][1][key] = lie
    (tmp_path / "boxes.json").write_text(json.dumps(found), "utf-8")
    ran = call("plan", brief)
    assert (ran.status, "isn't as it was measured" in ran.err) == (ExitStatus.BRIEF_WRONG, True)
    (tmp_path / "boxes.json").write_text(json.dumps(signed(found)), "utf-8")
    ran = call("plan", brief)
    assert (ran.status, "is no file of measured copy" in ran.err) == (ExitStatus.BRIEF_WRONG, True)
    found["elements"] = {".hero": []}
    (tmp_path / "boxes.json").write_text(json.dumps(signed(found)), "utf-8")
    assert call("plan", brief).status == ExitStatus.BRIEF_WRONG
