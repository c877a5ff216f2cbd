"""What browsers pick: by the standards, and by the browsers themselves."""

from __future__ import annotations

import contextlib
import math
import random
import shutil
from collections import defaultdict

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.webkit import NEEDED, is_here
from brightcanvas.css.layer_lists import InvalidLayerError, parsed, pictures
from brightcanvas.css.media_queries import matches
from brightcanvas.css.srcset import chosen, from_srcset
from brightcanvas.page.folder import Folder, folder_of
from brightcanvas.page.page_load import load
from brightcanvas.page.reading import Page, read_page
from brightcanvas.rehearsal.confirming import Browser, SeenLoad, chromium, firefox, webkit
from brightcanvas.rehearsal.engine_profiles import WEBKIT
from brightcanvas.serving.page_server import served
from brightcanvas.values.conditions import Condition
from brightcanvas.values.environments import AXES, Environment
from brightcanvas.values.geometry import Orientation, Size, Span
from brightcanvas.values.screens import Screen

from .browsing import CHROMIUM, DRIVER

PHONE = Environment(600, 800, 1.5)

CONDITIONS = [
    ("", True),
    ("all", True),
    ("print", False),
    ("not print", True),
    ("only screen and (width >= 600px)", True),
    ("(min-width: 600px)", True),
    ("(max-width: 599.98px)", False),
    ("(width < 600px)", False),
    ("(600px <= width < 601px)", True),
    ("(601px > width >= 600px)", True),
    ("(600px < width > 500px)", False),
    ("(width < = 700px)", False),
    ("not all and (min-width: 600px)", False),
    ("not (width < 600px)", True),
    ("(nonsense)", False),
    ("not (nonsense)", False),
    ("(nonsense) or (width)", True),
    ("(nonsense) and (width)", False),
    ("not ((nonsense) and (width < 1px))", True),
    ("(width: red)", False),
    ("not (width: red)", False),
    ("(width >= 1px) and (height >= 1px) or (color)", False),
    ("((width >= 1px) and (height >= 1px)) or (print)", True),
    ("screen and (width) or (height)", False),
    ("screen, (nonsense", True),
    ("(width >= calc(30em + 120px))", True),
    ("(width >= calc(30em+120px))", False),
    ("(width >= max(10px, 50vw))", True),
    ("(min-resolution: 144dpi)", True),
    ("(resolution > 1.5dppx)", False),
    ("(resolution <= 1.5x)", True),
    ("(-webkit-min-device-pixel-ratio: 1.5)", True),
    ("(aspect-ratio: 3/4)", True),
    ("(max-aspect-ratio: 0.7)", False),
    ("(orientation: portrait)", True),
    ("(orientation: sideways)", False),
    ("(min-orientation: portrait)", False),
    ("(min-width)", False),
    ("(color)", True),
    ("(monochrome)", False),
    ("(grid)", False),
    ("(hover) and (pointer: fine)", True),
    ("(prefers-reduced-motion)", False),
    ("(prefers-reduced-motion: no-preference)", True),
    ("and", False),
    ("only", False),
    ("not", False),
    ("(width >= 0)", True),
    ("(width >= 5)", False),
    ("general-enclosed(foo)", False),
    ("not general-enclosed(foo)", False),
]


@pytest.mark.parametrize(("condition", "expected"), CONDITIONS)
def test_conditions_are_decided_as_the_standard_says(condition: str, *, expected: bool) -> None:
    assert matches(condition, PHONE) is expected


@given(st.floats(200, 3000), st.floats(200, 3000), st.floats(0.5, 4))
def test_a_cut_in_range_form_leaves_no_window_out(width: float, edge: float, dpr: float) -> None:
    window = Environment(width, 800, dpr)
    below, above = f"(width < {edge}px)", f"(width >= {edge}px)"
    assert matches(below, window) != matches(above, window)
    assert matches(f"not all and {above}", window) == matches(below, window)


@given(st.text(alphabet="()<>=: notandorwidthpx0159,.\n\"'\\/*{}[]!", max_size=60))
def test_no_text_at_all_upsets_it(text: str) -> None:
    assert matches(text, PHONE) in (True, False)
    from_srcset(text, text, "", PHONE)
    with contextlib.suppress(InvalidLayerError):
        pictures(parsed(text), PHONE)


