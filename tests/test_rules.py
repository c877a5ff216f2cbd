"""The rules: conditions without gap or overlap, hints that match, nothing that breaks out."""

from __future__ import annotations

import operator
import re
from itertools import product
from pathlib import Path
from typing import Any

import pytest
import tinycss2
from hypothesis import given
from hypothesis import strategies as st

from brightcanvas.basics.colours import parse_colour
from brightcanvas.brief.selectors import check_selector
from brightcanvas.ledger.addresses import BESIDE
from brightcanvas.ledger.model import BackdropRecord
from brightcanvas.rules.escaping import css_string
from brightcanvas.rules.markup import markup, tag_for

from .conftest import Demo, call, save_noise, write_brief

DENSITIES = [0.5, 0.999, 1, 1.0001, 1.1, 1.25, 1.5, 2, 2.625, 3]
HEIGHTS = [1, 260, 480, 654.33, 900, 3000]
WIDTHS = [1, 320, 480.5, 639, 639.2, 639.33, 639.5, 639.98, 640, 640.02, 1099.67, 1100, 2560, 5000]


def matches(condition: str, width: float, height: float, density: float) -> bool:
    """A reading of our few kinds of media features, apart from the code that writes them."""
    return any(_all_match(one, width, height, density) for one in condition.split(", "))


def _all_match(condition: str, width: float, height: float, density: float) -> bool:
    values = {"width": width, "height": height, "resolution": density}
    orientation = "landscape" if width > height else "portrait"
    condition = condition.replace(f" and (orientation: {orientation})", "")
    if "orientation" in condition:
        return False
    features = condition.split(" and ") if condition else []
    return all(_matches_one(feature, values) for feature in features)


RANGE = re.compile(
    r"\((?:(?P<low>[\d.]+)(?:px|dppx) (?P<after><=?) )?(?P<name>width|height|resolution)"
    r"(?: (?P<sign><=?|>=?) (?P<high>[\d.]+)(?:px|dppx))?\)"
)
SIGNS = {"<": operator.lt, "<=": operator.le, ">": operator.gt, ">=": operator.ge}


def _matches_one(feature: str, values: dict[str, float]) -> bool:
    if plain := re.fullmatch(r"\((min|max)-width: ([\d.]+)px\)", feature):
        sign = operator.ge if plain[1] == "min" else operator.le
        return bool(sign(values["width"], float(plain[2])))
    found = RANGE.fullmatch(feature)
    assert found, feature
    value, low, high = values[found["name"]], found["low"], found["high"]
    return (low is None or SIGNS[found["after"]](float(low), value)) and (
        high is None or SIGNS[found["sign"]](value, float(high))
    )


def rungs(ledger: Any, name: str) -> list[dict[str, Any]]:
    backdrop = next(one for one in ledger["backdrops"] if one["name"] == name)
    return [rung for shown in backdrop["breakpoints"] for rung in shown["rungs"]]


@pytest.mark.parametrize("width", WIDTHS)
def test_every_screen_gets_exactly_one_rung(demo: Demo, width: float) -> None:
    for name in ("mill-at-dusk", "bakery", "woven-reed", "turning-sails"):
        conditions = [rung["condition"] for rung in rungs(demo.ledger, name)]
        for height, density in product(HEIGHTS, DENSITIES):
            assert sum(matches(one, width, height, density) for one in conditions) == 1


def test_each_hint_has_the_very_condition_of_its_rule_and_the_best_format(demo: Demo) -> None:
    css = (demo.published / "backdrops.css").read_text()
    head = (demo.published / "head.html").read_text()
    hinted = re.findall(
        r'<link rel="preload" as="image" href="([^"]+)" type="([^"]+)" media="([^"]+)" '
        r'fetchpriority="high">',
        head,
    )
    expected = [
        (rung["assets"][0]["file"], rung["assets"][0]["format"], rung["condition"])
        for rung in rungs(demo.ledger, "mill-at-dusk")
    ]
    assert [
        (file, kind, media.replace("&gt;", ">").replace("&lt;", "<"))
        for file, kind, media in hinted
    ] == expected
    for _, _, condition in expected:
        assert f"@media {condition} {{" in css


