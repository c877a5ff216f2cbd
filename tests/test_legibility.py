"""Contrast of copy: the figures, the weakest repair, and what a real Chromium shows."""

from __future__ import annotations

import json
from collections.abc import Iterator
from functools import cache
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from brightcanvas.analysis.legibility import (
    SPARE,
    grounds,
    least_scrim,
    lowest_contrast,
    plain_contrast,
    scrim_colour_for,
)
from brightcanvas.colour.contrast import channels, contrast, luminance, over
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.plan.planned import Plan
from brightcanvas.tasks.copy import contrast_in_window
from brightcanvas.tasks.of_views import judged_task, size_tasks
from brightcanvas.values.colours import Colour, parse_colour
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import Letters, Scrim
from brightcanvas.values.raster import Raster

from .browsing import CHROMIUM, DRIVER, Browser, serving
from .conftest import call, noise, plan_of, save_noise, write_brief
from .test_rules import file_at, part_at

WHITE, BLACK = parse_colour("white"), parse_colour("black")


@pytest.mark.parametrize(
    ("one", "other", "ratio"),
    [("white", "black", 21), ("#777", "white", 4.48), ("#767676", "white", 4.54),
     ("red", "white", 4.0), ("#06c", "#fff", 5.57)],
)  # fmt: skip
def test_contrast_is_that_of_wcag(one: str, other: str, ratio: float) -> None:
    ratio_ = contrast(*(luminance(channels(parse_colour(text))) for text in (one, other)))
    assert round(float(ratio_), 2) == ratio


@pytest.mark.slow
@given(
    st.tuples(*[st.integers(0, 255)] * 3), st.tuples(*[st.integers(0, 255)] * 3), st.floats(0, 1)
)
def test_compositing_agrees_with_another_implementation(
    below: tuple[int, ...], above: tuple[int, ...], alpha: float
) -> None:
    ours = over(np.array(below) / 255, Colour(*(part / 255 for part in above)), alpha) * 255
    layer = Image.new("RGBA", (1, 1), (*above, round(alpha * 255)))
    page = Image.new("RGBA", (1, 1), (*below, 255))
    theirs = np.asarray(Image.alpha_composite(page, layer))[0, 0, :3]
    assert np.abs(ours - theirs).max() <= 1.6


def ground_of(pixels: NDArray[np.uint8], letters: Letters) -> Any:
    return grounds(Raster(pixels), [Rect(0.1, 0.1, 0.9, 0.9)], pixels.shape[1], letters, WHITE)


@pytest.mark.slow
@given(
    st.integers(0, 5),
    st.sampled_from(["white", "#ffe9c4", "black", "#123", "rgb(255 255 255 / 80%)"]),
    st.floats(12, 60),
    st.sampled_from([3.0, 4.5, 7.0]),
    st.sampled_from([False, True]),
)
@settings(max_examples=40)
def test_the_repair_is_the_weakest(
    seed: int,
    colour: str,
    size: float,
    wanted: float,
    lines: bool,  # noqa: FBT001 - drawn by name
) -> None:
    letters = Letters(parse_colour(colour), size, wanted=wanted)
    parts = ground_of(noise(200, 150, seed=seed), letters)
    tint = scrim_colour_for(letters)
    scrim = least_scrim(parts, letters, parse_colour("#808080"), tint, lines=lines)

    def reached(strength: float) -> float:
        weaker = Scrim(tint, strength, lines=lines)
        lowest = lowest_contrast(parts, letters, weaker).contrast
        return min(lowest, plain_contrast(parse_colour("#808080"), letters, weaker))

    if scrim is None:
        assert reached(0.95) < wanted * SPARE
        return
    assert reached(scrim.strength) >= wanted
    if scrim.strength >= 0.05:
        assert reached(scrim.strength * 0.95) < wanted * SPARE
    levels = [reached(step / 10) for step in range(10)]
    assert all(later >= earlier - 1e-6 for earlier, later in pairwise(levels))


def test_specks_smaller_than_a_stroke_count_little_and_larger_ones_in_full() -> None:
    letters = Letters(WHITE, 40)  # strokes of 4 px
    dark = np.full((300, 400, 3), 20, np.uint8)
    speck, patch = dark.copy(), dark.copy()
    speck[150, 200] = 255
    patch[140:160, 190:210] = 255
    assert lowest_contrast(ground_of(speck, letters), letters).contrast > 5
    assert lowest_contrast(ground_of(patch, letters), letters).contrast < 1.1


@pytest.mark.parametrize(
    ("size", "bold", "wanted"), [(16, False, 4.5), (24, False, 3), (19, True, 3)]
)
def test_large_text_needs_less(size: float, bold: bool, wanted: float) -> None:  # noqa: FBT001
    assert Letters(WHITE, size, bold).wanted_contrast == wanted


def picture(folder: Path, seed: int) -> None:
    """Soft blobs from dark to light, brighter to one side."""
    rng = np.random.default_rng(seed)
    field = ndimage.gaussian_filter(rng.random((500, 900, 3)), (14, 14, 0))
    field = (field - field.min()) / (field.max() - field.min())
    slope = np.linspace(0.25, 1, 900)[:: 1 if seed % 2 else -1]
    Image.fromarray((field * slope[None, :, None] * 255).astype(np.uint8)).save(
        folder / f"{seed}.png"
    )


