"""Ways of publishing: elements behind the content, force, layers, addresses, headers, pages."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import time
from pathlib import Path
from typing import Any

import html5lib
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from brightcanvas.css.sheets import RuleContext, SheetReading, read_sheet
from brightcanvas.page.found_hints import header_hints
from brightcanvas.promises.one_fetch import check_rules, sampled
from brightcanvas.promises.verdict import State

from .browsing import CHROMIUM, DRIVER, Browser, serving
from .conftest import call, noise, save_noise, write_brief
from .test_rules import file_at

CHECKER = Path(__file__).parent.parent / "node_modules/vnu-jar/build/dist/vnu.jar"

BRIEF = """
[site]
title = "Marrowfen Mill"
{site}
[[breakpoint]]
name = "narrow"
below = 600
[[breakpoint]]
name = "wide"

[[backdrop]]
name = "dusk"
source = "a.jpg"
element = ".dusk"
height = "60svh"
first_view = true
copy = {{ box = [0.1, 0.2, 0.5, 0.6], colour = "white", size = 30 }}
scrim = {{ strength = 0.4 }}
{keys}
[[backdrop]]
name = "reed"
source = "b.jpg"
element = "#reed"
height = "300px"
{end}
"""


def made(folder: Path, site: str = "", keys: str = "", end: str = "") -> Path:
    """A published build; its folder."""
    save_noise(folder / "a.jpg", 900, 600, seed=1)
    save_noise(folder / "b.jpg", 500, 300, seed=2)
    ran = call("build", write_brief(folder, BRIEF.format(site=site, keys=keys, end=end)))
    assert ran.status == 0, ran.err
    return folder / "published"


def tree_of(path: Path) -> Any:
    return html5lib.parse(path.read_text("utf-8"), namespaceHTMLElements=False)


def css_errors(text: str) -> list[str]:
    """What a parser of CSS stumbles over; a selector that is merely unknown is none of it."""
    reading = SheetReading()
    read_sheet(text, RuleContext(""), lambda _: None, reading)
    return [one for one in reading.unread if one.startswith("line ")]


def ledger_of(published: Path) -> Any:
    return json.loads((published / "ledger.json").read_text("utf-8"))


@pytest.fixture(scope="module")
def elements(tmp_path_factory: pytest.TempPathFactory) -> Path:
    keys = 'form = "element"\nalternative = "The mill, \\"at dusk\\" <3"'
    return made(tmp_path_factory.mktemp("forms"), keys=keys)


@pytest.mark.slow
def test_an_element_states_its_size_and_what_it_says(elements: Path) -> None:
    tree = tree_of(elements / "markup.html")
    image = next(tree.iter("img"))
    assert image.get("alt") == 'The mill, "at dusk" <3'
    assert int(image.get("width")) > int(image.get("height")) > 0
    sources = list(tree.iter("source"))
    assert all(one.get("width") and one.get("srcset") for one in sources)
    published = json.loads((elements / "ledger.json").read_text("utf-8"))["backdrops"][0]
    newer = {
        asset["format"]
        for part in published["breakpoints"]
        for size in part["sizes"]
        for asset in size["assets"]
        if asset != part["oldest"]
    }
    assert newer == {"image/avif"}
    assert {one.get("type") for one in sources} == {*newer, None}
    rules = (elements / "backdrops.css").read_text("utf-8")
    assert "background-image: url" not in rules.split("/* reed */")[0]


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
def test_an_element_fetches_the_hinted_file_once_and_fills_its_box(elements: Path) -> None:
    ledger, browser = ledger_of(elements), Browser()
    with serving(elements) as site:
        for width, density in ((360, 3.0), (599, 1.0), (600, 2.0), (1300, 1.0)):
            browser.open(f"{site.address}/try-it.html", width, 800, density)
            time.sleep(0.2)
            expected = {
                str(file_at(ledger, name, width, 800, density)) for name in ("dusk", "reed")
            }
            fetched = site.pictures()
            assert sorted(fetched) == sorted(expected), (width, density)
            box = browser.evaluate(
                "[...document.querySelectorAll('.dusk, .dusk img')].map((one) => {"
                "const {x, y, width, height} = one.getBoundingClientRect();"
                "return [x, y, width, height].join() })"
            )
            assert isinstance(box, list)
            assert box[0] == box[1]
            assert browser.console() == []
    browser.close()


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
@pytest.mark.parametrize("form", ["background", "element"])
def test_nothing_moves_while_it_loads(tmp_path: Path, form: str) -> None:
    published = made(tmp_path, keys=f'form = "{form}"')
    browser = Browser()
    browser.before_pages(
        "window.moved = 0; new PerformanceObserver((list) => {"
        "for (const one of list.getEntries()) window.moved += one.value;"
        '}).observe({ type: "layout-shift", buffered: true });'
    )
    with serving(published) as site:
        browser.open(f"{site.address}/try-it.html", 900, 700)
        time.sleep(0.4)
        assert browser.evaluate("window.moved") == 0
        assert site.pictures()
    browser.close()


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
@pytest.mark.parametrize(("keys", "wins"), [("force = true", True), ("", False)])
def test_force_wins_against_inline_styles(tmp_path: Path, keys: str, *, wins: bool) -> None:
    published = made(tmp_path, keys=keys)
    save_noise(published / "host.png", 30, 20)
    page = published / "host.html"
    page.write_text(
        '<!doctype html><link rel="icon" href="data:,">'
        f"<style>{(published / 'backdrops.css').read_text('utf-8')}</style>"
        '<section class="dusk" style="background: url(host.png); min-height: 40px"></section>',
        "utf-8",
    )
    browser = Browser()
    with serving(published) as site:
        browser.open(f"{site.address}/host.html", 900, 700)
        time.sleep(0.6)
        fetched = site.pictures()
        high = browser.evaluate("document.querySelector('.dusk').clientHeight")
    browser.close()
    assert ("host.png" in fetched) is not wins
    assert (high == 420) is wins
    assert len(fetched) == 1


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
def test_padding_shrinks_and_counts_into_the_height(tmp_path: Path) -> None:
    keys = 'padding = "96px 5vw"\n[backdrop.at.narrow]\npadding = "2rem 4svh"'
    published = made(tmp_path, keys=keys)
    rules = (published / "backdrops.css").read_text("utf-8")
    assert "padding: 2rem 4vh;" in rules
    browser = Browser()
    asked = (
        "[document.querySelector('.dusk').clientHeight,"
        " getComputedStyle(document.querySelector('.dusk')).padding]"
    )
    with serving(published) as site:
        browser.open(f"{site.address}/try-it.html", 1000, 800)
        assert browser.evaluate(asked) == [480, "96px 50px"]
        browser.open(f"{site.address}/try-it.html", 400, 800)
        assert browser.evaluate(asked) == [480, "32px"]
    published = made(tmp_path, keys='padding = "300px 0"')
    with serving(published) as site:
        browser.open(f"{site.address}/try-it.html", 1000, 800)
        high = browser.evaluate("document.querySelector('.dusk').clientHeight")
        assert high == 600, "as the plan reckons"
    browser.close()


@pytest.mark.slow
def test_a_layer_holds_all_rules(tmp_path: Path) -> None:
    rules = (made(tmp_path, site='layer = "backdrops"') / "backdrops.css").read_text("utf-8")
    assert rules.startswith("@layer backdrops {\n")
    assert css_errors(rules) == []


@pytest.mark.slow
def test_a_list_of_addresses_is_used_and_what_lacks_one_is_told(tmp_path: Path) -> None:
    published = made(tmp_path, site='address = "/up/"')
    names = [one["file"] for one in ledger_of(published)["files"]]
    pictures = [one for one in names if one.endswith((".avif", ".webp", ".jpg"))]
    listed = [f"{name},https://files.example/9f/{number}" for number, name in enumerate(pictures)]
    (tmp_path / "addresses.csv").write_text("\n".join(listed[1:]) + "\n", "utf-8")
    brief = tmp_path / "brief.toml"
    text = brief.read_text("utf-8").replace('address = "/up/"', 'addresses = "addresses.csv"')
    brief.write_text(text, "utf-8")
    ran = call("build", brief)
    assert ran.status == 0, ran.err
    assert "1 files have no address in the list yet" in ran.out
    assert pictures[0] in ran.out
    rules = (published / "backdrops.css").read_text("utf-8")
    head = (published / "head.html").read_text("utf-8")
    assert all(name not in rules + head for name in pictures[1:])
    assert "https://files.example/9f/" in rules
    assert "https://files.example/9f/" in head
    again = (tmp_path / "addresses.csv").read_text("utf-8").replace("/9f/", "/a0/")
    (tmp_path / "addresses.csv").write_text(again, "utf-8")
    assert call("build", brief).status == 0
    assert "/a0/" in (published / "backdrops.css").read_text("utf-8")


@pytest.mark.parametrize("url", ["javascript:alert(1)", "data:text/html;x", "a b"])
def test_what_is_no_web_address_is_refused(tmp_path: Path, url: str) -> None:
    save_noise(tmp_path / "a.jpg")
    save_noise(tmp_path / "b.jpg")
    (tmp_path / "list.csv").write_text(f"dusk.avif,{url}\n", "utf-8")
    text = BRIEF.format(site='addresses = "list.csv"', keys="", end="")
    ran = call("build", write_brief(tmp_path, text))
    assert ran.status == 2
    assert f"{url!r}, for dusk.avif, is no web address" in ran.err


@pytest.mark.slow
def test_each_page_gets_its_own_hints(tmp_path: Path) -> None:
    pages = {"home": "dusk", "inn": "reed"}.items()
    end = "\n".join(f'[[page]]\nname = "{one}"\nbackdrops = ["{two}"]' for one, two in pages)
    published = made(tmp_path, end=end)
    whole = (published / "head-home.html").read_text("utf-8")
    assert whole.count("<link") == whole.count("dusk-") > 0
    assert (published / "head-inn.html").read_text("utf-8") == ""
    assert "dusk-" in (published / "headers-home.txt").read_text("utf-8")
    assert "as=style" in (published / "early-hints-home.txt").read_text("utf-8")
    for name in ("headers", "early-hints"):
        assert (published / f"{name}-inn.txt").read_text("utf-8") == ""
        assert not (published / f"{name}.txt").exists()
    assert not (published / "head.html").exists(), "it would be pasted into every page"
    pasted = (published / "paste.html").read_text("utf-8")
    assert "Head of the page home" in pasted
    assert "of the page inn" not in pasted, "it has nothing to hint at"


@pytest.mark.slow
def test_the_summary_names_the_files_of_each_page(tmp_path: Path) -> None:
    backdrop = '[[backdrop]]\nsource = "{0}.jpg"\nelement = ".{0}"\nfirst_view = true\n'
    page = '[[page]]\nname = "{0}"\nbackdrops = ["{1}"]\n'
    names = ("dusk", "reed", "fen")
    for number, name in enumerate(names):
        Image.fromarray(noise(200, 120, seed=number)).save(tmp_path / f"{name}.jpg")
    text = "".join(backdrop.format(one) for one in names)
    brief = write_brief(tmp_path, text + page.format("home", "dusk") + page.format("inn", "reed"))
    told = call("build", brief).out
    assert "Each page has hints of its own: head-home.html, head-inn.html" in told
    listed = call("build", brief, "--all").out
    assert "hints for the head of the page inn" in listed
    hints = {
        one: (tmp_path / f"published/head-{one}.html").read_text("utf-8") for one in ("home", "inn")
    }
    assert ["dusk-" in hints["home"], "reed-" in hints["home"], "fen-" in hints["home"]] == [
        True, False, True,
    ]  # fmt: skip
    assert "fen-" in hints["inn"], "what no page lists is on all of them"


@pytest.mark.parametrize(
    ("site", "keys", "end", "says"),
    [
        ('layer = "a{}"', "", "", "the name of a layer"),
        ('addresses = "none.csv"', "", "", "no list of URLs"),
        ("", 'padding = "5px; x"', "", "one to four lengths"),
        ("", 'alternative = "x"', "", "needs form = 'element'"),
        ("", 'form = "element"\nrepeat = "repeat"', "", "exclude each other"),
        ("", 'form = "element"\nsize = "240px"', "", "expected cover or contain"),
        ("", "", '[[page]]\nname = "x"\nbackdrops = ["dusc"]', "did you mean dusk"),
    ],
)
def test_what_can_not_be_is_refused(
    tmp_path: Path, site: str, keys: str, end: str, says: str
) -> None:
    save_noise(tmp_path / "a.jpg")
    save_noise(tmp_path / "b.jpg")
    ran = call("build", write_brief(tmp_path, BRIEF.format(site=site, keys=keys, end=end)))
    assert ran.status == 2
    assert says in ran.err
    assert not (tmp_path / "published").exists()


def test_headers_say_what_the_hints_say(elements: Path) -> None:
    head = tree_of(elements / "head.html")
    hints = [(one.get("href"), one.get("media"), one.get("type")) for one in head.iter("link")]
    headers = header_hints((elements / "headers.txt").read_text("utf-8"))
    said = [(one.url, one.attributes["media"], one.attributes["type"]) for one in headers]
    assert said == hints
    assert hints


def block(published: Path, title: str) -> str:
    page = tree_of(published / "paste.html")
    return next(one.text or "" for one in page.iter("textarea") if one.get("aria-label") == title)


def test_blocks_to_paste_are_the_files(elements: Path) -> None:
    assert block(elements, "Style box") == (elements / "backdrops.css").read_text("utf-8")
    assert block(elements, "Body") == (elements / "markup.html").read_text("utf-8")
    assert block(elements, "Head") == (elements / "head.html").read_text("utf-8")


@pytest.mark.skipif(
    not (CHECKER.is_file() and shutil.which("java")),
    reason="no HTML checker here: see scripts/test",
)
def test_the_html_passes_the_checker(elements: Path, demo: Any, tmp_path: Path) -> None:
    markup = (elements / "markup.html").read_text("utf-8")
    head = (elements / "head.html").read_text("utf-8")
    page = tmp_path / "page.html"
    page.write_text(
        f'<!doctype html><html lang="en"><head><title>x</title>{head}</head><body>{markup}</body>',
        "utf-8",
    )
    pages = [page, demo.published / "try-it.html", elements / "paste.html"]
    command = ["java", "-jar", str(CHECKER), "--errors-only", "--stdout", *map(str, pages)]
    told = subprocess.run(command, capture_output=True, text=True, check=False).stdout
    # It knows no image-set() at all (CSS Images 4), not even the simplest one.
    assert [line for line in told.splitlines() if "image-set(" not in line] == []


def test_the_rules_parse_without_an_error(elements: Path, demo: Any) -> None:
    for published in (elements, demo.published):
        assert css_errors((published / "backdrops.css").read_text("utf-8")) == []


def test_one_fetch_is_told_and_notices_an_overlap(demo: Any) -> None:
    told = [one for one in demo.ledger["promises"] if one["promise"] == "one fetch"]
    assert {one["backdrop"] for one in told} == {one["name"] for one in demo.ledger["backdrops"]}
    assert all(one["holds"] for one in told)
    rules = (demo.published / "backdrops.css").read_text("utf-8").split("/* bakery */")[0]
    head = (demo.published / "head.html").read_text("utf-8")
    assert check_rules("mill", rules, "", head, is_hinted=True).holds
    wider = head.replace("(max-width: 1099.98px)", "(max-width: 1100.98px)")
    broken = check_rules("mill", rules, "", wider, is_hinted=True)
    assert not broken.holds
    assert "a window of 1100 x" in broken.says


def test_one_fetch_looks_beyond_usual_windows(demo: Any) -> None:
    """A file that lacks its hint on very wide and on very low windows."""
    rules = (demo.published / "backdrops.css").read_text("utf-8").split("/* bakery */")[0]
    head = (demo.published / "head.html").read_text("utf-8")
    last = head.rindex("(min-width: ")
    for cut in (
        "(max-width: 2999.98px) and ",
        "(min-height: 300px) and ",
        "(max-height: 1700px) and ",
    ):
        cut_off = f"{head[:last]}{cut}{head[last:]}"
        broken = check_rules("mill", rules, "", cut_off, is_hinted=True)
        assert not broken.holds, cut


DARK = "(prefers-color-scheme: dark)"
LAYERS = """.a { background-image: url(light.jpg); }
@media (prefers-color-scheme: dark) { .a { background-image: url(dark.jpg); } }
@media print { .a { background-image: none; } }"""


def hint_of(file: str, media: str) -> str:
    return f'<link rel="preload" as="image" href="{file}" media="{media}">'


def test_one_fetch_looks_at_words_that_rules_ask_for() -> None:
    """A hint that is right in the light only isn't certified by light windows."""
    light = hint_of("light.jpg", "screen and (prefers-color-scheme: light)")
    good = light + hint_of("dark.jpg", f"screen and {DARK}")
    found = check_rules("mill", LAYERS, "", good, is_hinted=True)
    assert found.state is State.HOLDS, found.says
    assert ", prefers-color-scheme" in found.says
    for wrong, where in (
        (light + hint_of("light.jpg", f"screen and {DARK}"), "prefers-color-scheme: dark"),
        (hint_of("light.jpg", "screen"), "prefers-color-scheme: dark"),
        (good.replace(f"screen and {DARK}", DARK), "medium: print"),
    ):
        broken = check_rules("mill", LAYERS, "", wrong, is_hinted=True)
        assert broken.state is State.BROKEN
        assert where in broken.says


