"""What files of fewer px gain, at one score as displayed, against one px for each of the screen's.

    python -m bench.pairs             pictures that the repository's own program draws
    python -m bench.pairs FOLDER      every picture in a folder

For the middle of each picture as a phone (2 px to a CSS px) and a plain laptop (1) would show it.
"""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import statistics
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

from scenery.variants import variants

from brightcanvas.colour.resample import resize
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.framing.cuts import window_size
from brightcanvas.quality.metric import Viewing
from brightcanvas.quality.pictures.content import Content
from brightcanvas.quality.pictures.lightest import PictureTarget, search
from brightcanvas.quality.pictures.weighing import SHRINK
from brightcanvas.quality.search import Study
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.targets import DEFAULT_LEVEL, LEVELS

BOXES = {"phone": (Size(390, 600), 2.0), "laptop": (Size(1440, 700), 1.0)}
PHOTOGRAPH = Content(has_alpha=False, is_flat=False)


def sources(folder: Path) -> Iterator[Path]:
    """Those of the folder that was named, or drawn ones."""
    if len(sys.argv) > 1:
        yield from sorted(Path(sys.argv[1]).iterdir())
    else:
        yield from variants(folder)


def study_of(source: Path, box: Size, density: float) -> Study:
    """The middle of a picture, as a box shows it."""
    picture = read_picture(source)
    cut = window_size(picture.size, box.aspect)
    left, top = (picture.size.width - cut.width) / 2, (picture.size.height - cut.height) / 2
    area = Rect(left, top, left + cut.width, top + cut.height)
    shown = resize(picture, area, *box.times(density).rounded)
    return Study(shown, Viewing(density))


def weight(study: Study, kind: FileFormat, share: float) -> int:
    """Bytes of the lightest file with a share of the px across."""
    wanted = PictureTarget(LEVELS[DEFAULT_LEVEL], (kind,))
    return len(search(study.shrunk(share), PHOTOGRAPH, wanted)[0].content)


def main() -> None:
    """Print a line for each picture, and the middle of the gains."""
    gains: dict[tuple[str, FileFormat], list[float]] = {}
    with tempfile.TemporaryDirectory() as name:
        for source in sources(Path(name)):
            told = []
            for box, (size, density) in BOXES.items():
                study = study_of(source, size, density)
                for kind in (FileFormat.AVIF, FileFormat.JPEG):
                    whole, small = (weight(study, kind, share) for share in (1.0, SHRINK))
                    gains.setdefault((box, kind), []).append(small / whole)
                    told.append(f"{box} {kind.label} {whole / 1000:.1f}, {small / 1000:.1f} kB")
            print(f"{source.stem:16.16} {'; '.join(told)}", flush=True)
    for (box, kind), shares in gains.items():
        print(
            f"{box}, {kind.label}: {statistics.median(shares):.2f} of the bytes in the middle "
            f"({min(shares):.2f} to {max(shares):.2f})"
        )


if __name__ == "__main__":
    main()
