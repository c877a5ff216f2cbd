"""The measure of likeness, the search for the lightest file, palettes, budgets."""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image, ImageFilter

from brightcanvas.colour.resample import Reducible, resize
from brightcanvas.demo import setup
from brightcanvas.formats.codecs.avif import AVIF
from brightcanvas.formats.codecs.codec import RateCurve
from brightcanvas.formats.codecs.jpeg import EVEN_JPEG, JPEGS
from brightcanvas.formats.codecs.webp import WEBP
from brightcanvas.formats.pictures.picture_reading import decode, read_picture
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.quality.metric import Original, Viewing
from brightcanvas.quality.pictures.content import EVEN_AREAS, Content, even_share, is_flat_art
from brightcanvas.quality.pictures.lightest import PictureTarget, best_within, nearly_same, search
from brightcanvas.quality.pictures.palette import colours_of, reduced
from brightcanvas.quality.pictures.weighing import weighed
from brightcanvas.quality.search import TOO_HIGH, TOO_LOW, Found, Study, in_full, searched
from brightcanvas.values.colours import Colour
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.raster import Raster
from brightcanvas.values.targets import LEVELS

from .artefacts import FAULTS, place_for, planted
from .conftest import noise

SOURCES = Path(str(setup.__file__)).parent / "marrowfen-mill" / "sources"


def photograph(name: str = "mill-at-dusk.jpg", width: int = 900) -> Raster:
    source = read_picture(SOURCES / name)
    area = Rect(0, 0, source.size.width, source.size.height)
    return resize(source, area, width, round(width / source.size.aspect))


@pytest.fixture(scope="module")
def mill() -> Raster:
    return photograph()


def jpeg(picture: Raster, quality: int) -> Raster:
    return decode(encode(picture, Encoding(FileFormat.JPEG, quality=quality)))


def test_a_picture_is_wholly_like_itself(mill: Raster) -> None:
    score = Original(mill, Viewing()).score(mill)
    assert score.mean == pytest.approx(1, abs=1e-6)
    assert score.worst == pytest.approx(1, abs=1e-6)


@pytest.mark.slow
def test_scores_fall_with_quality_and_rise_with_density(mill: Raster) -> None:
    figures = {
        density: [
            Original(mill, Viewing(density)).score(jpeg(mill, quality)).figure
            for quality in (10, 30, 60, 90)
        ]
        for density in (1, 2, 3)
    }
    for row in figures.values():
        assert row == sorted(row)
    for low, high in zip(figures[1], figures[2], strict=True):
        assert low < high


def test_damage_is_found_where_it_is_and_no_good_mean_hides_it(mill: Raster) -> None:
    pixels = mill.pixels.copy()
    pixels[300:364, 600:664] = noise(64, 64)
    score = Original(mill, Viewing()).score(Raster(pixels))
    assert score.worst < 0.3 < score.mean
    assert score.place == pytest.approx((632 / 900, 332 / 600), abs=0.06)
    assert score.figure < LEVELS["thrifty"]


def eight_pictures() -> list[Raster]:
    """Parts of the demo's photographs, dark and light, smooth and busy, 640 px across."""
    places = {
        "mill-at-dusk.jpg": ((680, 60), (700, 440), (380, 440), (60, 380)),
        "bakery.jpg": ((0, 0), (560, 0), (0, 320), (560, 320)),
    }
    return [
        Raster(np.ascontiguousarray(photograph(name, across).pixels[y : y + 480, x : x + 640]))
        for (name, corners), across in zip(places.items(), (1400, 1200), strict=True)
        for x, y in corners
    ]


POINTED_AT = {"blocks": 4, "ringing": 0.4, "blur": 1.7, "banding": 24, "bleeding": 16}
"""Strengths at which each fault can be pointed at in a side by side look at 100 %."""


@pytest.mark.slow
@pytest.mark.parametrize("fault", sorted(FAULTS))
def test_planted_faults_are_ordered_and_none_is_hidden(fault: str) -> None:
    """Two regions of some seventy hold the fault; the rest is the original to the last bit."""
    for number, picture in enumerate(eight_pictures()):
        original, place = Original(picture, Viewing()), place_for(picture, fault)
        strengths = FAULTS[fault][1]
        figures = [original.score(planted(picture, fault, one, place)).figure for one in strengths]
        assert figures == sorted(figures, reverse=True), (number, figures)
        seen = figures[strengths.index(POINTED_AT[fault])]
        assert seen < LEVELS["everyday"], (number, figures)
        assert figures[0] > seen


def test_steps_on_a_grid_count_more_than_the_same_steps_off_it() -> None:
    sky = np.full((256, 256, 3), 90, np.uint8)
    original = Original(Raster(sky), Viewing())
    figures = []
    for shift in (0, 4):
        stepped = sky.copy()
        stepped[:, 64 + shift : 192 + shift] += 2
        figures.append(original.score(Raster(stepped)).worst)
    assert figures[0] < figures[1] - 0.005


