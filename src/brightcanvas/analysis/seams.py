"""Seams of repeated pictures: how visible they are, and how to be rid of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.spaces import codes_from_light, lab_from_light, light_of_code
from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster

VISIBLE_FROM = 1.5
"""A seam is seen where the edges differ this many times as much as lines inside do."""

BLENDED = 0.15
"""Share of each side over which a seamless version is blended; the tile is shorter by it."""

FEATHER = 0.12
"""Share of the blended band over which the cut between both edges is softened."""

LINES = 0.03
"""Share of the lines inside that an edge is held against, the most different ones: patterns have
lines of their own, but the few of a window's frame excuse no break in what lies within it."""

STRETCHES = 8
"""A line is looked at in so many stretches: a break in one of them is seen."""

GAP_REACH = 0.04
"""How far around a line counts when a gap is looked for, as a share of the side."""

SAMPLES = 256
"""How many samples of each line are compared, about."""

JUST_NOTICEABLE = 0.5
"""Mean difference in CIE L*a*b* below which nobody sees a line."""

Light = NDArray[np.float32]


@dataclass(frozen=True)
class Seams:
    """How visible the seam is between left and right, and between top and bottom.

    The scale: 1 is as different as the strongest lines inside the picture, 0 is no difference at
    all; from VISIBLE_FROM on it is seen.
    """

    across: float
    down: float

    @property
    def worse(self) -> float:
        """The more visible of both."""
        return max(self.across, self.down)


