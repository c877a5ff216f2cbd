"""The bakery in the morning: light, and busy from edge to edge."""

from __future__ import annotations

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from scenery.brushes import Field, colour, grid, mix, noise

SHELVES = (0.30, 0.53, 0.76)
CRUSTS = ("#b9793c", "#c98d4c", "#a8652f", "#d6a565", "#8f5527", "#e0b67c")


def bakery(width: int, height: int) -> Field:
    """Tiled wall, three shelves of loaves, and a floury table in front."""
    canvas = Image.new("RGB", (width, height), "#efe6d6")
    draw = ImageDraw.Draw(canvas)
    rng = np.random.default_rng(5)
    _tiles(draw, width, height, rng)
    for shelf in SHELVES:
        _shelf(draw, width, height, shelf)
        _loaves(draw, width, height, shelf, rng)
    _table(draw, width, height, rng)
    picture = np.asarray(canvas.filter(ImageFilter.GaussianBlur(height / 1400)), np.float32) / 255
    return _lit(picture)


def _tiles(draw: ImageDraw.ImageDraw, width: int, height: int, rng: np.random.Generator) -> None:
    side = height // 22
    for row in range(height // side + 1):
        for column in range(-1, width // side + 1):
            left = column * side + (row % 2) * side // 2
            shade = int(rng.normal(232, 6))
            draw.rectangle(
                [left + 2, row * side + 2, left + side - 2, row * side + side - 2],
                fill=(shade, shade - 5, shade - 18),
            )


def _shelf(draw: ImageDraw.ImageDraw, width: int, height: int, at: float) -> None:
    top = int(at * height)
    thick = height // 50
    draw.rectangle([0, top, width, top + thick], fill="#a97c50")
    draw.rectangle([0, top + thick, width, top + thick + thick // 2], fill="#8b8272")
    for x in range(width // 9, width, width // 5):
        draw.polygon(
            [(x, top + thick), (x + thick, top + thick), (x + thick, top + 4 * thick)],
            fill="#6f4f33",
        )


def _loaves(
    draw: ImageDraw.ImageDraw, width: int, height: int, shelf: float, rng: np.random.Generator
) -> None:
    x = -0.01 * width
    floor = shelf * height
    while x < width:
        across = height * rng.uniform(0.05, 0.13)
        tall = height * rng.uniform(0.045, 0.12)
        if rng.random() < 0.16:
            _jar(draw, x, floor, across * 0.5, tall * 1.2)
            x += across * 0.55
            continue
        crust = CRUSTS[rng.integers(len(CRUSTS))]
        _loaf(draw, (x, floor - tall, x + across, floor), crust)
        x += across * rng.uniform(0.85, 1.05)


def _loaf(draw: ImageDraw.ImageDraw, box: tuple[float, float, float, float], crust: str) -> None:
    left, top, right, bottom = box
    wide, tall = right - left, bottom - top
    draw.rounded_rectangle(box, radius=min(wide, tall) * 0.45, fill=crust)
    light = tuple(int(part) for part in colour(crust) * 255 * 0.6 + 255 * 0.4)
    draw.rounded_rectangle(
        [left + wide * 0.12, top + tall * 0.08, right - wide * 0.30, top + tall * 0.40],
        radius=tall * 0.15, fill=light,
    )  # fmt: skip
    for cut in (0.25, 0.45, 0.65):
        start = (left + wide * cut, top + tall * 0.12)
        end = (left + wide * (cut + 0.12), top + tall * 0.62)
        draw.line([start, end], fill="#f3e2c4", width=max(2, round(wide * 0.035)))


def _jar(draw: ImageDraw.ImageDraw, x: float, floor: float, wide: float, tall: float) -> None:
    draw.rounded_rectangle([x, floor - tall, x + wide, floor], radius=wide * 0.15, fill="#cfd8d2")
    draw.rectangle([x + wide * 0.1, floor - tall * 0.7, x + wide * 0.9, floor - 3], fill="#f5efe2")
    draw.rectangle([x, floor - tall, x + wide, floor - tall * 0.86], fill="#4f6a72")


def _table(draw: ImageDraw.ImageDraw, width: int, height: int, rng: np.random.Generator) -> None:
    top = int(0.88 * height)
    draw.rectangle([0, top, width, height], fill="#d9c3a0")
    for _ in range(60):
        y = rng.uniform(top, height)
        draw.line([(0, y), (width, y + rng.normal(0, 6))], fill="#c9b08a", width=2)
    for _ in range(500):
        x, y, size = rng.uniform(0, width), rng.uniform(top, height), rng.exponential(6)
        draw.ellipse([x, y, x + size * 2, y + size], fill="#f7f0e2")


def _lit(picture: Field) -> Field:
    height, width = picture.shape[:2]
    x, y = grid(width, height)
    beam = np.exp(-(((x - 0.35 - 0.4 * y) / 0.35) ** 2))
    picture = mix(picture, np.ones_like(picture), 0.34 * np.broadcast_to(beam, (height, width)))
    texture = noise(width, height, (220, 150), seed=8, octaves=4)[..., None]
    return np.asarray(picture * (0.95 + 0.1 * texture), np.float32)