def test_brackets_nested_without_end() -> None:
    deep = "(" * 20_000 + "width" + ")" * 20_000
    assert not matches(deep, PHONE)
    assert not matches(f"not {deep}", PHONE)
    assert chosen(from_srcset("a 600w, b 900w", f"calc{deep}", "", PHONE), 1.5) == "b"


@pytest.mark.parametrize(
    ("srcset", "sizes", "expected"),
    [
        ("a 1x, b 2x", "", "b"),
        ("b 2x, a 1.5x", "", "a"),
        ("a, b 3x", "", "b"),
        ("a 300w, b 900w, c 1200w", "", "b"),
        ("a 300w, b 900w, c 1200w", "50vw", "b"),
        ("a 300w, b 900w, c 1200w", "(width < 500px) 10px, 200px", "a"),
        ("a 300w, b 900w", "(nonsense) 10px, calc(100vw - 400px)", "a"),
        ("a,b 2x", "", "a,b"),
        ("a 1x 2x, b 1x", "", "b"),
        ("a 0w, b 500w", "", "b"),
        ("a (1x, 2x), b 1x", "", "b"),
        (", , a 1x,, b 2x,", "", "b"),
    ],
)
def test_candidates(srcset: str, sizes: str, expected: str) -> None:
    assert chosen(from_srcset(srcset, sizes, "", PHONE), PHONE.density) == expected


# The same questions, asked of real browsers.

EDGES = (360, 599, 600, 601, 820, 900, 1024, 1280)
WINDOWS = [
    Environment(*one)
    for one in (
        (360, 740, 3), (412, 780, 2.625), (599, 900, 1), (600, 400, 2), (601, 900, 1.25),
        (820, 1180, 2), (900, 820, 1.5), (1024, 768, 1), (1280, 800, 1.75), (1920, 950, 4),
    )
]  # fmt: skip
DENSITIES = (1, 1.25, 1.5, 1.75, 2, 3)
QUESTIONS = 40


def condition(chance: random.Random, depth: int = 0) -> str:
    """Some media condition, nasty ones among them."""
    edge, dense = chance.choice(EDGES), chance.choice(DENSITIES)
    simple = [
        f"(min-width: {edge}px)", f"(max-width: {edge - 0.02:g}px)", f"(width < {edge}px)",
        f"({edge}px <= width)", f"({edge}px <= width < {edge + 400}px)", f"(height > {edge}px)",
        f"(min-width: {edge / 16:g}em)", f"(width >= calc({edge - 16}px + 1rem))",
        f"(resolution >= {dense}dppx)", f"(max-resolution: {dense * 96:g}dpi)",
        f"(resolution < {dense}x)", f"(-webkit-min-device-pixel-ratio: {dense})",
        "(orientation: landscape)", "(aspect-ratio > 1/1)", "(min-aspect-ratio: 4/3)",
        "(nonsense)", "(width: red)", "(color)", "(grid: 0)", "(width >= 5)",
        "(min-width)", f"(width < = {edge}px)", "(monochrome)", "foo(bar)", "(prefers-contrast)",
    ]  # fmt: skip
    one = chance.choice(simple)
    if depth > 2 or chance.random() < 0.4:
        return one
    other = condition(chance, depth + 1)
    return chance.choice(
        [
            f"not {one}", f"({one}) and ({other})", f"{one} and {chance.choice(simple)}",
            f"{one} or {chance.choice(simple)}", f"not ({other})", f"screen and {one}",
            f"not all and {one}", f"{one}, {other}", f"only print, {other}",
            f"{one} and {chance.choice(simple)} or (color)",
        ]
    )  # fmt: skip


