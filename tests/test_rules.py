"""The rules: conditions without gap or overlap, hints that match, nothing that breaks out."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
import tinycss2
from hypothesis import given
from hypothesis import strategies as st

from brightcanvas.brief.brief import Backdrop
from brightcanvas.brief.selector_text import check_selector
from brightcanvas.delivery.markup import markup, tag_for
from brightcanvas.delivery.rule_text import Part, css_string, declared, shared_rules
from brightcanvas.ledger.record import BESIDE, BackdropRecord
from brightcanvas.values.colours import parse_colour

from .conftest import Demo, call, parts_of, save_noise, write_brief

HEIGHTS = [1, 260, 480, 654.33, 900, 3000]
WIDTHS = [1, 320, 480.5, 639, 639.2, 639.33, 639.5, 639.98, 640, 640.02, 1099.67, 1100, 2560, 5000]
BACKDROPS = ("mill-at-dusk", "bakery", "woven-reed", "turning-sails")


def matches(condition: str, width: float, height: float) -> bool:
    """A reading of our few kinds of media features, apart from the code that writes them."""
    return all(_matches_one(one, width, height) for one in condition.split(" and ") if one)


def _matches_one(feature: str, width: float, height: float) -> bool:
    if plain := re.fullmatch(r"\((min|max)-width: ([\d.]+)px\)", feature):
        edge = float(plain[2])
        return width >= edge if plain[1] == "min" else width <= edge
    found = re.fullmatch(r"\(orientation: (portrait|landscape)\)", feature)
    assert found, feature
    return (width > height) == (found[1] == "landscape")


def part_at(ledger: Any, name: str, width: float, height: float) -> Any:
    """The one part of a backdrop that a window is in."""
    (part,) = [one for one in parts_of(ledger, name) if matches(one["condition"], width, height)]
    return part


def file_at(ledger: Any, name: str, width: float, height: float, density: float) -> str | None:
    """The file that the rules choose for a screen: the least dense that is dense enough."""
    sizes = part_at(ledger, name, width, height)["sizes"]
    enough = [one for one in sizes if float(one["candidate"][:-1]) >= density] or sizes[-1:]
    return str(enough[0]["assets"][0]["file"]) if enough else None


@pytest.mark.slow
@pytest.mark.parametrize("width", WIDTHS)
def test_every_window_is_in_exactly_one_part(demo: Demo, width: float) -> None:
    for name in BACKDROPS:
        for height in HEIGHTS:
            assert part_at(demo.ledger, name, width, height)["oldest"]


def test_conditions_are_ones_that_people_read(demo: Demo) -> None:
    css = (demo.published / "backdrops.css").read_text()
    for condition in re.findall(r"@media ([^{]*) \{", css):
        assert re.fullmatch(
            r"\((min|max)-width: \d+(\.98)?px\)( and \(max-width: \d+\.98px\))?"
            r"( and \(orientation: (portrait|landscape)\))?",
            condition,
        ), condition


def test_each_hint_has_the_very_condition_of_its_rule_and_the_best_format(demo: Demo) -> None:
    css = (demo.published / "backdrops.css").read_text()
    head = (demo.published / "head.html").read_text()
    hinted = re.findall(
        r'<link rel="preload" as="image" type="([^"]+)" (?:href|imagesrcset)="([^"]+)"'
        r' media="([^"]+)" fetchpriority="high">',
        head,
    )
    expected = []
    for part in parts_of(demo.ledger, "mill-at-dusk"):
        best = [size["assets"][0] for size in part["sizes"]]
        labels = [f" {size['candidate']}" for size in part["sizes"]] if len(best) > 1 else [""]
        offer = ", ".join(a["file"] + label for a, label in zip(best, labels, strict=True))
        expected.append((best[0]["format"], offer, part["condition"]))
    rules = [(kind, offer, media.removesuffix(YOUNG)) for kind, offer, media in hinted]
    assert rules == expected
    for kind, _, media in hinted:
        assert media.endswith(YOUNG) == (kind == "image/avif"), "only where the rule names it"
    for _, _, condition in expected:
        assert f"@media {condition} {{" in css


YOUNG = " and (min-width: mod(1lh,1px))"
"""Keeps browsers from fetching a hinted file that they don't show."""


