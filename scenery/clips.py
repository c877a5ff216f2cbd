"""Clips to measure with: of the kinds that people have, all drawn here.

    python -m scenery.clips FOLDER

Noise at night, flicker of a time-lapse, cuts and fades, sound, a phone held upright, uneven time
stamps, one that is light already, people who walk by, a camera that pans, and a perfect round.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray
from PIL import ImageDraw

from scenery.bakery import bakery
from scenery.brushes import Field, colour, mask, mix, noise
from scenery.mill import HUB, SAIL, dusk, landscape, reeds, sails, water

Pixels = NDArray[np.uint8]
WIDE, UPRIGHT, FULL = (1280, 720), (720, 1280), (1920, 1080)
RATE = 25
MS = Fraction(1, 1000)


@dataclass(frozen=True)
class Sample:
    """One clip that can be drawn."""

    frames: Callable[[], Iterator[Pixels]]
    rate: int = RATE
    finely: str = "18"
    """Constant quality of the encoder."""
    has_sound: bool = False
    stamps: Callable[[int], int] | None = None
    """Time stamps in thousandths of a second; None: as even as the rate."""


def samples() -> dict[str, Sample]:
    """All by their names."""
    return {
        "night": Sample(_night, finely="19"),
        "time-lapse": Sample(_time_lapse),
        "scenes": Sample(_scenes),
        "shop": Sample(_shop, has_sound=True),
        "upright": Sample(_upright, rate=30),
        "uneven": Sample(_uneven, rate=30, stamps=_uneven_stamp),
        "light": Sample(_light, finely="34"),
        "walkers": Sample(_walkers),
        "pan": Sample(_pan),
        "round": Sample(_round),
    }


def drawn(folder: Path, *names: str) -> Iterator[Path]:
    """Draw them one by one into a folder; those that are there already are kept.

    Args:
        folder: where to.
        names: of some; all without any.
    """
    for name, sample in samples().items():
        path = folder / f"{name}.mp4"
        if names and name not in names:
            continue
        if not path.exists():
            _write(path, sample)
        yield path


def _write(path: Path, sample: Sample) -> None:
    """As cameras leave them: heavy, with many key frames, sometimes with sound."""
    with av.open(str(path), "w") as container:
        options = {"crf": sample.finely, "preset": "veryfast", "g": str(2 * sample.rate)}
        stream = container.add_stream("libx264", rate=sample.rate, options=options)
        stream.pix_fmt = "yuv420p"
        sound = container.add_stream("aac", rate=48000) if sample.has_sound else None
        if sample.stamps:
            stream.time_base = stream.codec_context.time_base = MS
        count = 0
        for pixels in sample.frames():
            if count == 0:
                stream.width, stream.height = pixels.shape[1], pixels.shape[0]
            frame = av.VideoFrame.from_ndarray(pixels, format="rgb24")
            if sample.stamps:
                frame.pts, frame.time_base = sample.stamps(count), MS
            container.mux(stream.encode(frame))
            count += 1
        container.mux(stream.encode(None))
        if sound is not None:
            _hum(container, sound, count / sample.rate)


def _hum(container: av.container.OutputContainer, stream: av.AudioStream, seconds: float) -> None:
    """The mill's hum: a low note that swells."""
    for at in range(0, int(seconds * 48000), 1024):
        time = (at + np.arange(1024, dtype=np.float32)) / 48000
        wave = 0.2 * np.sin(2 * np.pi * 110 * time) * (1 + 0.5 * np.sin(time))
        frame = av.AudioFrame.from_ndarray(
            np.tile(wave.astype(np.float32), (2, 1)), format="fltp", layout="stereo"
        )
        frame.sample_rate, frame.pts, frame.time_base = 48000, at, Fraction(1, 48000)
        container.mux(stream.encode(frame))
    container.mux(stream.encode(None))


def _codes(picture: Field) -> Pixels:
    return np.asarray(np.clip(picture * 255 + 0.5, 0, 255)).astype(np.uint8)


