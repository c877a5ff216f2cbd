"""How scores fall with each codec's quality: the figures of ``weight.curves``.

    python -m bench.curves             the demo's photographs
    python -m bench.curves FOLDER      every picture in a folder

Prints, for each codec, the means over the pictures of the natural logarithm of 1 - score at the
qualities that its curve lists, and how far single pictures lie from that curve once it is
shifted to meet them.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from brightcanvas.colour.resample import resize
from brightcanvas.formats.codecs.avif import AVIF
from brightcanvas.formats.codecs.codec import RateCurve
from brightcanvas.formats.codecs.jpeg import EVEN_JPEG, FULL_JPEG, JPEG
from brightcanvas.formats.codecs.webp import WEBP
from brightcanvas.formats.pictures.picture_reading import decode, read_picture
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.quality.metric import Original, Viewing
from brightcanvas.quality.search import log_distortion
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

DEMO = Path(__file__).parent.parent / "src/brightcanvas/demo/marrowfen-mill/sources"
PHOTOGRAPHS = ("mill-at-dusk.jpg", "bakery.jpg")
ACROSS = 900
DENSITIES = (1.0, 1.7)


Pictures = list[tuple[Raster, Original]]


def originals(sources: list[Path]) -> Pictures:
    """Every picture, as it is seen at each density; the pixels are kept beside."""
    found = Pictures()
    for source in sources:
        picture = read_picture(source)
        area = Rect(0, 0, picture.size.width, picture.size.height)
        small = resize(picture, area, ACROSS, round(ACROSS / picture.size.aspect))
        found += [(small, Original(small, Viewing(density))) for density in DENSITIES]
    return found


def heights(curve: RateCurve, pictures: Pictures, *, draft: bool) -> NDArray[np.float64]:
    """Logarithms of the distortion, of shape (pictures, qualities)."""
    return np.array(
        [
            [
                log_distortion(
                    original.score(
                        decode(encode(picture, curve.encoding(quality, draft=draft)))
                    ).figure
                )
                for quality in curve.qualities
            ]
            for picture, original in pictures
        ]
    )


def main() -> None:
    """Print everything."""
    if len(sys.argv) > 1:
        sources = sorted(path for path in Path(sys.argv[1]).iterdir() if path.is_file())
    else:
        sources = [DEMO / name for name in PHOTOGRAPHS]
    pictures = originals(sources)
    for curve in (AVIF, WEBP, JPEG, EVEN_JPEG, FULL_JPEG):
        final = heights(curve, pictures, draft=False)
        mean = final.mean(axis=0)
        away = (final - mean) - (final - mean).mean(axis=1, keepdims=True)
        told = ", ".join(f"{one:.2f}" for one in mean)
        print(f"{curve.name}: {told}; shapes differ by {away.std():.3f}")
        if curve is AVIF:
            moved = heights(curve, pictures, draft=True) - final
            print(f"  quick trials lie {moved.mean():+.3f} higher, give or take {moved.std():.3f}")


if __name__ == "__main__":
    main()
