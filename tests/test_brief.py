"""Reading briefs: what flows down, and how mistakes are told."""

from __future__ import annotations

import io
import json
import math
from pathlib import Path

import pytest

from brightcanvas.brief.loading import load_brief
from brightcanvas.brief.mistakes import LineIndex
from brightcanvas.brief.selector_text import check_selector
from brightcanvas.cli.main import main

from .conftest import call, save_noise, write_brief


def test_all_mistakes_are_told_at_once_with_line_key_and_the_nearest_name(tmp_path: Path) -> None:
    brief = write_brief(
        tmp_path,
        '[site]\ntitel = "x"\n\n[[breakpoint]]\nname = "small"\nbelow = "600"\n[[breakpoint]]\n'
        'name = "large"\n\n[[backdrop]]\nsource = "a.jpg"\nelement = ".a { }"\n'
        'subject = { box = [0.5, 0.1, 0.2, 0.3] }\nheight = "tall"\nrepeat = "often"\n'
        "[backdrop.at.small]\nheigth = '1px'\nposition = [\n  0.2,\n  3,\n]\n",
    )
    ran = call("plan", brief)
    assert ran.status == 2
    for told in (
        "line 2: site.titel: there is no such key; did you mean title?",
        "line 6: breakpoint 1, below: expected a number",
        "line 12: backdrop 1, element: expected a CSS selector such as .arrival or #top",
        "line 13: backdrop 1, subject.box: expected [left, top, right, bottom] with left < right",
        "line 14: backdrop 1, height: expected a height such as 420px",
        "line 15: backdrop 1, repeat: expected one of 'no-repeat', 'repeat', 'repeat-x' or",
        "line 17: backdrop 1, at.small.heigth: there is no such key; did you mean height?",
        "line 18: backdrop 1, at.small.position entry 2: expected a number of at most 1",
    ):
        assert told in ran.err
    assert len(ran.err.splitlines()) == 8


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "backdrop: is missing"),
        ("[[backdrop]\n", "is not valid TOML"),
        ('[[backdrop]]\nelement = ".a"\n', "source: is missing (or plain = true"),
        ('[[backdrop]]\nelement = ".a"\nplain = true\n[backdrop.at.desk]\nplain = false\n',
         "at.desk.source: is missing"),
        ('[[backdrop]]\nelement = ".a"\nsource = "a"\n[backdrop.at.desc]\nplain = true\n',
         "line 4: backdrop 1, at.desc: there is no such breakpoint; did you mean desk?"),
        ('[[breakpoint]]\nname = "a"\nbelow = 500\n[[breakpoint]]\nname = "b"\nbelow = 400\n'
         '[[breakpoint]]\nname = "c"\n[[backdrop]]\nelement = "p"\nsource = "a"\n',
         "line 6: breakpoint 2, below: expected more than 500"),
        ('[[breakpoint]]\nname = "a"\nbelow = 500\n[[backdrop]]\nelement = "p"\nsource = "a"\n',
         "the last breakpoint is open upwards"),
        ('[[breakpoint]]\nname = "a"\nbelow = 500\n[[breakpoint]]\nname = "a"\n'
         '[[backdrop]]\nelement = "p"\nsource = "a"\n', "'a' is taken twice"),
        ('[site]\naddress = "javascript:alert(1)//"\n[[backdrop]]\nelement = "p"\nsource = "a"\n',
         "line 2: site.address: expected a URL prefix"),
        ('[[backdrop]]\nelement = "main > hero"\nsource = "a"\n',
         "HTML has no element 'hero': '.hero' for a class?"),
        ('[[backdrop]]\nelement = "</style><b>"\nsource = "a"\n', "expected a CSS selector"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\nsubject = { point = [0, 0], '
         "box = [0, 0, 1, 1] }\n",
         "expected one of point = [x, y], box"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\nsubject = { point = [1.2, 0.5] }\n',
         "subject.point entry 1: expected a number of at most 1"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\nsubject = { box = [0.2, 0.1, 0.2, 0.3] }\n',
         "subject.box: expected [left, top, right, bottom] with left < right"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\ncopy = { box = [0, 0, 1.5, 1] }\n',
         "copy.box entry 3: expected a number of at most 1"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\ncopy = { bax = [0, 0, 1, 1] }\n',
         "copy.bax: there is no such key; did you mean box?"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\nwidth = "150%"\n', "expected a width such as"),
        ('[[backdrop]]\nelement = "p::before"\nsource = "a"\ndrift = 10\n', "needs an element"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\npick_from = [{ source = "b" }]\n',
         "expected either source or pick_from, not both"),
        ('[[screen]]\nname = "s"\nwidths = [500, 300]\nheights = [1, 2]\n'
         '[[backdrop]]\nelement = "p"\nsource = "a"\n', "screen 1: expected widths and heights as"),
        ('[[breakpoint]]\nname = "a"\nbelow = 600\n[[breakpoint]]\nname = "b"\nbelow = 600\n'
         '[[breakpoint]]\nname = "c"\n[[backdrop]]\nelement = "p"\nsource = "a"\n',
         "breakpoint 2, orientation: expected twins: two breakpoints"),
        ('[[breakpoint]]\nname = "a"\nbelow = 600\norientation = "portrait"\n'
         '[[breakpoint]]\nname = "c"\n[[backdrop]]\nelement = "p"\nsource = "a"\n',
         "breakpoint 1, orientation: expected twins"),
        ('backdrop = 3\n', "backdrop: expected a list"),
        ('[backdrop]\nelement = "p"\n', "write [[backdrop]] instead of [backdrop]"),
        ('[[backdrop]]\nsource = "C:\\Users\\a.jpg"\n', "In paths write / instead of \\"),
        ('[[backdrop]]\nselector = "p"\n', "selector: there is no such key; did you mean element?"),
        ('[[backdrop]]\nelement = "p"\nsource = "a"\ncopy = { color = "red" }\n',
         "copy.color: there is no such key; did you mean colour?"),
        ('[[breakpoint]]\nname = "a"\nbelow = 100\n[[breakpoint]]\nname = "b"\n'
         '[[backdrop]]\nelement = "p"\nsource = "picture.jpg"\n', "no screen has such a width"),
    ],
)  # fmt: skip
def test_each_kind_of_mistake_has_its_message(tmp_path: Path, text: str, told: str) -> None:
    save_noise(tmp_path / "picture.jpg")
    ran = call("plan", write_brief(tmp_path, text))
    assert ran.status == 2
    assert told in ran.err
    assert not (tmp_path / "published").exists()


