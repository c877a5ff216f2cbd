"""The mill at dusk: bright sky on the left, the mill far off the centre, water in front."""

from __future__ import annotations

import math

import numpy as np
from PIL import ImageDraw

from scenery.brushes import Field, Points, colour, gradient, grid, mask, mix, noise, polygon

HORIZON = 0.66
MILL_X = 0.71
HUB = (MILL_X - 0.004, 0.335)
SAIL = 0.205
"""Length of a sail in fractions of the height."""


def dusk(width: int, height: int, turn: float = 0.1, time: float = 0.0) -> Field:
    """The whole scene; ``turn`` of a quarter turn of the sails, ``time`` of the ripples' round."""
    scene = landscape(width, height)
    with_sails = sails(scene, turn)
    return reeds(water(with_sails, time))


def landscape(width: int, height: int) -> Field:
    """Sky, far trees and the mill without its sails; below the horizon plain ground."""
    picture = _sky(width, height)
    picture = _trees(picture)
    return _tower(picture)


def _sky(width: int, height: int) -> Field:
    x, y = grid(width, height)
    position = np.broadcast_to(y / HORIZON, (height, width))
    sky = gradient(
        position,
        [(0, "#1d2c4d"), (0.35, "#3b4f7a"), (0.62, "#8a7796"), (0.84, "#d99a7c"), (1, "#f4c98a")],
    )
    glow = np.exp(-(((x - 0.13) / 0.30) ** 2) - ((y - 0.58) / 0.20) ** 2)
    sky = mix(sky, np.broadcast_to(colour("#fff0c4"), sky.shape), 0.92 * glow)
    return _clouds(sky, x, y)


def _clouds(sky: Field, x: Field, y: Field) -> Field:
    height, width = sky.shape[:2]
    heap = noise(width, height, (5, 11), seed=3, octaves=7)
    cover = np.clip((heap - 0.50) * 5, 0, 1) * np.clip(1.15 - y / HORIZON, 0, 1)
    lit = np.clip((heap - 0.53) * 4, 0, 1)
    warm = np.clip(1.1 - 1.3 * np.abs(x - 0.15), 0.1, 1) * np.clip(y / HORIZON, 0.25, 1)
    dark = np.broadcast_to(colour("#39405e"), sky.shape)
    bright = np.broadcast_to(colour("#ffb98c"), sky.shape)
    return mix(mix(sky, dark, 0.45 * cover), bright, cover * (1 - lit) * warm * 0.75)


def _trees(picture: Field) -> Field:
    height, width = picture.shape[:2]
    _, y = grid(width, height)
    for depth, tone, seed in ((0.020, "#5d5a74", 11), (0.011, "#3a3d52", 12)):
        profile = noise(width, 1, (60, 1), seed, octaves=5)[0]
        top = HORIZON - depth * (0.4 + 1.2 * profile)[None, :]
        share = np.clip((y - top) * height / 1.5, 0, 1)
        picture = mix(picture, np.broadcast_to(colour(tone), picture.shape), share)
    return picture


def _tower(picture: Field) -> Field:
    height, width = picture.shape[:2]
    x, _ = grid(width, height)
    body = _tapered(0.80, 0.043, 0.36, 0.025)
    shade = np.clip((x - (MILL_X - 0.04)) / 0.08, 0, 1)
    wall = gradient(
        np.broadcast_to(shade, (height, width)), [(0, "#e8b48c"), (0.3, "#8d6a60"), (1, "#2a2836")]
    )
    bricks = noise(width, height, (300, 500), seed=21, octaves=2)
    wall = wall * (0.86 + 0.28 * bricks[..., None])
    picture = mix(picture, wall, polygon(width, height, body))
    cap: Points = [
        (MILL_X - 0.030, 0.365), (MILL_X - 0.024, 0.315), (MILL_X - 0.006, 0.275),
        (MILL_X + 0.012, 0.278), (MILL_X + 0.027, 0.318), (MILL_X + 0.031, 0.365),
    ]  # fmt: skip
    roof = gradient(np.broadcast_to(shade, (height, width)), [(0, "#8e5d4b"), (1, "#1f1e2a")])
    picture = mix(picture, roof, polygon(width, height, cap))
    return _windows(picture)


def _tapered(foot: float, foot_half: float, head: float, head_half: float) -> Points:
    """The tower's outline between two heights, each with half its width there."""
    return [
        (MILL_X - foot_half, foot),
        (MILL_X - head_half, head),
        (MILL_X + head_half, head),
        (MILL_X + foot_half, foot),
    ]


def _windows(picture: Field) -> Field:
    height, width = picture.shape[:2]
    lamp = np.broadcast_to(colour("#ffd98a"), picture.shape)
    for across, down, size in ((-0.006, 0.47, 0.006), (0.008, 0.58, 0.007), (-0.010, 0.70, 0.008)):
        left, top = MILL_X + across, down
        right, bottom = left + size, top + size * 2.6
        pane: Points = [(left, top), (right, top), (right, bottom), (left, bottom)]
        picture = mix(picture, lamp, polygon(width, height, pane))
    return picture