def question(chance: random.Random, number: int) -> tuple[str, str, str]:
    """Lines for the head, rules, and markup of one question about some files."""
    box = f"#b{number}"
    name = iter(f"q{number}/{letter}.png" for letter in "abcdefgh")
    kind = chance.choice(("media", "set", "density", "width", "picture", "hinted", "override"))
    densities = chance.choice(("1 2", "1 1.5 2 3", "1 2 3", "2", "1.25 2.5"))
    by_density = [f"{next(name)} {one}x" for one in densities.split()]
    widths = ", ".join(f"q{number}/w{one}.png {one}w" for one in (480, 960, 1600))
    sizes = f"{condition(chance)} 50vw, (width < 900px) calc(100vw - 40px), 70vw"
    quoted = ", ".join('"{}" {}'.format(*one.split()) for one in by_density)
    if kind == "media":
        rules = f"#b{number} {{ background-image: url({next(name)}) }}\n" + "".join(
            f"@media {condition(chance)} {{ {box} {{ background: url({next(name)}) }} }}\n"
            for _ in range(2)
        )
        return "", rules, f'<div id="b{number}"></div>'
    if kind == "set":
        typed = f'"{next(name)}" type("image/nope"), {quoted}'
        rules = f"#b{number} {{ background: url({next(name)}); background: image-set({typed}) }}"
        return "", rules, f'<div id="b{number}"></div>'
    if kind == "density":
        return "", "", f'<img srcset="{", ".join(by_density)}" src="{next(name)}" alt="">'
    if kind == "width":
        return "", "", f'<img srcset="{widths}" sizes="{sizes}" src="{next(name)}" alt="">'
    if kind == "picture":
        sources = "".join(
            f'<source media="{condition(chance)}" srcset="{next(name)}"'
            f' type="image/{chance.choice(("png", "nope"))}">'
            for _ in range(2)
        )
        img = f'<img srcset="{widths}" sizes="{sizes}" src="{next(name)}" alt="">'
        return "", "", f"<picture>{sources}{img}</picture>"
    if kind == "hinted":
        media, other = condition(chance), next(name)
        hint = f'<link rel="preload" as="image" href="{other}" media="{media}" type="image/png">'
        rules = f"@media {media} {{ #b{number} {{ background-image: url({other}) }} }}"
        return hint, rules, f'<div id="b{number}"></div>'
    style = f"background: red url({next(name)}) no-repeat"
    rules = (
        f"@layer late {{ #b{number} {{ background-image: url({next(name)}) !important }} }}\n"
        f"@media {condition(chance)} {{ div{box} {{ background: url({next(name)}) !important }} }}"
        f"div[id] + #b{number} {{ background-image: image-set({quoted}, 3q) !important }}"
    )
    return "", rules, f'<div id="b{number}" style="{style}"></div>'


@pytest.fixture(scope="module")
def asked(tmp_path_factory: pytest.TempPathFactory) -> Folder:
    """A page with questions of all kinds, and the files that answer them."""
    chance = random.Random(11)
    root = tmp_path_factory.mktemp("questions")
    parts = [question(chance, number) for number in range(QUESTIONS)]
    heads, rules, bodies = ("\n".join(column) for column in zip(*parts, strict=True))
    page = root / "index.html"
    page.write_text(
        f"<!doctype html><meta charset=utf-8><title>questions</title><link rel=icon href=data:,>"
        f"{heads}<style>div {{ height: 4px }} img {{ width: 9px }}\n{rules}</style><body>{bodies}",
        "utf-8",
    )
    for number in range(QUESTIONS):
        (root / f"q{number}").mkdir()
        for name in ("a", "b", "c", "d", "e", "f", "g", "h", "w480", "w960", "w1600"):
            Image.new("RGB", (2, 2)).save(root / f"q{number}" / f"{name}.png")
    return folder_of(page)


def by_question(paths: list[str]) -> dict[str, list[str]]:
    found: dict[str, list[str]] = defaultdict(list)
    for path in sorted(set(paths)):
        parts = path.strip("/").split("/")
        if parts[0].startswith("q"):
            found[parts[0]].append(parts[1])
    return dict(found)