@pytest.mark.parametrize(
    "media",
    [
        "(min-aspect-ratio: 4/3)", "(min-width: 40em)", "(width >= 600px)", "not print",
        "(prefers-color-scheme: sepia)", "(min-resolution: 2dppx)", "tv", "(resolution)",
        "(min-width: 600px) or (orientation: portrait)",
    ],
)  # fmt: skip
def test_one_fetch_says_what_it_has_not_looked_at(media: str) -> None:
    rules = f".a {{ background-image: url(a.jpg); }} @media {media} {{ .a {{ color: red; }} }}"
    whole = rules.replace("color: red", "background-image: url(b.jpg)")
    found = check_rules("mill", whole, "", "", is_hinted=False)
    assert found.state is State.NOT_MEASURED
    assert media.split(" or ")[0] in found.says


def test_browsers_without_newer_syntax_fetch_one_file_too(demo: Any, elements: Path) -> None:
    """They drop what they don't know: all that asks for a length of today."""
    for published in (demo.published, elements):
        rules = (published / "backdrops.css").read_text("utf-8").split("/* bakery */")[0]
        old = re.sub(
            r"(?s)@supports \(width: mod\(1lh,1px\)\) {.*?\n}", "", rules.split("/* reed */")[-1]
        )
        assert old != rules
        shown = [one.shown for one in sampled(old, "", "")]
        assert {len(one) for one in shown} == {1}
        assert all(one[0].endswith(".jpg") for one in shown)


