"""What choosing size and quality together gains against one px of file for each of the screen's.

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

from brightcanvas.basics.formats import FileFormat
from brightcanvas.basics.shapes import Rect, Size
from brightcanvas.basics.targets import DEFAULT_LEVEL, LEVELS
from brightcanvas.framing.windows import window_size
from brightcanvas.media.pictures import read_picture
from brightcanvas.tone.resample import resize
from brightcanvas.weight.content import Content
from brightcanvas.weight.lightest import Wanted, search
from brightcanvas.weight.likeness import Viewing
from brightcanvas.weight.search import Study
from brightcanvas.weight.weighing import SHRINKS

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


def main() -> None:
    """Print a line for each picture, and the middle of the gains."""
    gains: dict[tuple[str, FileFormat], list[float]] = {}
    with tempfile.TemporaryDirectory() as name:
        for source in sources(Path(name)):
            told = []
            for box, (size, density) in BOXES.items():
                study = study_of(source, size, density)
                for kind in (FileFormat.AVIF, FileFormat.JPEG):
                    plain = Wanted(LEVELS[DEFAULT_LEVEL], (kind,))
                    free = Wanted(LEVELS[DEFAULT_LEVEL], (kind,), shrinks=SHRINKS)
                    whole = search(study, PHOTOGRAPH, plain)[0]
                    pair = search(study, PHOTOGRAPH, free)[0]
                    share = len(pair.content) / len(whole.content)
                    gains.setdefault((box, kind), []).append(share)
                    px = pair.size[0] / whole.size[0]
                    told.append(
                        f"{box} {kind.label} {len(whole.content) / 1000:.1f} to"
                        f" {len(pair.content) / 1000:.1f} kB at {px:.2f} of the px across"
                    )
            print(f"{source.stem:16.16} {'; '.join(told)}", flush=True)
    for (box, kind), shares in gains.items():
        print(f"{box}, {kind.label}: {statistics.median(shares):.2f} of the bytes in the middle")


if __name__ == "__main__":
    main()
