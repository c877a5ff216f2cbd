"""What kind of picture something is, as far as its file format goes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from brightcanvas.values.raster import Raster

COMMON_COLOURS, COMMON_GREYS = 256, 16
FEW_COLOURS = 0.8
"""Flat art has few colours: the commonest COMMON_COLOURS make up this share of its pixels.

Grey pictures have no more than 256 colours, photographs too: there COMMON_GREYS are counted."""

EVEN_AREAS = 0.5
"""And it has even areas: this share of its pixels equals the right neighbour exactly.

``python -m bench.content`` prints both shares for the demo's sources."""

ROW_STEP = 8


@dataclass(frozen=True)
class Content:
    """What decides which formats serve a picture."""

    has_alpha: bool
    is_flat: bool


def content_of(picture: Raster) -> Content:
    """Look at every eighth row of a picture."""
    return Content(picture.has_alpha, is_flat_art(picture))


def is_flat_art(picture: Raster) -> bool:
    """Whether a picture is drawn in few colours with even areas, like a map or a logo."""
    return even_share(picture) >= EVEN_AREAS and common_share(picture) >= FEW_COLOURS


def even_share(picture: Raster) -> float:
    """The share of pixels (0..1) that equal their right neighbour exactly."""
    rows = picture.pixels[::ROW_STEP]
    if rows.shape[1] < 2:
        return 1.0
    return float(np.mean((rows[:, 1:] == rows[:, :-1]).all(axis=2)))


def common_share(picture: Raster) -> float:
    """The share of pixels (0..1) that the commonest colours make up."""
    rows = picture.pixels[::ROW_STEP]
    most = COMMON_GREYS if is_grey(picture) else COMMON_COLOURS
    steps = 256 ** np.arange(rows.shape[2], dtype=np.uint32)
    codes = rows.reshape(-1, rows.shape[2]).astype(np.uint32) @ steps
    counts = np.sort(np.unique(codes, return_counts=True)[1])
    return float(counts[-most:].sum() / codes.size)


def is_grey(picture: Raster) -> bool:
    """Whether red, green and blue are the same everywhere."""
    rows = picture.pixels[::ROW_STEP]
    return bool((rows[..., :1] == rows[..., 1:3]).all())
