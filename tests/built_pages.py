"""Three pages as page-building systems write them: made up, each with habits of its own.

*sections*: elements of an editor, with generated classes, a resized upload, and rules in the head.
*blocks*: the picture in a style attribute, as high as the window. *bands*: the picture on an empty
layer, its height a share of the window's width between two bounds.
"""

from __future__ import annotations

import shutil
from pathlib import Path

from PIL import Image

from .mill_pages import picture

PAGES = Path(__file__).parent / "pages"

PICTURES = {
    "sections": {
        "uploads/mill-1024x576.jpg": (1024, 576),
        "uploads/mill.jpg": (2400, 1350),
        "uploads/bakery.jpg": (1600, 1000),
    },
    "blocks": {"media/mill.jpg": (2000, 1300)},
    "bands": {"pictures/fen-large.jpg": (2200, 1240), "pictures/fen-small.jpg": (660, 372)},
}


SIZES = {"sections": {"uploads/mill-1024x576.jpg": "uploads/mill.jpg"},
         "bands": {"pictures/fen-small.jpg": "pictures/fen-large.jpg"}}  # fmt: skip
"""Which file is a smaller one of which."""


def write_page(name: str, folder: Path) -> Path:
    """Put one of them into a folder, with its pictures; the page's path."""
    shutil.copytree(PAGES / name, folder)
    for file, (width, height) in PICTURES[name].items():
        path = folder / file
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(picture(width, height, "JPEG", heavy=True))
    for small, large in SIZES.get(name, {}).items():
        with Image.open(folder / large) as image:
            image.resize(PICTURES[name][small]).save(folder / small, quality=92)
    return folder / "index.html"
