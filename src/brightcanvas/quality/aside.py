"""Large pictures put aside on the disk while a codec needs the memory."""

from __future__ import annotations

import tempfile
import weakref

import numpy as np

from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster

LARGE = 8_000_000
"""Px of a picture from which memory matters more than time."""


def is_large(size: Size) -> bool:
    """Whether memory matters more than time."""
    return size.width * size.height > LARGE


class Aside:
    """A picture kept in a nameless file, which is gone when nobody needs it any more."""

    def __init__(self, picture: Raster) -> None:
        self._shape = picture.pixels.shape
        self._file = tempfile.TemporaryFile()  # noqa: SIM115 - closed with its owner
        weakref.finalize(self, self._file.close)
        picture.pixels.tofile(self._file)

    def picture(self) -> Raster:
        """The picture, read back."""
        self._file.seek(0)
        return Raster(np.fromfile(self._file, np.uint8).reshape(self._shape))
