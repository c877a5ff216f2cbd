"""Where the eye is drawn: a suggestion for a picture's subject.

Three signs are put together on a picture reduced to some hundred px. *Rarity*: how far a
colour is from the colours of the rest (Cheng et al., "Global Contrast Based Salient Region
Detection", CVPR 2011). *Difference from the rim*: what lies at the picture's edges is mostly
background (Wei et al., "Geodesic Saliency Using Background Priors", ECCV 2012; here by the
distance to the nearest of the rim's typical colours). *Contrast to the surround* at several
sizes (Itti, Koch and Niebur, IEEE PAMI 20, 1998). Photographers keep their subject off the
edges, so the middle counts a little more.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.spaces import lab_from_light, light_of_code
from brightcanvas.values.geometry import Point, Rect
from brightcanvas.values.raster import Raster

LONG_SIDE = 120
"""Pixels of the reduced picture's longer side: subjects are large, detail only distracts."""

SAMPLED = 3
"""Samples along each side of the block of source px behind one reduced pixel."""

COLOUR_STEPS = 10
RIM = 0.06
"""Width of the rim, as a share of the shorter side."""

Field = NDArray[np.float64]


@dataclass(frozen=True)
class Suggestion:
    """A suggested subject, in fractions of the picture."""

    point: Point
    box: Rect
    confidence: float
    """0..1: how much of all that draws the eye lies in the box, against its size."""


def suggest_subject(picture: Raster) -> Suggestion:
    """Where the eye is drawn in a picture."""
    lab = _reduced_lab(picture)
    map_ = attention_map(lab)
    spot = _main_spot(map_)
    return _suggestion(map_, spot)


def _reduced_lab(picture: Raster) -> Field:
    """The picture in CIE L*a*b*, about LONG_SIDE px long, each the mean of some samples."""
    height, width = picture.pixels.shape[:2]
    scale = max(1.0, max(height, width) / LONG_SIDE)
    rows, columns = max(1, round(height / scale)), max(1, round(width / scale))
    y = ((np.arange(rows * SAMPLED) + 0.5) * height / (rows * SAMPLED)).astype(np.intp)
    x = ((np.arange(columns * SAMPLED) + 0.5) * width / (columns * SAMPLED)).astype(np.intp)
    light = light_of_code().take(picture.pixels[y[:, None], x[None, :], :3]).astype(np.float64)
    means = light.reshape(rows, SAMPLED, columns, SAMPLED, 3).mean(axis=(1, 3))
    return lab_from_light(means)


def attention_map(lab: Field) -> Field:
    """How strongly each place draws the eye, 0..1; ``lab`` and result (rows, columns[, 3])."""
    from scipy import ndimage

    signs = (_rarity(lab), _difference_from_rim(lab), _contrast_to_surround(lab))
    total = sum(_stretched(sign) for sign in signs)
    weighted = np.asarray(total) * _towards_middle(lab.shape[0], lab.shape[1])
    return _stretched(ndimage.gaussian_filter(weighted, 0.02 * max(lab.shape[:2])))


def _stretched(field: Field) -> Field:
    low, high = float(field.min()), float(field.max())
    return (field - low) / (high - low) if high > low else np.zeros_like(field)


def _rarity(lab: Field) -> Field:
    """Mean distance of each pixel's colour to those of all others, over coarse colours."""
    flat = lab.reshape(-1, 3)
    low, high = flat.min(axis=0), flat.max(axis=0)
    cells = ((flat - low) / np.maximum(high - low, 1e-9) * (COLOUR_STEPS - 1e-6)).astype(int)
    codes = cells @ np.array([1, COLOUR_STEPS, COLOUR_STEPS**2])
    _, index, counts = np.unique(codes, return_inverse=True, return_counts=True)
    sums = np.stack([np.bincount(index, flat[:, i]) for i in range(3)], axis=1)
    means = sums / counts[:, None]
    distances = np.sqrt(((means[:, None] - means[None]) ** 2).sum(axis=2))
    rarity = distances @ (counts / counts.sum())
    return np.asarray(rarity[index].reshape(lab.shape[:2]))


def _difference_from_rim(lab: Field) -> Field:
    """Distance of each pixel's colour to the nearest of the four sides' typical colours."""
    depth = max(1, round(RIM * min(lab.shape[:2])))
    sides = (lab[:depth], lab[-depth:], lab[:, :depth], lab[:, -depth:])
    distances = [_distance_to_side(lab, side.reshape(-1, 3)) for side in sides]
    # A side on which the subject itself is cut off is left out: the farthest of the four.
    return np.asarray(np.sort(np.stack(distances), axis=0)[:3].mean(axis=0))


def _distance_to_side(lab: Field, colours: Field) -> Field:
    """Mahalanobis' distance to a side's colours, with some spread for even ones."""
    mean = colours.mean(axis=0)
    away = colours - mean
    spread = away.T @ away / len(colours) + 25.0 * np.eye(3)
    offset = lab - mean
    return np.asarray(np.sqrt(np.einsum("...i,ij,...j", offset, np.linalg.inv(spread), offset)))


def _contrast_to_surround(lab: Field) -> Field:
    """Differences between a place and its surround, at three sizes."""
    from scipy import ndimage

    longer = max(lab.shape[:2])
    total = np.zeros(lab.shape[:2])
    for share in (0.02, 0.04, 0.08):
        inner = ndimage.gaussian_filter(lab, (share * longer, share * longer, 0))
        outer = ndimage.gaussian_filter(lab, (4 * share * longer, 4 * share * longer, 0))
        total += np.sqrt(((inner - outer) ** 2).sum(axis=2))
    return total


def _towards_middle(rows: int, columns: int) -> Field:
    y = (np.arange(rows) + 0.5) / rows - 0.5
    x = (np.arange(columns) + 0.5) / columns - 0.5
    return np.exp(-(y[:, None] ** 2 + x[None, :] ** 2) / (2 * 0.3**2))


def _main_spot(map_: Field) -> NDArray[np.bool_]:
    """The connected place that draws the eye most."""
    from scipy import ndimage

    level = float(map_.mean() + map_.std())
    labels, count = ndimage.label(map_ >= min(level, float(map_.max())))
    masses = ndimage.sum_labels(map_**2, labels, np.arange(1, count + 1))
    return np.asarray(labels == 1 + int(np.argmax(masses)))


def _suggestion(map_: Field, spot: NDArray[np.bool_]) -> Suggestion:
    rows, columns = map_.shape
    y, x = np.nonzero(spot)
    weights = map_[spot] ** 2 + 1e-9  # an even picture has a middle too
    point = Point(
        float(((x + 0.5) * weights).sum() / weights.sum() / columns),
        float(((y + 0.5) * weights).sum() / weights.sum() / rows),
    )
    box = Rect(
        float(x.min() / columns),
        float(y.min() / rows),
        float((x.max() + 1) / columns),
        float((y.max() + 1) / rows),
    )
    mass = float((map_[spot] ** 2).sum() / max(float((map_**2).sum()), 1e-9))
    size = float(spot.mean())
    return Suggestion(point, box, max(0.0, min(1.0, (mass - size) / max(1 - size, 1e-9))))