def test_the_style_sheet_parses_and_puts_the_old_format_first(demo: Demo) -> None:
    css = (demo.published / "backdrops.css").read_text()
    rules = tinycss2.parse_stylesheet(css, skip_comments=True, skip_whitespace=True)
    assert rules
    plain = [rule for rule in rules if rule.type != "at-rule"]
    assert {rule.type for rule in plain} == {"qualified-rule"}, "none is an error"
    mill = css[: css.index("/* bakery */")]
    for part in parts_of(demo.ledger, "mill-at-dusk"):
        oldest, best = part["oldest"]["file"], part["sizes"][0]["assets"][0]["file"]
        assert oldest.endswith(".jpg")
        assert mill.index(f'url("{oldest}");' if oldest == best else f'url("{oldest}")') <= (
            mill.index(f'url("{best}")')
        )
    assert "min-height: max(520px, 80vh);\n    min-height: max(520px, 80svh);" in mill
    assert "background-image: none;" in css
    parts = parts_of(demo.ledger, "mill-at-dusk")
    assert mill.count("background-size: auto, cover;") < len(parts), "what parts share stands once"


def test_rules_that_parts_share_stand_once() -> None:
    parts = [
        Part("(a)", "(w)", tuple(declared("p", ["color: red;", "top: 1px;", "left: 0;"]))),
        Part("(b)", "(w)", tuple(declared("p", ["color: red;", "top: 1px;", "left: 2px;"]))),
        Part("(c)", "(c)", tuple(declared("p", ["color: red;", "top: 9px;"]))),
    ]
    assert shared_rules(parts) == [
        "p {\n  color: red;\n}",
        "@media (w) {\n  p {\n    top: 1px;\n  }\n}",
        "@media (c) {\n  p {\n    top: 9px;\n  }\n}",
        "@media (a) {\n  p {\n    left: 0;\n  }\n}",
        "@media (b) {\n  p {\n    left: 2px;\n  }\n}",
    ]


@pytest.mark.slow
def test_addresses_get_the_prefix(small: Path) -> None:
    small.write_text('[site]\naddress = "https://cdn.example/b"\n' + small.read_text())
    assert call("build", small).status == 0
    published = small.parent / "published"
    for name in ("backdrops.css", "head.html"):
        text = (published / name).read_text()
        assert "https://cdn.example/b/picture-" in text
    assert "cdn.example" not in (published / "try-it.html").read_text()


@pytest.mark.slow
def test_a_single_breakpoint_needs_no_condition(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 450, 300)
    brief = write_brief(
        tmp_path,
        '[site]\nparts = 1\n[[breakpoint]]\nname = "all"\n'
        '[[backdrop]]\nsource = "a.jpg"\nelement = "#a"\n'
        "first_view = true\n",
    )
    assert call("build", brief).status == 0
    head = (tmp_path / "published" / "head.html").read_text()
    assert head.count("media=") == head.count('media="(min-width: mod(1lh,1px))"') == 1
    assert "@media" not in (tmp_path / "published" / "backdrops.css").read_text()


@pytest.mark.slow
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
    return markup(BackdropRecord(Backdrop("x", selector, first_view=False, slots=()), ()), BESIDE)


@pytest.mark.parametrize("text", ["rebeccapurple", "#639", "rgb(102 51 153)", "hsl(270 50% 40%)"])
def test_colours_in_every_notation(text: str) -> None:
    assert parse_colour(text).css == "#663399"


@pytest.mark.parametrize("text", ["", "currentcolor", "bluish", "lab(50% 20 20)", "red;}"])
def test_what_is_no_srgb_colour_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="a colour such as"):
        parse_colour(text)