@dataclass(frozen=True)
class _Evening:
    """The mill in parts that are drawn once: each round of its own length."""

    wet: tuple[Pixels, ...]
    """Of one round of the ripples."""
    turning: tuple[Pixels, ...]
    """The sails' masks of a quarter turn, around the hub."""
    place: tuple[slice, slice]

    def at(self, ripples: int, turn: int) -> Pixels:
        """One frame, counted in steps of each round."""
        picture = self.wet[ripples % len(self.wet)].copy()
        share = self.turning[turn % len(self.turning)][..., None].astype(np.float32) / 255
        part = picture[self.place]
        picture[self.place] = part + (colour("#2b2530") * 255 - part) * share
        return picture


@cache
def _evening(size: tuple[int, int], ripples: int, turns: int) -> _Evening:
    width, height = size
    still = landscape(width, height)
    wet = tuple(_codes(reeds(water(still, one / ripples))) for one in range(ripples))
    reach = int(1.1 * SAIL * height)
    left, top = int(HUB[0] * width) - reach, max(0, int(HUB[1] * height) - reach)
    place = slice(top, top + 2 * reach), slice(left, left + 2 * reach)
    nothing = np.zeros_like(still)
    tone = colour("#2b2530")[0]
    turning = tuple(
        np.asarray(sails(nothing, one / turns)[..., 0][place] / tone * 255).astype(np.uint8)
        for one in range(turns)
    )
    return _Evening(wet, turning, place)


@cache
def _grain(amount: float) -> NDArray[np.int16]:
    drawn = np.random.default_rng(1).normal(0, amount, (1400, 2200, 1))
    tint = np.random.default_rng(2).normal(0, amount / 3, (1400, 2200, 3))
    return np.asarray(drawn + tint).round().astype(np.int16)


def _with_grain(pixels: Pixels, amount: float, number: int) -> Pixels:
    """A camera's grain, another in each frame."""
    height, width = pixels.shape[:2]
    top, left = np.random.default_rng(number).integers(0, (1400 - height, 2200 - width))
    grain = _grain(amount)[top : top + height, left : left + width]
    return np.asarray(np.clip(pixels.astype(np.int16) + grain, 0, 255)).astype(np.uint8)


def _night() -> Iterator[Pixels]:
    """A dark landscape through a sensor at its limit."""
    mill = _evening(FULL, 24, 72)
    for number in range(4 * RATE):
        dark = (mill.at(number, number) * 0.2).astype(np.uint8)
        yield _with_grain(dark, 7.0, number)


def _time_lapse() -> Iterator[Pixels]:
    """Clouds race, and no two exposures are alike."""
    width, height = WIDE
    sky = noise(width * 3, height, (14, 6), seed=5, octaves=6)
    ground, luck = dusk(width, height), np.random.default_rng(6)
    share = np.clip((0.62 - np.linspace(0, 1, height)) * 12, 0, 1)[:, None]
    bright = np.broadcast_to(colour("#f2e8dc"), ground.shape)
    for number in range(6 * RATE):
        cover = np.clip((sky[:, number * 12 : number * 12 + width] - 0.48) * 6, 0, 1)
        light = 0.75 + 0.35 * math.sin(number / 90) + luck.normal(0, 0.02)
        yield _codes(mix(ground, bright, cover * share) * light)