COPY_BOX = (0.08, 0.2, 0.55, 0.8)
SCRIMS = ("", "", "", ", lines = true", "", ', side = "left"')
LETTERS = ("white", "#fff3d6", "#101418", "white", "black", "#e8f0ff")
WINDOWS = [
    (320, 480), (360, 640), (390, 800), (430, 740), (500, 900), (568, 320), (620, 500),
    (667, 340), (740, 360), (800, 600), (844, 390), (932, 430), (1000, 1000), (1024, 1366),
    (1100, 700), (1180, 820), (1280, 800), (1366, 650), (1440, 780), (1536, 730),
]  # fmt: skip


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Any]:
    """Six backdrops with letters of several colours, each with the scrim that they need."""
    folder = tmp_path_factory.mktemp("legible")
    text = '[site]\nwidest = 1600\noutput = "site"\nfiles = "few"\n'
    for seed, colour in enumerate(LETTERS):
        picture(folder, seed)
        text += (
            f'[[backdrop]]\nname = "b{seed}"\nsource = "{seed}.png"\nelement = "#b{seed}"\n'
            'height = "max(300px, 45svh)"\nbehind = "#808080"\n'
            f"scrim = {{ least = true{SCRIMS[seed]} }}\n"
            f'copy = {{ box = {list(COPY_BOX)}, colour = "{colour}", size = 30 }}\n'
        )
    ran = call("build", write_brief(folder, text))
    assert ran.status == 0, ran.out
    sections = "".join(f'<section id="b{seed}"></section>' for seed in range(len(LETTERS)))
    (folder / "site/p.html").write_text(
        '<!doctype html><link rel="icon" href="data:,"><link rel="stylesheet" href="backdrops.css">'
        f"<style>body {{ margin: 0; padding-bottom: 99px }}</style>{sections}"
    )
    return folder / "site", json.loads((folder / "site/ledger.json").read_text())


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    browser = Browser()
    yield browser
    browser.close()


@pytest.mark.slow
@pytest.mark.browser
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here")
def test_contrast_in_screenshots_is_never_below_the_promise(
    site: tuple[Path, Any], browser: Browser
) -> None:
    folder, ledger = site
    plan = plan_of(folder.parent / "brief.toml")
    off = []
    with serving(folder) as server:
        for width, height in WINDOWS:
            browser.open(f"{server.address}/p.html", width, height)
            element = max(300, 0.45 * height)
            screen = browser.page_top(round(element * len(LETTERS)))
            for seed, colour in enumerate(LETTERS):
                shown = screen[round(seed * element) : round((seed + 1) * element)]
                measured = measured_contrast(shown, parse_colour(colour))
                assert measured >= 3, "what is promised for letters of 30 px"
                assert measured >= promised(ledger, seed, width, height) - 0.005  # its last digit
                off.append(measured / predicted(plan, ledger, seed, Size(width, height)) - 1)
    assert len(off) == len(WINDOWS) * len(LETTERS)
    assert max(map(abs, off)) <= 0.02, max(map(abs, off))


def promised(ledger: Any, seed: int, width: int, height: int) -> float:
    """The lowest contrast that the ledger names for a backdrop at the breakpoint of a width."""
    part = part_at(ledger, f"b{seed}", width, height)
    name = f"{part['name']}-{part['part']}" if part["part"] else part["name"]
    (says,) = [
        verdict["says"]
        for verdict in ledger["promises"]
        if (verdict["promise"], verdict["backdrop"], verdict["breakpoint"])
        == ("readable", f"b{seed}", name)
    ]
    return float(says.split("contrast ")[1].split(":")[0])


@cache
def read_once(path: Path) -> Raster:
    return read_picture(path)


def predicted(plan: Plan, ledger: Any, seed: int, window: Size) -> float:
    """What the core predicts for one window, from the file that it is served."""
    shown = part_at(ledger, f"b{seed}", window.width, window.height)
    number = ledger["backdrops"][seed]["breakpoints"].index(shown)
    view = plan.backdrops[seed].views[number]
    assert view.picture is not None
    assert view.slot.behind is not None
    file = file_at(ledger, f"b{seed}", window.width, window.height, 1)
    shipped = read_once(plan.brief.output / str(file))
    scrim = (
        Scrim(
            parse_colour(shown["scrim"]["colour"]),
            shown["scrim"]["strength"],
            lines=shown["scrim"]["lines"],
        )
        if shown["scrim"]
        else None
    )
    return contrast_in_window(view, shipped, view.slot.behind, scrim, window)


def measured_contrast(shown: NDArray[np.uint8], colour: Colour) -> float:
    """The lowest contrast in a screenshot under the copy's box, over squares of a stroke."""
    height, width = shown.shape[:2]
    left, top, right, bottom = COPY_BOX
    part = shown[
        round(top * height) : round(bottom * height), round(left * width) : round(right * width)
    ]
    pooled = ndimage.uniform_filter(luminance(part / 255), 3)  # 30 px letters: strokes of 3 px
    return float(contrast(pooled, luminance(channels(colour))).min())


