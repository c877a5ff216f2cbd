"""One-off crops: exact size, no distortion, the subject in the picture."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw

from .conftest import call, save_noise


@pytest.fixture
def disc(tmp_path: Path) -> Path:
    """A white disc of 200 px round (1050, 250) on grey."""
    image = Image.new("RGB", (1500, 900), (70, 80, 90))
    ImageDraw.Draw(image).ellipse((950, 150, 1150, 350), fill=(255, 255, 255))
    image.save(tmp_path / "disc.png")
    return tmp_path / "disc.png"


@pytest.mark.slow
@pytest.mark.parametrize(("width", "height"), [(740, 400), (300, 900), (64, 64)])
def test_a_crop_has_exactly_its_size_and_circles_stay_round(
    disc: Path, width: int, height: int
) -> None:
    target = disc.with_name("out.png")
    ran = call(
        "crop",
        disc,
        "--to",
        f"{width}x{height}",
        "--subject",
        "0.633,0.166,0.767,0.389",
        "--output",
        target,
    )
    assert ran.status == 0
    with Image.open(target) as image:
        assert image.size == (width, height)
        white = np.asarray(image.convert("L")) > 170
    across, down = np.flatnonzero(white.any(0)), np.flatnonzero(white.any(1))
    assert abs((across[-1] - across[0]) - (down[-1] - down[0])) <= 1
    expected = 200 * max(width / 1500, height / 900)
    assert abs(across[-1] - across[0] + 1 - expected) <= 2


def test_the_name_is_made_from_the_source_and_nothing_is_overwritten(disc: Path) -> None:
    ran = call("crop", disc, "--to", "100x50", "--json")
    assert ran.facts["file"] == str(disc.with_name("disc-100x50.png"))
    assert call("crop", disc, "--to", "100x50").status == 2
    again = call("crop", disc, "--to", "100x50", "--output", disc)
    assert again.status == 2
    assert "is the source itself" in again.err


@pytest.mark.slow
def test_too_few_pixels_and_too_large_a_subject_are_told(disc: Path) -> None:
    ran = call("crop", disc, "--to", "3000x900", "--subject", "0.5,0,0.6,1")
    assert ran.status == 1
    assert "stretched 2.00 times" in ran.out
    assert "The subject does not fit into that shape" in ran.out


@pytest.mark.slow
@pytest.mark.parametrize(
    "arguments",
    [
        ["--to", "100"], ["--to", "0x10"], ["--to", "-5x10"], ["--to", "99999x1"],
        ["--to", "9x9", "--subject", "2,0"], ["--to", "9x9", "--subject", "a,b"],
        ["--to", "9x9", "--subject", "0.8,0,0.2,1"], ["--to", "9x9", "--subject", "nan,0"],
        ["--to", "9x9", "--output", "x.bmp"], ["--to", "9x9", "--largest-source", "0"], [],
    ],
)  # fmt: skip
def test_wrong_arguments_end_with_status_2(disc: Path, arguments: list[str]) -> None:
    before = sorted(disc.parent.iterdir())
    ran = call("crop", disc, *arguments)
    assert ran.status == 2
    assert sorted(disc.parent.iterdir()) == before


def test_transparency_does_not_go_into_a_jpeg(tmp_path: Path) -> None:
    Image.new("RGBA", (50, 50), (1, 2, 3, 100)).save(tmp_path / "a.png")
    ran = call("crop", tmp_path / "a.png", "--to", "20x20", "--output", tmp_path / "a.jpg")
    assert ran.status == 2
    assert "JPEG can't hold transparency" in ran.err


def test_names_with_quotes_and_line_breaks_are_just_names(tmp_path: Path) -> None:
    path = save_noise(tmp_path / 'it\'s a "mill"\n[bold].jpg')
    ran = call("crop", path, "--to", "50x50")
    assert ran.status == 0
    assert "[bold]-50x50.jpg" in ran.out


def test_a_photograph_as_png_is_exact(tmp_path: Path) -> None:
    source = save_noise(tmp_path / "a.png", 300, 200)
    assert call("crop", source, "--to", "300x200", "--output", tmp_path / "b.png").status == 0
    with Image.open(source) as before, Image.open(tmp_path / "b.png") as after:
        assert np.array_equal(np.asarray(before.convert("RGB")), np.asarray(after.convert("RGB")))