def test_a_smaller_file_is_judged_as_the_browser_shows_it(mill: Raster) -> None:
    area = Rect(0, 0, mill.size.width, mill.size.height)
    small = resize(mill, area, 450, 300)
    plain, dense = (Original(mill, Viewing(density)).score(small) for density in (1, 2))
    assert plain.figure < LEVELS["thrifty"]
    assert dense.figure > plain.figure


def test_banding_is_seen_though_its_steps_are_small() -> None:
    slope = np.linspace(60, 120, 512)
    sky = np.broadcast_to(slope[:, None, None], (512, 512, 3))
    smooth = Raster(np.round(sky).astype(np.uint8))
    banded = Raster((np.round(sky / 12) * 12).astype(np.uint8))
    fine = Raster((np.round(sky / 2) * 2).astype(np.uint8))
    original = Original(smooth, Viewing())
    assert original.score(banded).figure < LEVELS["thrifty"]
    assert original.score(fine).figure > LEVELS["everyday"]


def test_under_a_veil_less_is_seen(mill: Raster) -> None:
    worse = jpeg(mill, 20)
    veiled = Original(mill, Viewing(1, Colour(0, 0, 0, 0.8))).score(worse)
    assert veiled.figure > Original(mill, Viewing()).score(worse).figure


@settings(max_examples=25)
@given(
    width=st.integers(1, 90),
    height=st.integers(1, 90),
    channels=st.sampled_from([3, 4]),
    density=st.floats(0.3, 6),
)
def test_any_size_has_a_score(width: int, height: int, channels: int, density: float) -> None:
    one, other = (Raster(noise(width, height, channels, seed)) for seed in (0, 1))
    original = Original(one, Viewing(density))
    assert original.score(one).figure == pytest.approx(1, abs=1e-5)
    assert 0 <= original.score(other).figure <= 1 + 1e-6


@pytest.mark.slow
@pytest.mark.parametrize("curve", [AVIF, WEBP, *JPEGS], ids=lambda one: one.name)
@pytest.mark.parametrize("level", sorted(LEVELS))
def test_the_search_hits_its_target(mill: Raster, curve: RateCurve, level: str) -> None:
    target = LEVELS[level]
    found = searched(Study(mill, Viewing(1.3)), curve, target)
    measured = Original(mill, Viewing(1.3)).score(decode(found.content))
    assert measured.figure == pytest.approx(found.score.figure, abs=1e-6)
    # A step of a codec's quality may be larger than the window.
    assert TOO_LOW <= found.score.figure - target <= 2 * TOO_HIGH


def test_a_file_of_fewer_px_is_judged_as_the_screen_shows_it() -> None:
    """A soft picture on a dense screen needs no px for each of the screen's."""
    soft = Raster(
        np.asarray(
            Image.fromarray(photograph(width=640).pixels).filter(ImageFilter.GaussianBlur(2))
        )
    )
    wanted = PictureTarget(LEVELS["everyday"], (FileFormat.JPEG,))
    content = Content(has_alpha=False, is_flat=False)
    (whole,) = search(Study(soft, Viewing(2.0)), content, wanted)
    (found,) = search(Study(soft, Viewing(2.0)), content, replace(wanted, shrink=0.6))
    assert len(found.content) <= 0.8 * len(whole.content)
    assert found.size == (384, 256)
    assert decode(found.content).size == Size(384, 256)
    again = Original(soft, Viewing(2.0)).score(decode(found.content))
    assert again.figure == pytest.approx(found.score.figure, abs=1e-6)
    assert again.figure >= LEVELS["everyday"] + TOO_LOW


@pytest.mark.slow
def test_quick_trials_foretell_bytes_sizes_and_qualities() -> None:
    """Of a picture that they have seen a few squares of only."""
    picture = photograph(width=1500)
    tried = weighed(Reducible(picture), LEVELS["everyday"], None)
    for width in (500, 1000):
        small = photograph(width=width)
        (found,) = search(
            Study(small, Viewing()), Content(has_alpha=False, is_flat=False),
            PictureTarget(LEVELS["everyday"], (FileFormat.AVIF,)),
        )  # fmt: skip
        foretold = tried.weights.bytes(small.size.width * small.size.height, 1.0)
        assert 0.5 < foretold / len(found.content) < 2, width
    assert tried.weights.bytes(1e6, 2) < tried.weights.bytes(1e6, 1)
    assert tried.weights.bytes(1e6, 1) < tried.weights.bytes(2e6, 1)
    fitting = tried.fitting(AVIF.name, 1.4)
    assert fitting is not None
    assert fitting.shrink == 1