def test_the_style_sheet_parses_and_puts_the_old_format_first(demo: Demo) -> None:
    css = (demo.published / "backdrops.css").read_text()
    rules = tinycss2.parse_stylesheet(css, skip_comments=True, skip_whitespace=True)
    assert rules
    plain = [rule for rule in rules if rule.type != "at-rule"]
    assert {rule.type for rule in plain} == {"qualified-rule"}, "none is an error"
    assert all(".evening" in tinycss2.serialize(rule.prelude) for rule in plain), "the clip's alone"
    mill = css[: css.index("/* bakery */")]
    assert mill.index(".jpg") < mill.index(".avif") < mill.index(".webp")
    assert "min-height: max(520px, 80vh);\n    min-height: max(520px, 80svh);" in mill
    assert "background-image: none;" in css
    assert css.count("background-color: #") == 20


def test_addresses_get_the_prefix(small: Path) -> None:
    small.write_text('[site]\naddress = "https://cdn.example/b"\n' + small.read_text())
    assert call("build", small).status == 0
    published = small.parent / "published"
    for name in ("backdrops.css", "head.html"):
        text = (published / name).read_text()
        assert "https://cdn.example/b/picture-narrow-" in text
    assert "cdn.example" not in (published / "try-it.html").read_text()


def test_a_single_breakpoint_needs_no_condition(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 300, 200)
    brief = write_brief(
        tmp_path,
        '[[breakpoint]]\nname = "all"\n[[backdrop]]\nsource = "a.jpg"\nelement = "#a"\n'
        "first_view = true\n",
    )
    assert call("build", brief).status == 0
    assert "media=" not in (tmp_path / "published" / "head.html").read_text()
    assert "@media" not in (tmp_path / "published" / "backdrops.css").read_text()


@given(st.text())
def test_strings_never_break_out(text: str) -> None:
    written = css_string(text)
    assert not set(written[1:-1]) & set('"<>\n\r')
    (token,) = tinycss2.parse_component_value_list(written)
    assert token.type == "string"
    assert token.value == re.sub("\x00", "\ufffd", text)


@given(st.text(alphabet=st.sampled_from("ab.#[]()=\"'<>{};:@/*,\\ \n-"), max_size=20))
def test_a_selector_that_is_accepted_is_inert(text: str) -> None:
    try:
        selector = check_selector(text)
    except ValueError:
        return
    rules = tinycss2.parse_stylesheet(f"{selector} {{ color: red }}\nx {{}}", skip_whitespace=True)
    assert [rule.type for rule in rules] == ["qualified-rule", "qualified-rule"]
    assert "<" not in selector


@pytest.mark.parametrize(
    "selector",
    [".a", "#top > .b", "main .c, .d", 'a[href="x"]', ".e:not(.f)::before", "li:nth-child(2)"],
)
def test_ordinary_selectors_are_accepted(selector: str) -> None:
    assert check_selector(selector) == selector


@pytest.mark.parametrize(
    ("selector", "opening"),
    [(".a", '<section class="a">'), ("#b", '<section id="b">'), ("header.c", '<header class="c">')],
)
def test_markup_names_the_element(selector: str, opening: str) -> None:
    assert marked_up(selector).startswith(opening)


@pytest.mark.parametrize("selector", ["body", ".a .b", ".a:hover", 'p[title="--><script>"]'])
def test_markup_leaves_other_selectors_to_the_page(selector: str) -> None:
    assert tag_for(selector) is None
    assert marked_up(selector).count("-->") == 1
    assert "<script" not in marked_up(selector)


def marked_up(selector: str) -> str:
    return markup(BackdropRecord("x", selector, first_view=False, shown=()), BESIDE)


@pytest.mark.parametrize("text", ["rebeccapurple", "#639", "rgb(102 51 153)", "hsl(270 50% 40%)"])
def test_colours_in_every_notation(text: str) -> None:
    assert parse_colour(text).css == "#663399"


@pytest.mark.parametrize("text", ["", "currentcolor", "bluish", "lab(50% 20 20)", "red;}"])
def test_what_is_no_srgb_colour_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="a colour such as"):
        parse_colour(text)