@pytest.mark.slow
def test_a_build_tells_the_scrim_that_would_do_and_uses_it_when_asked(tmp_path: Path) -> None:
    picture(tmp_path, 1)
    text = (
        '[[backdrop]]\nname = "b"\nsource = "1.png"\nelement = "p"\nheight = "300px"\n'
        'copy = { box = [0.5, 0.2, 0.95, 0.8], colour = "white" }\n'
    )
    ran = call("build", write_brief(tmp_path, text))
    assert ran.status == 1
    assert "BROKEN readable: b" in ran.out
    assert "% dark scrim would do" in ran.out.replace("\xa0", " ").replace(" %", "%")
    text += 'scrim = { least = true, side = "right" }\n'
    assert call("build", write_brief(tmp_path, text)).status == 0
    css = (tmp_path / "published/backdrops.css").read_text()
    assert "linear-gradient(to left, rgb(0 0 0 / " in css
    assert "background-size: auto, cover;" in css


@pytest.mark.slow
def test_copy_that_no_scrim_can_save_is_told_so(tmp_path: Path) -> None:
    picture(tmp_path, 2)
    text = (
        '[[backdrop]]\nname = "b"\nsource = "2.png"\nelement = "p"\nscrim = { least = true }\n'
        'copy = { box = [0.1, 0.2, 0.9, 0.8], colour = "#777", contrast = 7 }\n'
    )
    ran = call("build", write_brief(tmp_path, text))
    assert ran.status == 1
    assert "no scrim makes it readable: give the copy another place or another colour" in ran.out


@pytest.mark.slow
def test_a_scrim_is_baked_where_that_is_lighter_and_reads_as_well(tmp_path: Path) -> None:
    picture(tmp_path, 3)
    text = (
        '[[backdrop]]\nname = "b"\nsource = "3.png"\nelement = "p"\nheight = "300px"\n'
        'behind = "#333"\ncopy = { box = [0.1, 0.2, 0.6, 0.8], colour = "white", contrast = 9 }\n'
    )
    weights = {}
    for baked in ("no", "yes", "lighter"):
        brief = write_brief(tmp_path, f'{text}scrim = {{ least = true, baked = "{baked}" }}\n')
        ran = call("build", brief, "--json")
        assert ran.status == 0, ran.err
        shown = ran.facts["backdrops"][0]["breakpoints"]
        weights[baked] = [
            one["sizes"][number]["assets"][0]["bytes"]
            for one, number in zip(shown, judged_sizes(brief), strict=True)
        ]
        if baked != "lighter":
            assert all((one["scrim"] is not None) == (baked == "no") for one in shown)
    pairs = zip(weights["yes"], weights["no"], strict=True)
    assert weights["lighter"] == [min(pair) for pair in pairs]


def judged_sizes(brief: Path) -> list[int]:
    """The size by which each view is judged, and its scrim decided."""
    return [size_tasks(view).index(judged_task(view)) for view in plan_of(brief).views]


def test_no_place_under_wide_copy_is_missed() -> None:
    """One bright stroke decides, however wide the box is and however fine the letters are."""
    letters = Letters(WHITE, 16)
    pixels = np.full((300, 2560, 3), 30, np.uint8)
    pixels[140:146, 1900:1906] = 250
    narrow, wide = Rect(0.7, 0.2, 0.8, 0.8), Rect(0.02, 0.2, 0.98, 0.8)
    lowest = [
        lowest_contrast(grounds(Raster(pixels), [area], 2560, letters, BLACK), letters).contrast
        for area in (narrow, wide)
    ]
    assert lowest[1] <= lowest[0] * 1.02
    found = lowest_contrast(grounds(Raster(pixels), [wide], 2560, letters, BLACK), letters)
    assert found.place.x == pytest.approx(1903 / 2560, abs=0.003)
    assert found.place.y == pytest.approx(143 / 300, abs=0.01)


@pytest.mark.parametrize(("height", "lines", "holds"), [(800, 2, True), (550, 2, False)])
def test_a_box_that_can_not_hold_its_copy_is_told(
    tmp_path: Path, height: int, lines: int, *, holds: bool
) -> None:
    save_noise(tmp_path / "a.jpg", 600, 400)
    text = (
        f'[[backdrop]]\nsource = "a.jpg"\nelement = ".a"\nheight = "{height}px"\n'
        '[backdrop.copy]\nbox = [0.1, 0.1, 0.6, 0.2]\ncolour = "white"\nsize = 28\n'
        f"most_lines = {lines}\n"
    )
    promises = call("plan", write_brief(tmp_path, text), "--json").facts["promises"]
    told = [one for one in promises if one["promise"] == "room for the copy"]
    assert {one["holds"] for one in told} == {holds}
    assert all(f"{lines} lines of letters of 28 px take 64 px" in one["says"] for one in told)
