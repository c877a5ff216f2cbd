"""Trials: one picture under several treatments and scrims, side by side."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from brightcanvas.analysis.legibility import (
    grounds,
    least_scrim,
    lowest_contrast,
    scrim_colour_for,
)
from brightcanvas.colour.resample import resize
from brightcanvas.colour.spaces import average_colour
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.codecs.avif import AVIF
from brightcanvas.formats.survey import read_source
from brightcanvas.quality.metric import Viewing
from brightcanvas.quality.search import Study, searched
from brightcanvas.values.colours import UNTREATED, Tone
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import Letters, Scrim
from brightcanvas.values.raster import Raster
from brightcanvas.values.targets import DEFAULT_LEVEL, LEVELS

LONGEST = 20
"""Aspect of a picture that can have copy on it, either way."""

WIDTH = 960
"""Px, and CSS px, across at which a picture is tried."""


@dataclass(frozen=True)
class Trial:
    """One way to treat a picture."""

    name: str
    line: str
    """The brief's line for it."""
    picture: Raster
    """As a visitor sees it, scrim included."""
    lowest: float
    """Lowest contrast under the copy."""
    bytes: int
    """Of the picture as it would be shipped; a scrim weighs nothing."""


def run_trials(path: Path, copy: Rect, letters: Letters, limit: float) -> tuple[Trial, ...]:
    """Try a picture under several treatments and scrims.

    Args:
        path: of the picture or clip.
        copy: where the copy lies, in fractions of the picture.
        letters: of the copy.
        limit: most megapixels of the source.

    Raises:
        BrightCanvasError: it can't be used, or there is no room for the copy.
    """
    _, source = read_source(path, limit)
    if not 1 / LONGEST <= source.size.aspect <= LONGEST:
        raise SourceError(f"{path}: {source.size} px have no room for copy.")
    height = max(1, round(WIDTH / source.size.aspect))
    picture = resize(source, Rect(0, 0, source.size.width, source.size.height), WIDTH, height)
    behind = average_colour(picture)
    tint = scrim_colour_for(letters)
    parts = grounds(picture, [copy], WIDTH, letters, behind)
    least = least_scrim(parts, letters, behind, tint)
    with ThreadPoolExecutor() as pool:
        trial = partial(_trial, picture, copy, letters)
        return tuple(pool.map(trial, _candidates(letters, least)))


@dataclass(frozen=True)
class _Candidate:
    name: str
    line: str
    tone: Tone = UNTREATED
    scrim: Scrim | None = None


def _candidates(letters: Letters, least: Scrim | None) -> Iterator[_Candidate]:
    tint = scrim_colour_for(letters)
    is_dark = tint.red < 0.5
    yield _Candidate("as it is", "")
    if least and least.strength:
        line = "scrim = { least = true }"
        yield _Candidate(f"least scrim, {least.strength:.1%}", line, scrim=least)
    for strength in (0.3, 0.5):
        line = f"scrim = {{ strength = {strength:g} }}"
        yield _Candidate(f"scrim {strength:.0%}", line, scrim=Scrim(tint, strength))
    fade = f'tone = {{ fade = {{ colour = "{tint.css}", amount = 0.3 }} }}'
    yield _Candidate("fade 30%, baked", fade, Tone(fade=0.3, fade_to=tint))
    exposure = "darken" if is_dark else "lighten"
    amount = Tone(darken=0.5) if is_dark else Tone(lighten=0.5)
    yield _Candidate(f"{exposure} 50%, baked", f"tone = {{ {exposure} = 0.5 }}", amount)
    yield _Candidate("soften 8 px, baked", "tone = { soften = 8 }", Tone(soften=8))
    yield _Candidate("calm 50%, baked", "tone = { calm = 0.5 }", Tone(calm=0.5))
    yield _Candidate("desaturate 70%, baked", "tone = { desaturate = 0.7 }", Tone(desaturate=0.7))


def _trial(picture: Raster, copy: Rect, letters: Letters, candidate: _Candidate) -> Trial:
    shipped = treated(picture, candidate.tone)
    parts = grounds(shipped, [copy], WIDTH, letters, average_colour(shipped))
    lowest = lowest_contrast(parts, letters, candidate.scrim).contrast
    scrim = candidate.scrim
    seen = treated(shipped, Tone(fade=scrim.strength, fade_to=scrim.colour)) if scrim else shipped
    study = Study(shipped, Viewing())
    weight = len(searched(study, AVIF, LEVELS[DEFAULT_LEVEL]).content)
    return Trial(candidate.name, candidate.line, seen, lowest, weight)
