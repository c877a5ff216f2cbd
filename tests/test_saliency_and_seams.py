"""Seams, whole tiles and suggested subjects."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from brightcanvas.analysis.saliency import suggest_subject
from brightcanvas.analysis.seams import rolled_to_gaps, seamless, seamless_size, seams_of
from brightcanvas.values.raster import Raster

from .conftest import Demo, call, noise, write_brief


def pebbles(seed: int) -> NDArray[np.uint8]:
    """Soft blobs, cut out of something larger, so that the edges don't meet."""
    rng = np.random.default_rng(seed)
    field = ndimage.gaussian_filter(rng.random((300, 400, 3)), (6, 6, 0))[:150, :200]
    return np.asarray((field - field.min()) / (field.max() - field.min()) * 255, np.uint8)


def test_a_ramp_has_a_seam_on_one_axis_and_a_wave_on_none() -> None:
    ramp = np.linspace(20, 230, 200).astype(np.uint8)[None, :, None].repeat(150, 0).repeat(3, 2)
    seams = seams_of(Raster(ramp))
    assert seams.across > 10
    assert seams.down == 0
    wave = (128 + 100 * np.sin(np.arange(200) / 200 * 2 * np.pi)).astype(np.uint8)
    assert seams_of(Raster(wave[None, :, None].repeat(150, 0).repeat(3, 2))).across < 1.2


def tile(values: NDArray[np.float64], seed: int, grain: float = 2) -> Raster:
    grained = values + np.random.default_rng(seed).normal(0, grain, values.shape)
    return Raster(np.clip(grained, 0, 255).astype(np.uint8)[..., None].repeat(3, 2))


def blinds(shift: float, window: bool = True) -> NDArray[np.float64]:  # noqa: FBT001, FBT002
    """Slats that meet, or not, left to right, by px; in front of them the parts of a window."""
    down, across = np.mgrid[:400, :400]
    slats = 128 + 80 * np.tanh(3 * np.sin((down + shift * across / 400) * 2 * np.pi / 25))
    if window:
        slats[:, 180:192], slats[:, 300:303] = 40, 230
    return np.asarray(slats)


def texture(grain: float, step: float) -> NDArray[np.float64]:
    """A texture that meets, but for a gradient of so many codes from side to side."""
    rng = np.random.default_rng(3)
    field = ndimage.gaussian_filter(rng.normal(0, 1, (400, 400)), grain, mode="wrap")
    return np.asarray(128 + 20 * field / field.std() + step * np.linspace(-0.5, 0.5, 400))


@pytest.mark.slow
@pytest.mark.parametrize("window", [False, True])
def test_planted_seams_across_strong_lines_are_seen(window: bool) -> None:  # noqa: FBT001
    """A few strong lines beside it excuse no break."""
    for shift in (0, 25):
        assert seams_of(tile(blinds(shift, window), 1)).worse < 1.2, "the slats meet"
    for shift in (6, 12):
        assert seams_of(tile(blinds(shift, window), 1)).across > 1.5
    found = [seams_of(tile(blinds(shift, window), 1)).across for shift in (2, 4, 6, 12)]
    assert found == sorted(found)


@pytest.mark.parametrize("grain", [0.5, 2.0, 6.0])
def test_planted_seams_in_textures_are_seen_from_some_strength_on(grain: float) -> None:
    assert seams_of(tile(texture(grain, 0), 1)).worse < 1.2
    assert seams_of(tile(texture(grain, 20), 1)).across > 1.5
    found = [seams_of(tile(texture(grain, step), 1)).across for step in (10, 20, 40)]
    assert found == sorted(found)


def test_a_break_in_a_fifth_of_a_line_is_seen() -> None:
    down, across = np.mgrid[:400, :400]
    lines = 128 + 40 * np.sin(2 * np.pi * down / 20)
    lines[:80] = (128 + 40 * np.sin(2 * np.pi * (down + 10 * across / 400) / 20))[:80]
    assert seams_of(tile(lines, 1)).across > 1.5


