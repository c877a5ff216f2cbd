"""What the painters share: noise, masks, mixing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

Field = NDArray[np.floating[Any]]
Points = Sequence[tuple[float, float]]


def colour(text: str) -> Field:
    """``#rrggbb`` as three numbers in 0..1."""
    return np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)], np.float32) / 255


def grid(width: int, height: int) -> tuple[Field, Field]:
    """X and y of every pixel, each in 0..1, of shape (1, width) and (height, 1)."""
    x = (np.arange(width, dtype=np.float32) + 0.5) / width
    y = (np.arange(height, dtype=np.float32) + 0.5) / height
    return x[None, :], y[:, None]


def noise(
    width: int, height: int, cells: tuple[float, float], seed: int, octaves: int = 5
) -> Field:
    """Smooth noise in 0..1 that adds finer and finer grain, of shape (height, width)."""
    rng = np.random.default_rng(seed)
    total = np.zeros((height, width), np.float32)
    strength, reach = 1.0, 0.0
    across, down = cells
    for _ in range(octaves):
        small = rng.random((int(down) + 3, int(across) + 3), dtype=np.float32)
        layer = Image.fromarray(small).resize((width, height), Image.Resampling.BICUBIC)
        total += strength * np.asarray(layer)
        reach += strength
        strength, across, down = strength / 2, across * 2, down * 2
    return total / np.float32(reach)


def mix(below: Field, above: Field, share: Field | float) -> Field:
    """``above`` over ``below``; ``share`` is 0..1, of shape (height, width) or one number."""
    weight = np.asarray(share, np.float32)
    if weight.ndim == 2:
        weight = weight[..., None]
    return below + (above - below) * weight


def gradient(position: Field, stops: Sequence[tuple[float, str]]) -> Field:
    """A run of colours along ``position``, of its shape with 3 more channels."""
    places = [place for place, _ in stops]
    parts = np.array([colour(text) for _, text in stops])
    channels = [np.interp(position, places, parts[:, i]) for i in range(3)]
    return np.stack(channels, axis=-1).astype(np.float32)


def mask(width: int, height: int, draw: Callable[[ImageDraw.ImageDraw, int], None]) -> Field:
    """What ``draw`` paints white on black, with smooth edges: drawn at twice the size."""
    canvas = Image.new("L", (width * 2, height * 2), 0)
    draw(ImageDraw.Draw(canvas), 2)
    return np.asarray(canvas.reduce(2), np.float32) / 255


def polygon(width: int, height: int, points: Points) -> Field:
    """The mask of a polygon whose points are fractions of the picture."""
    corners = [(x * width * 2, y * height * 2) for x, y in points]
    return mask(width, height, lambda draw, _: draw.polygon(corners, fill=255))


def grained(picture: Field, amount: float, seed: int) -> NDArray[np.uint8]:
    """The picture as codes, with a camera's grain of ``amount`` codes."""
    rng = np.random.default_rng(seed)
    luma = rng.normal(0, amount, (*picture.shape[:2], 1)).astype(np.float32)
    chroma = rng.normal(0, amount / 3, picture.shape).astype(np.float32)
    return np.asarray(np.clip(picture * 255 + luma + chroma + 0.5, 0, 255), np.uint8)
