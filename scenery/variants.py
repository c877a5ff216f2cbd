"""Pictures to measure with: other sizes, shapes and light than the demo's, all drawn here."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFilter

from scenery.bakery import bakery
from scenery.brushes import Field, grained, grid, noise
from scenery.mill import dusk

Pixels = NDArray[np.uint8]


def variants(folder: Path) -> Iterator[Path]:
    """Draw them one by one into a folder."""
    pictures: dict[str, Callable[[], Pixels]] = {
        "dusk-large": lambda: grained(dusk(5120, 2880, turn=0.4), 2.5, seed=7),
        "dusk-soft": lambda: _soft(grained(dusk(2560, 1600, turn=0.7), 1.0, seed=8), 3.0),
        "bakery-wide": lambda: grained(bakery(3200, 1800), 2.0, seed=9),
        "fog": lambda: grained(_fog(2560, 1600), 3.0, seed=10),
        "flour": lambda: grained(_flour(2880, 1920), 1.2, seed=11),
    }
    for name, draw in pictures.items():
        path = folder / f"{name}.jpg"
        Image.fromarray(draw()).save(path, quality=90)
        yield path


def _soft(pixels: Pixels, radius: float) -> Pixels:
    return np.asarray(Image.fromarray(pixels).filter(ImageFilter.GaussianBlur(radius)))


def _fog(width: int, height: int) -> Field:
    """Fen in fog: hardly any edges, fine grain, a bright middle."""
    x, y = grid(width, height)
    banks = noise(width, height, (3, 5), seed=31, octaves=6)
    light = 0.45 + 0.3 * np.exp(-(((x - 0.4) / 0.5) ** 2) - ((y - 0.4) / 0.4) ** 2)
    grey = light + 0.22 * (banks - 0.5)
    return np.stack([grey * 0.96, grey, grey * 1.03], axis=-1).clip(0, 1)


def _flour(width: int, height: int) -> Field:
    """A floury table: dense fine texture from edge to edge."""
    coarse = noise(width, height, (8, 12), seed=41, octaves=5)
    fine = noise(width, height, (400, 600), seed=42, octaves=3)
    tone = 0.35 + 0.35 * coarse + 0.25 * (fine - 0.5)
    return np.stack([tone * 1.05, tone * 0.95, tone * 0.82], axis=-1).clip(0, 1)