def test_a_source_of_a_like_name_is_named(tmp_path: Path) -> None:
    save_noise(tmp_path / "DSC_0412.JPG", format="JPEG")
    brief = write_brief(tmp_path, '[[backdrop]]\nelement = "p"\nsource = "dsc_0412.jpg"\n')
    ran = call("plan", brief)
    assert (ran.status, "Did you mean DSC_0412.JPG?" in ran.err) == (3, True)
    brief.write_text(brief.read_text().replace("dsc_0412", "mill"))
    assert "Check 'source' in the brief." in call("plan", brief).err


def test_a_brief_that_is_no_text_or_not_there(tmp_path: Path) -> None:
    ran = call("build", tmp_path / "none.toml")
    assert ran.status == 2
    assert "There is no brief at" in ran.err
    assert "bright-canvas demo" in ran.err
    (tmp_path / "the mill.html").touch()
    ran = call("build", tmp_path / "none.toml")
    assert "start from: bright-canvas begin 'the mill.html'" in ran.err
    (tmp_path / "b.toml").write_bytes(b"\xff\xfe\x00")
    assert call("build", tmp_path / "b.toml").status == 2
    assert call("build", tmp_path).status == 2


def test_the_smallest_brief_is_a_source_and_an_element(tmp_path: Path) -> None:
    text = '[[backdrop]]\nsource = "pictures/Mill at dusk!.jpg"\nelement = ".a"\n'
    brief = load_brief(write_brief(tmp_path, text))
    (backdrop,) = brief.backdrops
    assert backdrop.name == "mill-at-dusk"
    assert [slot.breakpoint.name for slot in backdrop.slots] == ["handheld", "midsize", "desk"]
    assert backdrop.slots[2].breakpoint.widths.high == math.inf


