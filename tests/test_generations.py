"""Browsers of ten years: each fetches one right file for every backdrop, and none a blank."""

from __future__ import annotations

import json
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as some

from brightcanvas.page.folder import folder_of
from brightcanvas.page.page_load import PageLoad, load
from brightcanvas.page.reading import Page, read_page

from .conftest import Demo, call, save_noise, write_brief
from .generations import GENERATIONS, Generation

WIDTHS = some.one_of(
    some.sampled_from([320, 360, 375, 390, 414, 430, 639, 640, 768, 844, 1024, 1099, 1100, 2200]),
    some.floats(320, 2800),
)  # fmt: skip
HEIGHTS, DENSITIES = some.integers(300, 1500), some.sampled_from([1, 1.25, 1.5, 2, 2.625, 3, 3.5])

WINDOWS = ((390, 844, 3), (844, 390, 2), (1440, 900, 1), (820, 1180, 2))

BACKDROPS = {"mill-at-dusk", "bakery", "woven-reed", "turning-sails"}
"""Those of the demo that show a picture everywhere."""


@pytest.fixture(scope="module")
def page(demo: Demo) -> Page:
    return read_page(folder_of(demo.published / "try-it.html"))


def pictures(found: PageLoad) -> list[str]:
    return [Path(urlsplit(one.url).path).name for one in found.pictures]


def backdrop(file: str) -> str:
    return file.rsplit("-", 2)[0]


def width_of(file: str) -> int:
    return int(file.rsplit("-", 2)[1].partition("x")[0])


@pytest.mark.slow
@pytest.mark.parametrize("generation", GENERATIONS, ids=lambda one: one.name)
@given(width=WIDTHS, height=HEIGHTS, density=DENSITIES)
def test_one_right_file_for_each_generation(
    page: Page, generation: Generation, width: float, height: int, density: float
) -> None:
    environment = generation.environment(width, height, density)
    found = load(page, environment)
    files = pictures(found)
    shown = [Path(urlsplit(url).path).name for one in found.shown for url in one.urls]
    assert sorted(set(files)) == sorted(set(shown)), "hinted, and not shown"
    assert len(files) == len({backdrop(one) for one in files}), "two files of one backdrop"
    assert {backdrop(one) for one in files} >= BACKDROPS, "a blank"
    for one in found.pictures:
        kind = urlsplit(one.url).path.rpartition(".")[2].replace("jpg", "jpeg")
        media = {"svg": "svg+xml"}.get(kind, kind)
        assert f"image/{media}" in generation.types, "a file that it can't decode"


@pytest.mark.slow
@pytest.mark.parametrize("generation", GENERATIONS, ids=lambda one: one.name)
@pytest.mark.parametrize(
    ("width", "height", "density"), [(390, 844, 3), (375, 667, 2), (412, 915, 2.6)]
)
def test_old_phones_get_a_sensible_size(
    page: Page, generation: Generation, width: int, height: int, density: float
) -> None:
    files = pictures(load(page, generation.environment(width, height, density)))
    hero = next(one for one in files if backdrop(one) == "mill-at-dusk")
    assert 1.8 * width <= width_of(hero) <= 1.1 * density * width + 100


def test_every_generation_of_the_table_is_another_one() -> None:
    seen = {(one.knows, one.types) for one in GENERATIONS}
    assert len(seen) == len(GENERATIONS)


@pytest.mark.slow
@pytest.mark.parametrize("more", ["", 'form = "element"', "first_view = true", "drift = 0.1"])
def test_one_right_file_from_a_brief_of_few_lines(tmp_path: Path, more: str) -> None:
    save_noise(tmp_path / "a.jpg", 700, 500)
    text = f'[[backdrop]]\nsource = "a.jpg"\nelement = ".a"\nheight = "60vh"\n{more}\n'
    brief = write_brief(tmp_path, text)
    assert call("build", brief).status in (0, 1)
    page = read_page(folder_of(tmp_path / "published/try-it.html"))
    ledger = json.loads((tmp_path / "published/ledger.json").read_text())
    assert ledger["backdrops"]
    for generation in GENERATIONS:
        for width, height, density in (
            (390, 844, 3),
            (844, 390, 2),
            (1440, 900, 1),
            (820, 1180, 2),
        ):
            found = load(page, generation.environment(width, height, density))
            assert len(found.pictures) == 1, (generation.name, width, pictures(found))
            assert found.useless == (), (generation.name, width)


@pytest.mark.slow
def test_a_box_of_some_aspect_has_a_height_where_aspects_are_unknown(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 200, 140)
    text = '[[backdrop]]\nsource = "a.jpg"\nelement = ".a"\nheight = "16/9"\nwidth = "{}"\n'
    for width, height in (("50%", "28.12vw"), ("min(100%, 800px)", "min(56.25vw, 450px)")):
        assert call("build", write_brief(tmp_path, text.format(width))).status in (0, 1)
        sheet = (tmp_path / "published/backdrops.css").read_text()
        assert f"@supports not (aspect-ratio: 1) {{\n  .a {{\n    min-height: {height};" in sheet
        assert "aspect-ratio: 16 / 9;" in sheet


@pytest.mark.slow
@pytest.mark.parametrize("form", ["background", "element"])
def test_no_file_is_published_that_no_browser_fetches(tmp_path: Path, form: str) -> None:
    save_noise(tmp_path / "a.jpg", 500, 340)
    text = f"""[[backdrop]]\nsource = "a.jpg"\nelement = ".a"\nheight = "60vh"\nform = "{form}"
formats = ["avif", "webp", "jpeg"]\nfirst_view = true\n"""
    assert call("build", write_brief(tmp_path, text)).status in (0, 1)
    published = tmp_path / "published"
    rules = (published / "backdrops.css").read_text() + (published / "markup.html").read_text()
    made = [one.name for one in published.iterdir() if one.suffix in (".avif", ".webp", ".jpg")]
    assert made
    assert [one for one in made if one not in rules] == []
    assert any(one.endswith(".webp") for one in made) == (form == "element")