@pytest.mark.slow
def test_the_best_within_a_budget_fits_and_fills_it(mill: Raster) -> None:
    study = Study(mill, Viewing())
    for curve in (AVIF, WEBP, EVEN_JPEG):
        found = best_within(study, curve, 30_000)
        assert found is not None
        assert 0.85 * 30_000 <= len(found.content) <= 30_000
    assert best_within(study, EVEN_JPEG, 500) is None


def test_a_scan_keeps_the_pixels_and_is_the_smaller_one() -> None:
    small = Raster(noise(24, 24))
    progressive = encode(small, Encoding(FileFormat.JPEG, quality=60))
    encoding = Encoding(FileFormat.JPEG, quality=60)
    score = Original(small, Viewing()).score(small)
    found = in_full(Study(small, Viewing()), Found(encoding, progressive, score))
    assert len(found.content) <= len(progressive)
    assert (decode(found.content).pixels == decode(progressive).pixels).all()
    draft = encode(small, replace(encoding, draft=True))
    assert (decode(draft).pixels == decode(progressive).pixels).all()


def drawing() -> NDArray[np.uint8]:
    pixels = np.full((200, 300, 3), (230, 226, 200), np.uint8)
    pixels[40:120, 60:200] = (60, 110, 140)
    pixels[150:156] = (180, 40, 30)
    return pixels


def test_a_soft_photograph_in_greys_is_no_flat_art(mill: Raster) -> None:
    """It has even areas and 256 colours at most, as a drawing has, but far more than a drawing."""
    grey = Image.fromarray(mill.pixels[..., :3]).convert("L").filter(ImageFilter.GaussianBlur(9))
    drawn = Image.fromarray(drawing()).convert("L").rotate(3, Image.Resampling.BICUBIC)
    soft, plain = (Raster(np.asarray(one.convert("RGB"))) for one in (grey, drawn))
    assert even_share(soft) > EVEN_AREAS
    assert (is_flat_art(soft), is_flat_art(plain)) == (False, True)


@pytest.mark.slow
def test_few_colours_keep_even_areas_exactly() -> None:
    picture = Image.fromarray(drawing()).rotate(3, Image.Resampling.BICUBIC, fillcolor=(1, 2, 3))
    soft = Raster(np.asarray(picture))
    few = reduced(soft, 16)
    assert 4 < len(colours_of(few).codes) <= 16
    assert len(colours_of(soft).codes) > 100
    inside = (slice(60, 100), slice(90, 170))
    assert (few.pixels[inside] == soft.pixels[inside]).all()
    assert Original(soft, Viewing()).score(few).figure > 0.95


def test_slopes_are_mixed_from_few_colours() -> None:
    slope = np.tile(np.linspace(0, 255, 256).astype(np.uint8)[None, :, None], (64, 1, 3))
    few = reduced(Raster(slope), 8)
    assert len(colours_of(few).codes) <= 8
    blocks = few.pixels[..., 0].reshape(64, 16, 16).mean(axis=(0, 2))
    wanted = slope[..., 0].reshape(64, 16, 16).mean(axis=(0, 2))
    away = np.abs(blocks - wanted)
    assert away[1:-1].max() < 2  # beyond the outermost entries there is nothing to mix with
    assert away.max() < 16


def test_transparency_is_kept_in_few_colours() -> None:
    pixels = np.dstack([drawing(), np.full((200, 300), 255, np.uint8)])
    pixels[:30, :, 3] = 0
    pixels[30:40, :, 3] = noise(300, 10, 1)[..., 0]
    few = reduced(Raster(pixels), 12)
    assert (few.pixels[:30, :, 3] == 0).all()
    assert (few.pixels[60:100, 90:150] == pixels[60:100, 90:150]).all()


@pytest.mark.slow
def test_nearly_the_same_leaves_even_and_smooth_areas_alone(mill: Raster) -> None:
    flat = Raster(drawing())
    even = nearly_same(flat, 3)
    assert (even.pixels[60:100, 80:180] == flat.pixels[60:100, 80:180]).all()
    rough = Raster(noise(64, 64))
    assert np.abs(nearly_same(rough, 3).pixels.astype(int) - rough.pixels).max() <= 4
    lossless = Encoding(FileFormat.WEBP, lossless=True)
    assert len(encode(nearly_same(mill, 3), lossless)) < len(encode(mill, lossless))


def test_flat_art_becomes_a_palette_that_browsers_of_any_age_show() -> None:
    soft = Image.fromarray(drawing()).rotate(3, Image.Resampling.BICUBIC, fillcolor=(9, 9, 9))
    study = Study(Raster(np.asarray(soft)), Viewing())
    found = search(study, Content(has_alpha=False, is_flat=True), PictureTarget(0.955))
    oldest = found[-1]
    assert oldest.encoding.format is FileFormat.PNG
    with Image.open(io.BytesIO(oldest.content)) as image:
        assert image.mode == "P"
    plain = io.BytesIO()
    soft.save(plain, "PNG", optimize=True)
    assert len(oldest.content) < 0.6 * len(plain.getvalue())
