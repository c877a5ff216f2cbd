"""Flat work: a woven reed tile that repeats, and the fen's dykes as a map."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

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


def dykes(width: int, height: int) -> str:
    """A drawing of fields in a few flat colours, dykes as blue lines, the mill as a red mark."""
    rng = np.random.default_rng(17)
    shapes = [f'<path fill="#efe9d8" d="M0 0H{width}V{height}H0z"/>', *_fields(width, height, rng)]
    for number, thick in enumerate((26, 12, 12, 8, 8)):
        bend = noise(60, 1, (6, 1), 50 + number, octaves=3)[0]
        base = height * (0.18 + 0.17 * number)
        line = [(width * i / 59, base + height * 0.25 * (bend[i] - 0.5)) for i in range(60)]
        shapes.append(_line(line, "#3d7391", thick / 2))
    shapes += [
        _line([(x * width, 0), ((x + 0.05) * width, height)], "#6d9db3", 3)
        for x in np.linspace(0.06, 0.94, 9)
    ]
    mark = _numbers(0.72 * width, 0.44 * height, separator='" cy="')
    shapes.append(f'<circle cx="{mark}" r="{height * 0.022:g}" fill="#b23a2e"/>')
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}">\n'
        + "\n".join(shapes)
        + "\n</svg>\n"
    )


def _fields(width: int, height: int, rng: np.random.Generator) -> Iterator[str]:
    tones = ("#dfe3c4", "#cdd9b0", "#e8dcb6", "#d8cfa4", "#c3d2ae")
    across, down = width / 12, height / 9
    for row in range(9):
        for column in range(12):
            left, top = column * across, row * down
            skew = rng.uniform(-0.02, 0.02) * width
            corners = [
                (left + skew, top), (left + across + skew, top),
                (left + across - skew, top + down), (left - skew, top + down),
            ]  # fmt: skip
            yield f'<path fill="{tones[rng.integers(len(tones))]}" d="{_way(corners)}z"/>'


def _line(points: Sequence[tuple[float, float]], colour: str, thick: float) -> str:
    return (
        f'<path fill="none" stroke="{colour}" stroke-width="{thick:g}" stroke-linejoin="round"'
        f' d="{_way(points)}"/>'
    )


def _way(points: Sequence[tuple[float, float]]) -> str:
    return "M" + "L".join(_numbers(x, y) for x, y in points)


def _numbers(x: float, y: float, separator: str = " ") -> str:
    return f"{round(float(x), 1):g}{separator}{round(float(y), 1):g}"