def test_what_is_set_flows_down_until_overridden(tmp_path: Path) -> None:
    brief = load_brief(
        write_brief(
            tmp_path,
            '[[backdrop]]\nsource = "wide.jpg"\nelement = ".a"\nheight = "500px"\n'
            "subject = { point = [0.7, 0.4] }\nbehind = 'navy'\n"
            "[backdrop.at.midsize]\nheight = '400px'\n"
            "[backdrop.at.handheld]\nsource = 'tall.jpg'\n",
        )
    )
    handheld, midsize, desk = brief.backdrops[0].slots
    heights = [slot.height.css(modern=True) for slot in (desk, midsize, handheld)]
    assert heights == ["500px", "400px", "400px"]
    assert midsize.offers == desk.offers
    assert handheld.offers[0].subjects == (), "another source has a subject of its own"
    assert handheld.behind == desk.behind


def test_the_same_source_twice_gets_two_names(tmp_path: Path) -> None:
    text = '[[backdrop]]\nsource = "a.jpg"\nelement = ".a"\n' * 2
    brief = load_brief(write_brief(tmp_path, text))
    assert [one.name for one in brief.backdrops] == ["a", "a-2"]


def test_lines_are_found_behind_values_that_run_on() -> None:
    index = LineIndex(
        'a = """\n[x]\nb = 1\n"""\nc = [ # ]\n  1,\n]\n'
        '[t.u]\nd = "# ["\n[[v]]\n[[v]]\n[v.w]\n"e f" = 1\n'
    )
    assert index.line(("c",)) == 5
    assert index.line(("t", "u", "d")) == 9
    assert index.line(("v", 1)) == 11
    assert index.line(("v", 1, "w", "e f")) == 13
    assert index.line(("nowhere",)) == 1


@pytest.mark.slow
def test_the_schema_is_json_schema_and_names_every_key() -> None:
    schema = call("schema").facts
    assert schema["$schema"].startswith("https://json-schema.org/")
    text = json.dumps(schema)
    for key in ("subject", "poster_at", "first_view", "attachment", "behind", "widest"):
        assert f'"{key}"' in text


@pytest.mark.parametrize("element", ["my-hero > .a", "SECTION.b:first-child", "#a svg", "*"])
def test_elements_of_html_and_custom_ones_are_named(element: str) -> None:
    assert check_selector(element) == element


def test_a_fault_of_ours_is_told_as_one(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """In one line, with a status of its own; where it happened only if somebody asks."""

    def fail(*_: object) -> None:
        raise KeyError("no such\nthing")

    monkeypatch.setattr("brightcanvas.commands.plan.load_brief", fail)
    brief = tmp_path / "brief.toml"
    brief.write_text('[[backdrop]]\nelement = "p"\nsource = "a"\n', encoding="utf-8")
    out, err = io.StringIO(), io.StringIO()
    assert main(["plan", str(brief), "--json"], out, err) == 70
    (told,) = err.getvalue().splitlines()
    assert "a fault of ours" in told
    assert "KeyError" in told
    assert json.loads(out.getvalue())["status"] == 70
    with pytest.raises(KeyError):
        main(["plan", str(brief), "--traceback"], out, err)


def test_pages_and_budgets_know_names_that_were_made_of_the_sources(tmp_path: Path) -> None:
    save_noise(tmp_path / "Old Mill.png", 900, 600)
    brief = write_brief(
        tmp_path,
        '[[backdrop]]\nelement = ".a"\nsource = "Old Mill.png"\n[[page]]\nname = "home"\n'
        'backdrops = ["old-mill"]\n[[budget]]\nmost = "1MB"\nbackdrop = "old-mill"\n',
    )
    assert call("plan", brief).status == 0


def test_every_key_is_told_with_its_meaning_and_default() -> None:
    ran = call("keys", "scrim", "height")
    assert "least height of the element" in ran.out
    assert "60svh" in ran.out
    assert "true: the weakest with which the copy can be read" in ran.out
    assert "title" not in ran.out
    assert call("keys", "hight").status == 2
    keys = call("keys", "--json").facts["keys"]
    assert all(one["meaning"] for one in keys), [one for one in keys if not one["meaning"]]
    flows = {one["name"] for one in keys if one["flows"]}
    assert {"height", "copy", "formats"} <= flows
    assert "element" not in flows


def test_the_reference_of_the_keys_is_up_to_date() -> None:
    page = Path(__file__).parent.parent / "docs/brief.md"
    assert page.read_text(encoding="utf-8") == call("keys", "--markdown").out
