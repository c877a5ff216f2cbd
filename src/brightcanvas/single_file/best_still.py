"""The still that stands for one clip, without a brief."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.analysis.stills import (
    ACROSS,
    Lift,
    Marks,
    Still,
    StillWish,
    best_stills,
    lift_for,
    reduced_size,
)
from brightcanvas.formats.clips.clip_reading import ClipFacts, read_facts, read_frame
from brightcanvas.formats.clips.moments import FrameReading, moments
from brightcanvas.formats.survey import survey
from brightcanvas.reports.picture_sheets import draw_stills
from brightcanvas.single_file.exact_cut import check_output, format_of, lightest_file
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.files import write_whole
from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster

SHOWN = 6


@dataclass(frozen=True)
class ChosenStill:
    """What came of choosing a still."""

    file: Path
    bytes: int
    size: Size
    facts: ClipFacts
    stills: tuple[Still, ...]
    """The best first; one without marks where the time was given."""
    sheet: Path | None
    lift: Lift | None = None
    """What would help, where the best one is dull."""


def choose_still(
    clip: Path,
    at: float | None,
    wish: StillWish,
    output: Path | None,
    sheet: Path | None,
    limit: float,
) -> ChosenStill:
    """Choose a clip's still and write it.

    Args:
        clip: path of the clip.
        at: its second; None: the best one.
        wish: what to heed in choosing.
        output: where to write it; None makes a name beside the clip.
        sheet: where to draw the best ones; None: nowhere.
        limit: most megapixels of a frame.

    Raises:
        BrightCanvasError: the clip can't be used, or a file is in the way.
    """
    if not survey(clip, limit).kind.is_clip:
        raise BriefError(f"{clip} is a picture: poster takes a clip.")
    output = output or clip.with_name(f"{clip.stem}-poster.jpg")
    check_output(output, clip)
    if sheet and sheet.exists():
        raise BriefError(f"{sheet} is there already: name another file with --sheet.")
    facts = read_facts(clip)
    stills = best_stills(clip, facts, wish, SHOWN)
    if not stills:
        raise SourceError(f"{clip}: not one frame of this clip can be read.")
    if at is not None:
        stills = (Still(at, Marks(1, 1, 1)), *stills)
    picture = read_frame(clip, stills[0].second)
    content = lightest_file(picture, format_of(output, picture.size, has_alpha=False))
    write_whole(output, content)
    if sheet:
        write_whole(sheet, draw_stills(clip.name, _seen(clip, stills), wish.copy))
    lift = _lift(clip, facts, stills[0], wish) if stills[0].marks.is_dull else None
    return ChosenStill(output, len(content), picture.size, facts, stills, sheet, lift)


def _lift(clip: Path, facts: ClipFacts, still: Still, wish: StillWish) -> Lift | None:
    reading = FrameReading(size=reduced_size(facts, ACROSS), begin=still.second)
    frame = next(moments(clip, reading), None)
    return lift_for(frame.pixels, wish) if frame else None


def _seen(clip: Path, stills: tuple[Still, ...]) -> list[tuple[Still, Raster]]:
    return [(one, read_frame(clip, one.second)) for one in stills[:SHOWN]]