def _scenes() -> Iterator[Pixels]:
    """Out of black to the mill, a cut to the shop, and back into black."""
    mill, shop = _evening(WIDE, 24, 60), _codes(bakery(*WIDE))
    length = 8 * RATE
    for number in range(length):
        light = min(1.0, number / 20, (length - 1 - number) / 30)
        is_mill = number < length // 2
        picture = mill.at(number, number) if is_mill else np.roll(shop, number // 3, axis=1)
        yield _with_grain((picture * light).astype(np.uint8), 1.2, number)


def _shop() -> Iterator[Pixels]:
    """Half a minute along the shelves and back, with sound."""
    width, height = WIDE
    shop = _codes(bakery(1600, 900))
    for number in range(30 * RATE):
        way = 0.5 - 0.5 * math.cos(2 * math.pi * number / (23 * RATE))
        left, top = round(way * (1600 - width)), round(60 + 40 * math.sin(number / 70))
        yield _with_grain(shop[top : top + height, left : left + width], 1.5, number)


def _upright() -> Iterator[Pixels]:
    """A phone, held upright by a hand that isn't quite still."""
    mill = _evening((1600, 1400), 24, 64)
    width, height = UPRIGHT
    for number in range(5 * 30):
        left = round(700 + 9 * math.sin(number / 19) + 4 * math.sin(number / 7))
        top = round(60 + 7 * math.sin(number / 23))
        part = mill.at(number // 2, number)[top : top + height, left : left + width]
        yield _with_grain(part, 2.0, number)


def _uneven_stamp(number: int) -> int:
    return number * 33 + 25 * (number % 3 == 1)


def _uneven() -> Iterator[Pixels]:
    """Ripples, recorded when the machine had the time."""
    mill = _evening(WIDE, 30, 90)
    for number in range(150):
        at = _uneven_stamp(number) // 8
        yield _with_grain(mill.at(at // 4, at // 4), 1.0, number)


def _light() -> Iterator[Pixels]:
    """Next to nothing, in next to no bytes."""
    still = landscape(640, 360) * 0.5 + 0.2
    mean = np.broadcast_to(still.mean(axis=(0, 1)), still.shape)
    for number in range(3 * RATE):
        yield _codes(mix(still, mean, 0.7 + 0.2 * math.sin(2 * math.pi * number / 75)))


def _walkers() -> Iterator[Pixels]:
    """Two people walk past the mill, one after the other."""
    ground = dusk(*WIDE)
    for number in range(5 * RATE):
        picture = ground
        for start, speed, tone in ((-0.1, 0.0085, "#6a4a3c"), (1.15, -0.006, "#3f5a66")):
            picture = _walker(picture, start + speed * number, number, tone)
        yield _with_grain(_codes(picture), 1.5, number)


def _walker(picture: Field, x: float, number: int, tone: str) -> Field:
    """A head, a coat and two legs that swing."""
    height, width = picture.shape[:2]
    swing = 0.03 * math.sin(number / 3)
    unit, left = height * 2, x * width * 2

    def body(canvas: ImageDraw.ImageDraw, _: int) -> None:
        canvas.ellipse([left - 0.07 * unit, 0.4 * unit, left + 0.07 * unit, 0.8 * unit], fill=255)
        for side in (swing, -swing):
            foot = (left + side * unit, 0.99 * unit)
            canvas.line([(left, 0.76 * unit), foot], fill=255, width=int(0.03 * unit))

    def face(canvas: ImageDraw.ImageDraw, _: int) -> None:
        box = [left - 0.045 * unit, 0.29 * unit, left + 0.045 * unit, 0.42 * unit]
        canvas.ellipse(box, fill=255)

    coat, skin = (np.broadcast_to(colour(one), picture.shape) for one in (tone, "#d9ab8c"))
    dressed = mix(picture, coat, mask(width, height, body))
    return mix(dressed, skin, mask(width, height, face))


def _pan() -> Iterator[Pixels]:
    """A camera that goes along the bank, one way."""
    width, height = WIDE
    still = _codes(dusk(2400, height))
    for number in range(5 * RATE):
        yield _with_grain(still[:, number * 8 : number * 8 + width], 1.5, number)


def _round() -> Iterator[Pixels]:
    """A quarter turn of the sails over two rounds of the ripples, with a little grain."""
    mill = _evening(WIDE, 48, 96)
    for number in range(96):
        yield _with_grain(mill.at(number, number), 1.2, number)


if __name__ == "__main__":
    Path(sys.argv[1]).mkdir(parents=True, exist_ok=True)
    for made in drawn(Path(sys.argv[1])):
        print(f"{made.name:20} {made.stat().st_size / 1000:10.1f} kB")