def sails(picture: Field, turn: float) -> Field:
    """The four sails, ``turn`` of a quarter turn on from upright; they repeat after 1."""
    height, width = picture.shape[:2]
    angles = [math.pi / 2 * (turn + quarter) for quarter in range(4)]

    def draw(canvas: ImageDraw.ImageDraw, scale: int) -> None:
        for angle in angles:
            _sail(canvas, (HUB[0] * width * scale, HUB[1] * height * scale), angle, height * scale)

    return mix(
        picture, np.broadcast_to(colour("#2b2530"), picture.shape), mask(width, height, draw)
    )


def _sail(canvas: ImageDraw.ImageDraw, hub: tuple[float, float], angle: float, unit: float) -> None:
    """One sail: a stock, and a lattice on one side of it."""
    along = (math.sin(angle), -math.cos(angle))
    aside = (-along[1], along[0])

    def place(out: float, side: float) -> tuple[float, float]:
        return (
            hub[0] + unit * (out * along[0] + side * aside[0]),
            hub[1] + unit * (out * along[1] + side * aside[1]),
        )

    bar = max(1, round(unit * 0.0022))
    canvas.line([place(0, 0), place(SAIL, 0)], fill=255, width=bar * 3)
    canvas.line([place(0.03, 0.034), place(SAIL, 0.034)], fill=255, width=bar)
    canvas.line([place(0.03, 0.017), place(SAIL, 0.017)], fill=255, width=bar)
    for step in range(15):
        out = 0.03 + (SAIL - 0.03) * step / 14
        canvas.line([place(out, 0), place(out, 0.034)], fill=255, width=bar)


def water(picture: Field, time: float) -> Field:
    """Everything below the horizon: the sky and the mill mirrored in rippled water."""
    height, width = picture.shape[:2]
    start = int(HORIZON * height)
    rows = np.arange(height - start)
    depth = rows / (height - start)
    x = np.arange(width) / width
    phase = 2 * math.pi * time
    waves = (
        np.sin(2 * math.pi * 150 * depth[:, None] ** 0.55 + phase + 9 * np.sin(11 * x)[None, :])
        + 0.6 * np.sin(2 * math.pi * 61 * depth[:, None] ** 0.6 - phase + 14 * x[None, :])
    )  # fmt: skip
    shift = waves * (0.002 + 0.012 * depth[:, None]) * height
    source = np.clip(start - 1 - rows[:, None] * 1.25 + shift, 0, start - 1).astype(np.intp)
    mirrored = picture[source, np.arange(width)[None, :]]
    tint = np.broadcast_to(colour("#182334"), mirrored.shape)
    mirrored = mix(mirrored, tint, np.broadcast_to(0.25 + 0.45 * depth[:, None], source.shape))
    sparkle = (
        np.clip(waves - 1.15, 0, 1) * (0.25 + 0.5 * np.exp(-(((x - 0.15) / 0.2) ** 2)))[None, :]
    )
    mirrored = mix(mirrored, np.broadcast_to(colour("#ffdca4"), mirrored.shape), sparkle)
    result = picture.copy()
    result[start:] = mirrored
    return _bank(result, picture)


def _bank(wet: Field, dry: Field) -> Field:
    """The island that the mill stands on."""
    height, width = wet.shape[:2]
    x, y = grid(width, height)
    edge = (
        0.80
        + 0.02 * noise(width, 1, (50, 1), 31)[0][None, :]
        - 0.14 * np.exp(-(((x - 0.74) / 0.13) ** 2))
    )
    lower = (
        0.835 + 0.018 * noise(width, 1, (24, 1), 32)[0][None, :] - 0.30 * np.abs(x - 0.74) ** 1.6
    )
    share = np.clip((y - edge) * height / 2, 0, 1) * np.clip((lower - y) * height / 2, 0, 1)
    grass = noise(width, height, (260, 60), seed=33, octaves=4)[..., None]
    ground = colour("#20261f") + grass * (colour("#5c5636") - colour("#20261f"))
    stands = polygon(width, height, _tapered(0.80, 0.043, 0.60, 0.035))
    return mix(mix(wet, dry, stands), ground.astype(np.float32), share)


def reeds(picture: Field) -> Field:
    """Reeds in the foreground, dark against the water, with a few pale heads."""
    height, width = picture.shape[:2]
    rng = np.random.default_rng(41)
    blades = [(x, rng.normal(0.05, 0.05), rng.random()) for x in rng.random(900) ** 1.0]

    def draw(canvas: ImageDraw.ImageDraw, scale: int) -> None:
        for x, lean, luck in blades:
            rise = (0.05 + 0.17 * luck) * (0.55 + 0.9 * abs(x - 0.42))
            foot = (x * width * scale, height * scale)
            tip = ((x + lean * rise) * width * scale, (1 - rise) * height * scale)
            canvas.line([foot, tip], fill=255, width=max(1, round(height * scale * 0.0016)))
            if luck > 0.8:
                head = height * scale * 0.0042
                canvas.ellipse(
                    [tip[0] - head, tip[1] - 4 * head, tip[0] + head, tip[1] + 4 * head], fill=200
                )

    return mix(
        picture, np.broadcast_to(colour("#0d1110"), picture.shape), mask(width, height, draw) * 0.94
    )
