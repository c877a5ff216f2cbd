"""Contact sheets to judge a level by eye: crops at 100 %, the original beside the file.

    python -m bench.crops OUT                    pictures that the repository's own program draws
    python -m bench.crops OUT FOLDER [LEVEL]     every picture in a folder

For the middle of each picture as a plain laptop shows it: the region that the score calls best,
one of the middle, and the worst. To be opened at one px of it for each of the screen's.
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw
from scenery.variants import variants

from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.quality.pictures.lightest import PictureTarget, search
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster
from brightcanvas.values.targets import DEFAULT_LEVEL, LEVELS

from .pairs import PHOTOGRAPH, study_of

BOX = Size(1440, 700)
SIDE = 200
"""Px of a crop's side."""

MARGIN = 8
LINE = 14


def crops(source: Path, target: float) -> tuple[str, list[tuple[str, Raster, Raster]]]:
    """What was made of a picture, and its crops: what each is, the original, and the file."""
    study = study_of(source, BOX, 1.0)
    (found,) = search(study, PHOTOGRAPH, PictureTarget(target, (FileFormat.AVIF,)))
    shown = decode(found.content)
    regions = study.original.regions(shown)
    ranked = np.argsort(regions, axis=None)
    chosen = {"worst": ranked[0], "middle": ranked[ranked.size // 2], "best": ranked[-1]}
    told = (
        f"{source.stem}: {len(found.content) / 1000:.1f} kB at quality {found.encoding.quality},"
        f" score {found.score.figure:.3f}"
    )
    return told, [
        (
            f"{name} region, {regions.flat[place]:.3f}",
            _around(study.picture, place, regions.shape, study.original.region),
            _around(shown, place, regions.shape, study.original.region),
        )
        for name, place in chosen.items()
    ]


def _around(picture: Raster, place: int, shape: tuple[int, ...], region: int) -> Raster:
    row, column = divmod(int(place), shape[1])
    height, width = picture.pixels.shape[:2]
    top = min(max(0, int((row + 0.5) * region - SIDE / 2)), height - SIDE)
    left = min(max(0, int((column + 0.5) * region - SIDE / 2)), width - SIDE)
    return Raster(picture.pixels[top : top + SIDE, left : left + SIDE])


def sheet(told: str, found: list[tuple[str, Raster, Raster]]) -> Image.Image:
    """One row of pairs, original left, file right."""
    pair = 2 * SIDE + MARGIN
    canvas = Image.new("RGB", (len(found) * (pair + MARGIN), SIDE + 2 * LINE + MARGIN), "white")
    draw = ImageDraw.Draw(canvas)
    draw.text((0, 0), told, fill="black")
    for number, (name, original, shown) in enumerate(found):
        left = number * (pair + MARGIN)
        draw.text((left, LINE), f"{name}: original, file", fill="black")
        canvas.paste(Image.fromarray(original.pixels), (left, 2 * LINE))
        canvas.paste(Image.fromarray(shown.pixels), (left + SIDE + MARGIN, 2 * LINE))
    return canvas


def sources(folder: Path) -> Iterator[Path]:
    """Those of the folder that was named, or drawn ones."""
    if len(sys.argv) > 2:
        yield from sorted(Path(sys.argv[2]).iterdir())
    else:
        yield from variants(folder)


def main() -> None:
    """Write one sheet for each picture."""
    if len(sys.argv) < 2:
        raise SystemExit(__doc__)
    out = Path(sys.argv[1])
    out.mkdir(parents=True, exist_ok=True)
    target = LEVELS[sys.argv[3] if len(sys.argv) > 3 else DEFAULT_LEVEL]
    with tempfile.TemporaryDirectory() as name:
        for source in sources(Path(name)):
            told, found = crops(source, target)
            sheet(told, found).save(out / f"{source.stem}.png")
            print(told, flush=True)


if __name__ == "__main__":
    main()