@pytest.mark.slow
def test_one_fetch_at_every_whole_width_and_density(elements: Path) -> None:
    """The windows that stand for all, against all of them."""
    rules = (elements / "backdrops.css").read_text("utf-8").split("/* reed */")[1]
    ledger = ledger_of(elements)
    for width in range(320, 2561):
        for quarter in range(4, 17):
            assert file_at(ledger, "reed", width, 800, quarter / 4), (width, quarter / 4)
    assert check_rules("reed", rules, "", "", is_hinted=False).holds


NASTY = st.text(
    alphabet=st.sampled_from(list("\"'<>&{}()[];:/\\@!#%$`=\n\t -.,ax0é\u2028")), max_size=30
) | st.sampled_from(["</style><script>alert(1)</script>", "javascript:alert(1)", "*/ x{}", "a\nb"])


@pytest.fixture(scope="module")
def ground(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder whose pictures are made already, so that each further build only writes rules."""
    folder = tmp_path_factory.mktemp("nasty")
    made(folder, keys='form = "element"')
    return folder


HARMLESS = {
    "title": "Marrowfen Mill", "words": "the mill", "address": "/up/", "selector": ".dusk",
    "url": "https://files.example/1", "layer": "backdrops",
}  # fmt: skip


@pytest.mark.slow
@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(place=st.sampled_from(sorted(HARMLESS)), nasty=NASTY)
def test_nasty_text_comes_out_inert_or_is_refused(ground: Path, place: str, nasty: str) -> None:
    """Whatever stands in a brief, no element, rule or header is born of it."""
    said = {**HARMLESS, place: nasty}
    names = [one.name for one in (ground / "published").glob("dusk-*")]
    row = said["url"].replace('"', '""')
    (ground / "addresses.csv").write_text(f'{names[0]},"{row}"\n', "utf-8")
    text = BRIEF.format(
        site=f'address = {json.dumps(said["address"])}\naddresses = "addresses.csv"\n'
        f"layer = {json.dumps(said['layer'])}",
        keys=f'form = "element"\nalternative = {json.dumps(said["words"])}',
        end="",
    )
    text = text.replace('"Marrowfen Mill"', json.dumps(said["title"]))
    text = text.replace('".dusk"', json.dumps(said["selector"]))
    (ground / "brief.toml").write_text(text, "utf-8")
    ran = call("build", ground / "brief.toml")
    assert ran.status in (0, 2), ran.err
    assert "Traceback" not in ran.err
    if ran.status == 0:
        look_for_strangers(ground / "published")


def look_for_strangers(published: Path) -> None:
    page = tree_of(published / "try-it.html")
    assert not list(page.iter("script"))
    assert not [
        name
        for one in page.iter()
        if isinstance(one.tag, str)
        for name in one.attrib
        if name.startswith("on")
    ]
    rules = (published / "backdrops.css").read_text("utf-8")
    assert css_errors(rules) == []
    assert "</style" not in rules
    for line in (published / "headers.txt").read_text("utf-8").splitlines():
        assert line.startswith("Link: <")
    pasted = tree_of(published / "paste.html")
    assert len(list(pasted.iter("script"))) == 1
    for one in tree_of(published / "head.html").iter("link"):
        assert not one.get("href", "").strip().lower().startswith("javascript:")
