"""Many smaller versions of one picture, made of a copy of half its size where that is enough."""

from __future__ import annotations

from threading import Lock

from brightcanvas.colour.resample import resize
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.raster import Raster

FAR = 3.0
"""Source px to one of the result from which the half size serves as well: what it lacks is finer
than the result's own px by half at least."""


class Reducible:
    """A picture, and its half size once somebody needs it."""

    def __init__(self, picture: Raster) -> None:
        self.picture = picture
        self._lock = Lock()
        self._half: Raster | None = None

    def resized(self, area: Rect, width: int, height: int) -> Raster:
        """The part ``area`` (source px, fractions allowed) at a new size in px.

        Args:
            area: of the source, px; fractions are allowed.
            width: of the result, px.
            height: of the result, px.
        """
        if min(area.width / width, area.height / height) < FAR:
            return resize(self.picture, area, width, height)
        half, whole = self._halved(), self.picture.size
        shares = Size(half.size.width / whole.width, half.size.height / whole.height)
        return resize(half, area.scaled(shares), width, height)

    def _halved(self) -> Raster:
        with self._lock:
            if self._half is None:
                size = self.picture.size
                width, height = size.times(0.5).rounded
                whole = Rect(0, 0, size.width, size.height)
                self._half = resize(self.picture, whole, width, height)
            return self._half
