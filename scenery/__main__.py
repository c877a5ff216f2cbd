"""Draw all of the demo's sources into the package."""

from __future__ import annotations

import argparse
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from PIL import Image

from scenery.bakery import bakery
from scenery.brushes import grained
from scenery.flat import dykes, weave
from scenery.mill import dusk, landscape, reeds, sails, water

PLACE = Path(__file__).parent.parent / "src/brightcanvas/demo/marrowfen-mill/sources"
CLIP_SIZE = (960, 540)
FRAMES, RATE = 72, 24


def main() -> None:
    """Draw everything, and say how heavy it came out."""
    parser = argparse.ArgumentParser(prog="python -m scenery", description=__doc__)
    parser.add_argument("folder", nargs="?", type=Path, default=PLACE)
    folder = parser.parse_args().folder
    folder.mkdir(parents=True, exist_ok=True)
    mill = Image.fromarray(grained(dusk(3000, 2000), 2.2, seed=1))
    mill.save(folder / "mill-at-dusk.jpg", quality=86, subsampling=0)
    shop = Image.fromarray(grained(bakery(2400, 1600), 1.6, seed=2))
    shop.save(folder / "bakery.jpg", quality=84)
    Image.fromarray(weave(480)).save(folder / "woven-reed.png", optimize=True)
    (folder / "dykes.svg").write_text(dykes(1800, 1200), encoding="utf-8")
    turning_sails(folder / "turning-sails.mp4")
    for path in sorted(folder.iterdir()):
        print(f"{path.name:20} {path.stat().st_size / 1000:8.1f} kB")


def turning_sails(path: Path) -> None:
    """A quarter turn of the sails over one round of the ripples: a perfect loop."""
    still = landscape(*CLIP_SIZE)
    with av.open(str(path), "w", options={"movflags": "faststart"}) as container:
        stream = container.add_stream("libx264", rate=RATE, options={"crf": "27", "preset": "slow"})
        stream.width, stream.height = CLIP_SIZE
        stream.pix_fmt = "yuv420p"
        stream.time_base = Fraction(1, RATE)
        for number in range(FRAMES):
            time = number / FRAMES
            picture = reeds(water(sails(still, time), time))
            pixels = np.clip(picture * 255 + 0.5, 0, 255).astype(np.uint8)
            container.mux(stream.encode(av.VideoFrame.from_ndarray(pixels, format="rgb24")))
        container.mux(stream.encode(None))


if __name__ == "__main__":
    main()
