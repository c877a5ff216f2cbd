"""Flat work: a woven reed tile that repeats, and the fen's dykes as a map."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from scenery.brushes import noise


def weave(side: int, strands: int = 6) -> NDArray[np.uint8]:
    """Strands over and under each other; the edges meet."""
    place = (np.arange(side) + 0.5) / side * strands
    x, y = place[None, :], place[:, None]
    over = (np.floor(x) + np.floor(y)) % 2 == 0
    across = np.sin(math.pi * (y % 1)) * (0.72 + 0.28 * np.cos(2 * math.pi * (x % 1 - 0.5)))
    down = np.sin(math.pi * (x % 1)) * (0.72 + 0.28 * np.cos(2 * math.pi * (y % 1 - 0.5)))
    light = np.where(over, across, down)
    fibre = np.where(over, np.sin(26 * 2 * math.pi * y / 4), np.sin(26 * 2 * math.pi * x / 4))
    value = 0.55 + 0.38 * light + 0.035 * fibre
    tint = np.where(over[..., None], [0.86, 0.78, 0.58], [0.80, 0.70, 0.50])
    return np.clip(value[..., None] * tint * 255, 0, 255).astype(np.uint8)


def dykes(width: int, height: int) -> Image.Image:
    """Fields in a few flat colours, dykes as blue lines, the mill as a red mark."""
    scale = 2
    canvas = Image.new("RGB", (width * scale, height * scale), "#efe9d8")
    draw = ImageDraw.Draw(canvas)
    rng = np.random.default_rng(17)
    wide, tall = canvas.size
    _fields(draw, wide, tall, rng)
    for number, thick in enumerate((26, 12, 12, 8, 8)):
        bend = noise(60, 1, (6, 1), 50 + number, octaves=3)[0]
        base = tall * (0.18 + 0.17 * number)
        line = [(wide * i / 59, base + tall * 0.25 * (bend[i] - 0.5)) for i in range(60)]
        draw.line(line, fill="#3d7391", width=thick * scale // 2, joint="curve")
    for x in np.linspace(0.06, 0.94, 9):
        draw.line([(x * wide, 0), ((x + 0.05) * wide, tall)], fill="#6d9db3", width=3 * scale)
    mark = tall * 0.022
    draw.ellipse(
        [0.72 * wide - mark, 0.44 * tall - mark, 0.72 * wide + mark, 0.44 * tall + mark],
        fill="#b23a2e",
    )
    reduced = canvas.reduce(scale)
    return reduced.quantize(64, dither=Image.Dither.NONE)


def _fields(draw: ImageDraw.ImageDraw, wide: int, tall: int, rng: np.random.Generator) -> None:
    tones = ("#dfe3c4", "#cdd9b0", "#e8dcb6", "#d8cfa4", "#c3d2ae")
    for row in range(9):
        for column in range(12):
            left, top = column * wide / 12, row * tall / 9
            skew = rng.uniform(-0.02, 0.02) * wide
            corners = [
                (left + skew, top), (left + wide / 12 + skew, top),
                (left + wide / 12 - skew, top + tall / 9), (left - skew, top + tall / 9),
            ]  # fmt: skip
            draw.polygon(corners, fill=tones[rng.integers(len(tones))])