def foretold(page: Page, environment: Environment) -> dict[str, list[str]]:
    urls = [one.url for one in load(page, environment).pictures]
    return by_question([url.removeprefix("http://page.invalid") for url in urls])


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
def test_chromium_picks_the_same_files_in_400_cases(asked: Folder) -> None:
    page = read_page(asked)
    with chromium() as browser:
        for environment in WINDOWS:
            assert visited(asked, browser, environment)[1] == foretold(page, environment), (
                environment
            )


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not is_here(), reason=f"no WebKit here: it needs Debian's {NEEDED}")
@pytest.mark.parametrize("density", [1, 2, 3])
def test_webkit_picks_the_same_files(asked: Folder, density: int) -> None:
    """At 480 and 1920 px too, where a candidate that fits exactly is passed over."""
    page = read_page(asked)
    with webkit() as browser:
        for width, height in ((390, 844), (480, 900), (820, 700), (1280, 800), (1920, 900)):
            if width * density > 4000:
                continue
            environment = WEBKIT.environment(Screen("window", Size(width, height), density))
            seen, files = visited(asked, browser, environment)
            assert (seen.window.width, seen.window.density) == (width, density)
            assert files == foretold(page, environment), environment


def visited(
    folder: Folder, browser: Browser, environment: Environment
) -> tuple[SeenLoad, dict[str, list[str]]]:
    with served(folder, port=browser.port) as host:
        seen = browser.visit(host, "index.html", environment, 0.3)
    return seen, by_question(list(seen.asked))


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(
    not (shutil.which("firefox") or shutil.which("firefox-esr")), reason="no Firefox here"
)
@pytest.mark.parametrize(
    "environment",
    [
        Environment(520, 900, 1),
        Environment(820, 700, 2),
        Environment(1280, 800, 1.5),
    ],
    ids=["narrow", "midsize", "wide"],
)
def test_firefox_picks_the_same_files(asked: Folder, environment: Environment) -> None:
    with firefox() as browser:
        seen, files = visited(asked, browser, environment)
    assert seen.window.density == environment.density
    assert files == foretold(read_page(asked), seen.window)


SPANS = st.sampled_from([0.0, 320.0, 639.5, 640.0, 1100.0]).flatmap(
    lambda low: st.builds(Span, st.just(low), st.sampled_from([low + 60, low + 320.5, math.inf]))
)
ASKED = ["prefers-color-scheme", "prefers-reduced-motion", "medium"]
WORDS_ASKED = st.dictionaries(st.sampled_from(ASKED), st.integers(0, 1)).map(
    lambda found: tuple((axis, AXES[axis].words[which]) for axis, which in found.items())
)
WHENS = st.builds(Condition, SPANS, st.sampled_from([None, *Orientation]), SPANS, WORDS_ASKED)
PLACES = st.builds(
    Environment,
    st.sampled_from([1.0, 320, 379.9, 639.4, 639.5, 640, 700, 960, 1100, 5000]),
    st.sampled_from([1.0, 320, 379.9, 639.4, 639.5, 640, 700, 960, 1100, 5000]),
    said=WORDS_ASKED.map(dict),
)


@given(when=WHENS, other=WHENS, place=PLACES)
def test_a_condition_is_what_its_media_text_says(
    when: Condition, other: Condition, place: Environment
) -> None:
    assert when.holds(place) == matches(when.media, place)
    shared = when.intersect(other)
    assert when.is_disjoint(other) == (shared is None)
    both_hold = when.holds(place) and other.holds(place)
    assert both_hold == (shared is not None and shared.holds(place))


def test_a_condition_that_asks_for_nothing_holds_everywhere() -> None:
    assert Condition().media == ""
    assert Condition().holds(Environment(1, 5000, said={"medium": "print"}))
    print_dark = Condition(words=(("prefers-color-scheme", "dark"), ("medium", "print")))
    assert print_dark.media == "print and (prefers-color-scheme: dark)"


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
def test_chromium_is_told_every_word_that_an_environment_says() -> None:
    asked = {
        "prefers-color-scheme": "dark", "prefers-reduced-motion": "reduce", "pointer": "coarse",
        "prefers-contrast": "more", "forced-colors": "active", "medium": "print",
    }  # fmt: skip
    with chromium_window() as window:
        for said in ({}, asked, {}):
            place = Environment(700, 500, said=said)
            window.resize(place)
            window.open("about:blank")
            for axis in asked:
                media = Condition(words=((axis, place.word(axis) or ""),)).media
                assert window.evaluate(f"matchMedia({media!r}).matches"), (media, said)
