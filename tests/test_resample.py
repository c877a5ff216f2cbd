"""Resizing, held against an independent Lanczos in float."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

from brightcanvas.colour.resample import resize
from brightcanvas.colour.spaces import (
    average_colour,
    codes_from_light,
    light_of_code,
    to_codes,
    to_light,
)
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

from .conftest import noise


def reference(
    pixels: NDArray[np.uint8], area: Rect, width: int, height: int
) -> NDArray[np.float64]:
    """The same in linear light by the picture library's own float resampling, unrounded."""
    box = (area.left, area.top, area.right, area.bottom)
    channels = [
        Image.fromarray(to_light(pixels[..., i] / 255).astype(np.float32)).resize(
            (width, height), Image.Resampling.LANCZOS, box=box
        )
        for i in range(3)
    ]
    light = np.stack([np.asarray(channel) for channel in channels], axis=2)
    return np.asarray(to_codes(np.clip(light.astype(np.float64), 0, 1)) * 255)


@pytest.mark.parametrize(
    ("area", "width", "height"),
    [
        (Rect(0, 0, 500, 333), 200, 133),
        (Rect(10.3, 5.7, 480.9, 300.2), 171, 109),
        (Rect(0, 0, 500, 333), 37, 300),
        (Rect(100.5, 100.5, 150.5, 150.5), 160, 160),
        (Rect(0, 0, 500, 333), 1, 1),
    ],
)
def test_agrees_with_an_independent_lanczos(area: Rect, width: int, height: int) -> None:
    pixels = noise(500, 333)
    ours = resize(Raster(pixels), area, width, height).pixels.astype(float)
    assert np.abs(ours - reference(pixels, area, width, height)).max() <= 1.0


def test_the_whole_at_its_own_size_is_unchanged() -> None:
    pixels = noise(120, 90)
    assert np.array_equal(resize(Raster(pixels), Rect(0, 0, 120, 90), 120, 90).pixels, pixels)


def test_light_is_averaged_not_codes() -> None:
    stripes = np.zeros((64, 64, 3), np.uint8)
    stripes[:, ::2] = 255
    middle = resize(Raster(stripes), Rect(0, 0, 64, 64), 8, 8).pixels[4, 4, 0]
    assert middle == 188  # half the light, not half the code


def test_transparent_pixels_do_not_bleed_their_colour() -> None:
    pixels = np.zeros((40, 40, 4), np.uint8)
    pixels[:, :20] = (255, 0, 0, 255)
    pixels[:, 20:] = (0, 255, 0, 0)
    small = resize(Raster(pixels), Rect(0, 0, 40, 40), 10, 10).pixels
    visible = small[small[..., 3] > 0]
    assert (visible[:, 0] == 255).all()
    assert (visible[:, 1] == 0).all()


def test_one_pixel_can_be_enlarged() -> None:
    one = np.full((1, 1, 3), 77, np.uint8)
    assert (resize(Raster(one), Rect(0, 0, 1, 1), 5, 7).pixels == 77).all()


def test_every_code_survives_the_way_to_light_and_back() -> None:
    assert np.array_equal(codes_from_light(light_of_code()), np.arange(256))


def test_the_average_is_that_of_the_light() -> None:
    halves = np.zeros((10, 10, 3), np.uint8)
    halves[:5] = 255
    assert average_colour(Raster(halves)).css == "#bcbcbc"
