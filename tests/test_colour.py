"""Treatments, held against what they are said to do; trials side by side."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

from brightcanvas.analysis.legibility import BUSY_FROM, busyness, calming_blur, grounds
from brightcanvas.colour.spaces import light_from_oklab, light_of_code, oklab_from_light, to_light
from brightcanvas.colour.treatments import treated
from brightcanvas.values.colours import Tone, parse_colour
from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import Letters
from brightcanvas.values.raster import Raster

from .conftest import call, noise, save_noise, write_brief

PICTURE = Raster(noise(160, 600))


def light(picture: Raster) -> NDArray[np.float32]:
    return light_of_code()[picture.pixels]


def test_no_treatment_changes_nothing() -> None:
    assert treated(PICTURE, Tone()) is PICTURE


def test_darken_and_lighten_change_the_amount_of_light() -> None:
    assert np.abs(light(treated(PICTURE, Tone(darken=0.5))) - light(PICTURE) / 2).max() < 0.006
    lighter = light(treated(PICTURE, Tone(lighten=0.5)))
    assert np.abs((1 - lighter) - (1 - light(PICTURE)) / 2).max() < 0.006


def test_a_fade_is_what_compositing_gives() -> None:
    faded = treated(PICTURE, Tone(fade=0.4, fade_to=parse_colour("#205080"))).pixels
    below = Image.fromarray(PICTURE.pixels).convert("RGBA")
    layer = Image.new("RGBA", below.size, (0x20, 0x50, 0x80, 102))
    theirs = np.asarray(Image.alpha_composite(below, layer))[..., :3]
    assert np.abs(faded.astype(int) - theirs).max() <= 1


def test_oklab_agrees_with_its_published_values_and_goes_back() -> None:
    red = oklab_from_light(to_light(np.array([1.0, 0, 0])))
    assert np.allclose(red, [0.627955, 0.224863, 0.125846], atol=1e-4)
    assert np.allclose(
        light_from_oklab(oklab_from_light(light(PICTURE))), light(PICTURE), atol=1e-4
    )


def test_all_colour_gone_is_grey_and_all_contrast_gone_is_even() -> None:
    grey = treated(PICTURE, Tone(desaturate=1)).pixels.astype(int)
    assert np.ptp(grey, axis=2).max() <= 2
    even = treated(PICTURE, Tone(calm=1)).pixels
    assert np.ptp(even.reshape(-1, 3), axis=0).max() <= 1


def test_a_tint_lies_between_its_two_colours() -> None:
    ramp = np.linspace(0, 255, 256).astype(np.uint8)[None, :, None].repeat(2, 0).repeat(3, 2)
    tinted = treated(Raster(ramp), Tone(tint=(parse_colour("#001040"), parse_colour("#fff0d0"))))
    assert np.abs(tinted.pixels[0, 0].astype(int) - (0, 16, 64)).max() <= 2
    assert np.abs(tinted.pixels[0, -1].astype(int) - (255, 240, 208)).max() <= 2


def test_a_blur_keeps_the_light_and_a_ground_fills_transparency() -> None:
    soft = treated(PICTURE, Tone(soften=5))
    assert light(soft).std() < 0.7 * light(PICTURE).std()
    assert abs(light(soft).mean() - light(PICTURE).mean()) < 0.01
    clear = np.zeros((4, 4, 4), np.uint8)
    filled = treated(Raster(clear), Tone(ground=parse_colour("#0080ff")))
    assert filled.pixels.tolist() == [[[0, 128, 255]] * 4] * 4


def test_a_chequerboard_under_letters_is_busy_and_a_blur_calms_it() -> None:
    letters = Letters(parse_colour("white"), 20)
    rows, columns = np.mgrid[:400, :600] // 20
    codes = np.where((rows + columns) % 2, 150, 90).astype(np.uint8)[..., None].repeat(3, 2)
    parts = grounds(Raster(codes), [Rect(0, 0, 1, 1)], 600, letters, parse_colour("black"))
    assert busyness(parts, letters) > BUSY_FROM
    blur = calming_blur(parts, letters)
    assert blur
    assert busyness(parts, letters, blur) < BUSY_FROM
    even = Raster(np.full((400, 600, 3), 99, np.uint8))
    still = grounds(even, [Rect(0, 0, 1, 1)], 600, letters, parse_colour("black"))
    assert busyness(still, letters) == 0


@pytest.mark.slow
def test_the_tone_of_a_brief_reaches_the_files_and_flows_down(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.png", 900, 600)
    text = (
        '[[backdrop]]\nsource = "a.png"\nelement = "p"\ntone = { darken = 0.9, desaturate = 1 }\n'
        '[backdrop.at.handheld]\ntone = { fade = { colour = "white", amount = 1 } }\n'
    )
    facts = call("build", write_brief(tmp_path, text), "--json").facts
    by_name = {one["name"]: one for one in facts["backdrops"][0]["breakpoints"]}
    shown = [by_name[name] for name in ("handheld", "midsize", "desk")]
    means = []
    for one in shown:
        with Image.open(tmp_path / "published" / one["oldest"]["file"]) as image:
            means.append(float(np.asarray(image.convert("RGB")).mean()))
    assert means[0] > 253
    assert means[1] < 70
    assert means[2] < 70
    assert shown[0]["behind"] == "#ffffff"


@pytest.mark.slow
def test_trials_are_drawn_told_and_chosen(tmp_path: Path) -> None:
    path = save_noise(tmp_path / "a.jpg", 240, 160)
    ran = call(
        "trials", path, "--copy", "0.1,0.1,0.6,0.6", "--size", "40", "--choose", "2", "--json"
    )
    assert ran.status == 0
    trials = {trial["name"]: trial for trial in ran.facts["trials"]}
    assert trials["scrim 50%"]["lowest_contrast"] > trials["as it is"]["lowest_contrast"]
    assert trials["soften 8 px, baked"]["bytes"] < trials["as it is"]["bytes"] / 2
    assert 'copy = { box = [0.1, 0.1, 0.6, 0.6], colour = "white", size = 40 }' in ran.err
    with Image.open(tmp_path / "a-trials.png") as image:
        assert image.size == (1280, 1058)
    assert call("trials", path, "--copy", "0.1,0.1,0.6,0.6").status == 2
    other = call("trials", path, "--copy", "0.1,0.1,0.6,0.6", "--size", "40", "--choose", "3")
    assert other.status == 0, "choosing after looking"
    assert call("trials", path, "--copy", "0.2,0.1,0.6,0.6", "--choose", "3").status == 2


@pytest.mark.slow
@pytest.mark.parametrize(
    "arguments", [[], ["--copy", "0.5,0.5"], ["--copy", "0,0,1,1", "--colour", "bluish"],
                  ["--copy", "0,0,1,1", "--size", "0"], ["--copy", "0,0,1,1", "--choose", "99"]],
)  # fmt: skip
def test_trials_that_make_no_sense_are_refused(tmp_path: Path, arguments: list[str]) -> None:
    path = save_noise(tmp_path / "a.jpg", 90, 60)
    assert call("trials", path, *arguments).status == 2
    assert not (tmp_path / "a-trials.png").exists()