def seams_of(picture: Raster) -> Seams:
    """Measure both seams, as mean differences in CIE L*a*b*."""
    rows, columns = (max(1, side // SAMPLES) for side in picture.pixels.shape[:2])
    return Seams(
        _visibility(_lab(picture.pixels[::rows]).swapaxes(0, 1)),
        _visibility(_lab(picture.pixels[:, ::columns])),
    )


def _lab(codes: NDArray[np.uint8]) -> NDArray[np.float64]:
    return lab_from_light(light_of_code().take(codes[..., :3], mode="clip"))


def _visibility(lines: NDArray[np.float64]) -> float:
    """How much the last line differs from the first, against neighbouring lines inside.

    A step that is the same all along a line is seen far below what texture hides from place to
    place, so that both are held against their own kind: the even part against even parts, and
    what is left, stretch by stretch, against what is left inside.
    """
    if len(lines) < 3:
        return 0.0
    inside, edge = np.diff(lines, axis=0), lines[:1] - lines[-1:]
    stretches = max(1, min(STRETCHES, lines.shape[1] // 4))
    even, rest = min(_ratio(_even(edge), _even(inside)), _unheard_of(lines.mean(axis=1))), 0.0
    for place in np.array_split(np.arange(lines.shape[1]), stretches):
        rest = max(rest, _ratio(_uneven(edge, place), _uneven(inside, place)))
    return max(even, rest)


def _unheard_of(means: NDArray[np.float64]) -> float:
    """How far the colours on both sides of the seam are from any two neighbours inside.

    A tile of four stripes has three such lines itself, and its edge is but the fourth. Which of
    the colours comes first makes no difference.
    """
    last, first = (np.linalg.norm(means - one, axis=-1) for one in (means[-1], means[0]))
    pairs = np.minimum(np.maximum(last[:-1], first[1:]), np.maximum(last[1:], first[:-1]))
    return float(pairs.min() / SAME)


def _even(steps: NDArray[np.float64]) -> NDArray[np.float64]:
    """The length of each line's mean step (lines, places, channels)."""
    return np.asarray(np.linalg.norm(steps.mean(axis=1), axis=-1))


def _uneven(steps: NDArray[np.float64], place: NDArray[np.intp]) -> NDArray[np.float64]:
    """The mean length, in a stretch of each line, of what differs from its mean step."""
    rest = steps[:, place] - steps.mean(axis=1, keepdims=True)
    return np.asarray(np.linalg.norm(rest, axis=-1).mean(axis=-1))


def _ratio(edge: NDArray[np.float64], inside: NDArray[np.float64]) -> float:
    """Against the mean of the most different lines."""
    count = max(MIN_LINES, round(LINES * len(inside)))
    strongest = np.sort(inside)[-count:]
    return float(edge[0] / max(float(strongest.mean()), JUST_NOTICEABLE))


MIN_LINES = 3

SAME = 1.0
"""Difference in CIE L*a*b* up to which two even colours are the same."""


def seamless_size(size: Size) -> Size:
    """The size of the seamless version of a picture, px."""
    return Size(size.width - _band(size.width), size.height - _band(size.height))


def _band(length: float) -> int:
    return min(int(length) // 2, max(1, round(length * BLENDED)))


def seamless(picture: Raster) -> Raster:
    """A version whose edges meet, smaller by the bands that were laid over each other.

    Where both edges overlap, a cut is found along which they differ least, so that the
    structure on both sides is kept (A. Efros and W. Freeman, "Image Quilting for Texture
    Synthesis and Transfer", SIGGRAPH 2001); it is softened a little, in linear light.
    """
    light = light_of_code().take(picture.pixels, mode="clip")
    if picture.has_alpha:
        light[..., 3] = picture.pixels[..., 3] / np.float32(255)
    joined = _joined(_joined(light).swapaxes(0, 1)).swapaxes(0, 1)
    codes = codes_from_light(joined)
    if picture.has_alpha:
        codes[..., 3] = np.round(np.clip(joined[..., 3], 0, 1) * 255)
    return Raster(np.ascontiguousarray(codes))


def _joined(light: Light) -> Light:
    """The left and the right edge laid over each other, (rows, columns, channels)."""
    band = _band(light.shape[1])
    left, right = light[:, :band], light[:, light.shape[1] - band :]
    share = _left_share(((left - right) ** 2).sum(axis=2), band)[..., None]
    joined = light[:, : light.shape[1] - band].copy()
    joined[:, :band] = left * share + right * (1 - share)
    return joined


def _left_share(errors: NDArray[np.float32], band: int) -> NDArray[np.float32]:
    """How much of the left edge is shown at each place of the band, 0..1."""
    path = _best_path(errors)
    softness = max(1.0, band * FEATHER)
    columns = np.arange(band) + 0.5
    share = (columns[None, :] - path[:, None] - 0.5) / softness + 0.5
    # Whole at both ends of the band, wherever the path runs.
    ends = np.minimum(columns, band - columns)[None, :] / softness
    limits = np.clip(ends, 0, 1)
    share = np.clip(share, 0, 1)
    ramp = columns[None, :] / band
    return np.asarray(limits * share + (1 - limits) * np.round(ramp), np.float32)


def _best_path(errors: NDArray[np.float32]) -> NDArray[np.intp]:
    """A column for each row, moving by one at most, along the least total error.

    It ends where it began, so that tiles above and below each other meet too.
    """
    first = _path(errors, None)
    return _path(errors, int(np.median(first)))


def _path(errors: NDArray[np.float32], pinned: int | None) -> NDArray[np.intp]:
    rows, columns = errors.shape
    cost = errors.astype(np.float64)
    if pinned is not None:
        far = np.abs(np.arange(columns) - pinned)
        cost[0] += far * cost.max() * rows
        cost[-1] += far * cost.max() * rows
    for row in range(1, rows):
        above = np.pad(cost[row - 1], 1, constant_values=np.inf)
        cost[row] += np.minimum(np.minimum(above[:-2], above[1:-1]), above[2:])
    return _walk_back(cost)


def _walk_back(cost: NDArray[np.float64]) -> NDArray[np.intp]:
    rows, columns = cost.shape
    path = np.empty(rows, np.intp)
    path[-1] = int(np.argmin(cost[-1]))
    for row in range(rows - 2, -1, -1):
        low = max(0, path[row + 1] - 1)
        high = min(columns, path[row + 1] + 2)
        path[row] = low + int(np.argmin(cost[row, low:high]))
    return path


def rolled_to_gaps(picture: Raster) -> Raster:
    """The tile moved round so that its edges cut as little of its motifs as can be.

    A repeated tile may begin anywhere. The lines that differ least from the picture's usual
    colour, with those around them, run through the middle of the gaps between motifs.
    """
    lab = lab_from_light(light_of_code().take(picture.pixels[..., :3], mode="clip"))
    usual = np.median(lab.reshape(-1, 3), axis=0)
    off = np.sqrt(((lab - usual) ** 2).sum(axis=2))
    column, row = _gap(off.mean(axis=0)), _gap(off.mean(axis=1))
    return Raster(np.ascontiguousarray(np.roll(picture.pixels, (-row, -column), axis=(0, 1))))


def _gap(busy: NDArray[np.float64]) -> int:
    """The quietest line of a cycle, together with its surround."""
    from scipy import ndimage

    around = ndimage.gaussian_filter1d(busy, GAP_REACH * len(busy), mode="wrap")
    return int(np.argmin(around))