@pytest.mark.parametrize("stripes", [2, 4, 8, 16, 40])
def test_a_pattern_s_own_lines_are_no_seams(stripes: int) -> None:
    across = np.arange(400) * stripes // 400 % 2
    assert seams_of(tile(np.where(across, 200.0, 60.0)[None].repeat(400, 0), 1)).worse < 1.2


@pytest.mark.parametrize("seed", range(4))
def test_the_seamless_version_meets_at_its_edges_and_keeps_its_structure(seed: int) -> None:
    pixels = pebbles(seed)
    picture = Raster(pixels)
    assert seams_of(picture).across > 1.5
    joined = seamless(picture)
    assert joined.size == seamless_size(picture.size)
    assert seams_of(joined).worse < 1.2
    kept = joined.pixels[25:, 35:].astype(int) - pixels[25:128, 35:170]
    assert np.abs(kept).max() <= 1, "outside the bands nothing changes"


def test_a_tile_is_moved_so_that_its_edges_run_between_motifs() -> None:
    tile = np.full((90, 120, 3), 230, np.uint8)
    tile[:20, :] = 40  # a motif that the tile's upper edge cuts in two
    tile[80:, :] = 40
    moved = rolled_to_gaps(Raster(tile)).pixels
    assert (moved[0] == 230).all()
    assert (moved[-1] == 230).all()
    assert np.array_equal(np.sort(moved.ravel()), np.sort(tile.ravel()))


@pytest.mark.slow
def test_a_visible_seam_breaks_the_promise_and_seamless_mends_it(tmp_path: Path) -> None:
    ramp = np.linspace(20, 230, 240).astype(np.uint8)[None, :, None].repeat(240, 0).repeat(3, 2)
    Image.fromarray(ramp).save(tmp_path / "ramp.png")
    text = '[[backdrop]]\nsource = "ramp.png"\nelement = "p"\nsize = "100px"\nrepeat = "repeat"\n'
    ran = call("build", write_brief(tmp_path, text))
    assert ran.status == 1
    assert "BROKEN seamless: ramp" in ran.out
    assert "seamless = true" in ran.out
    assert call("build", write_brief(tmp_path, text + "seamless = true\n")).status == 0


@pytest.mark.parametrize(("x", "y"), [(0.25, 0.3), (0.5, 0.55), (0.72, 0.4), (0.35, 0.7)])
def test_the_suggested_subject_is_what_stands_out(x: float, y: float) -> None:
    pixels = noise(900, 600) // 5 + 60
    down, across = np.mgrid[:600, :900]
    disc = (across - x * 900) ** 2 + (down - y * 600) ** 2 < 70**2
    pixels[disc] = (210, 90, 30)
    suggestion = suggest_subject(Raster(pixels))
    assert (suggestion.point.x - x) ** 2 * 900**2 + (suggestion.point.y - y) ** 2 * 600**2 < 70**2
    assert suggestion.box.left < x < suggestion.box.right
    assert suggestion.confidence > 0.4


@pytest.mark.parametrize("shape", [(1, 1, 3), (3, 200, 3), (400, 2, 3), (64, 64, 4)])
def test_a_suggestion_can_be_made_for_any_picture(shape: tuple[int, int, int]) -> None:
    suggestion = suggest_subject(Raster(np.full(shape, 90, np.uint8)))
    assert 0 <= suggestion.point.x <= 1
    assert suggestion.confidence < 0.2


def test_the_suggestion_is_told_and_not_used(demo: Demo) -> None:
    assert "bakery: no subject is named, so the middle of the picture is kept." in demo.ran.out
    assert "Suggested: subject = { box = [" in demo.ran.out
    bakery = next(one for one in demo.ledger["backdrops"] if one["name"] == "bakery")
    for part in bakery["breakpoints"]:
        left, top, right, bottom = part["picture"]["cut"]
        assert (left + right) / 2 == pytest.approx(1200, abs=2400 / 32)
        assert (top + bottom) / 2 == pytest.approx(800, abs=1600 / 32)
    ran = call("subject", demo.folder / "sources/mill-at-dusk.jpg", "--json")
    box = next(iter(ran.facts.values()))["box"]
    assert 0 <= box["left"] < box["right"] <= 1
