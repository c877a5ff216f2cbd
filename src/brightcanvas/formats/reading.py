"""A source in one go: its facts and its pixels."""

from __future__ import annotations

from pathlib import Path

from brightcanvas.formats.loaded import kind_of, load
from brightcanvas.formats.pictures import picture_of
from brightcanvas.formats.survey import SourceFacts, survey, survey_of
from brightcanvas.values.raster import Raster


def read_source(path: Path, limit: float) -> tuple[SourceFacts, Raster]:
    """Look at a source, and decode it; of a clip its first frame.

    Args:
        path: of it.
        limit: megapixels, at most; what is larger is never decoded.

    Raises:
        SourceError: it can't be used.
    """
    if kind_of(path).is_clip:
        from brightcanvas.formats.clips import read_frame

        return survey(path, limit), read_frame(path, 0.0)
    file = load(path)
    return survey_of(file, limit), picture_of(file)
