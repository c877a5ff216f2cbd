"""Making the framing sheets of a brief."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from brightcanvas.colour.average import average_colour
from brightcanvas.colour.resample import resize
from brightcanvas.colour.treatments import treated
from brightcanvas.pipeline.building import output_of
from brightcanvas.pipeline.ownership import BY_INTO
from brightcanvas.pipeline.publishing import publish
from brightcanvas.plan.model import Picture, Plan, View
from brightcanvas.promises.checking import check_all
from brightcanvas.promises.facts import Facts
from brightcanvas.promises.verdict import Verdict
from brightcanvas.reports.drawing import draw_plate
from brightcanvas.reports.framing_page import framing_page
from brightcanvas.reports.plates import Plate, Spot, plates_of
from brightcanvas.tasks.copy import copy_on, judge
from brightcanvas.tasks.of_views import judged_task, source_of
from brightcanvas.values.geometry import Point
from brightcanvas.values.raster import Raster

PAGE = "framing.html"


@dataclass(frozen=True)
class Sheets:
    """What was drawn."""

    page: Path
    pictures: tuple[Path, ...]
    verdicts: tuple[Verdict, ...]


def draw_sheets(plan: Plan, folder: Path) -> Sheets:
    """Draw every backdrop's plates into ``folder``, as PNG and on one page.

    Raises:
        BrightCanvasError: a source can't be read, or something else is in the way.
    """
    verdicts = check_all(Facts(plan))
    by_backdrop = {
        one.backdrop.name: [v for v in verdicts if v.backdrop == one.backdrop.name]
        for one in plan.backdrops
    }
    plates = [plate for one in plan.backdrops for plate in plates_of(one, _read, _find_spot)]
    files = {
        name: draw_plate(plate, by_backdrop[plate.backdrop])
        for name, plate in zip(_names(plates), plates, strict=True)
    }
    pictures = tuple(folder / name for name in files)
    files[PAGE] = framing_page(plan.brief.title, plates, by_backdrop).encode()
    publish(output_of(plan.brief, folder, "framing sheets", BY_INTO), files)
    return Sheets(folder / PAGE, pictures, verdicts)


def _names(plates: list[Plate]) -> list[str]:
    """A file name for each plate; further sources of a backdrop are numbered."""
    names: list[str] = []
    for plate in plates:
        number, name = 2, f"framing-{plate.backdrop}.png"
        while name in names:
            name, number = f"framing-{plate.backdrop}-{number}.png", number + 1
        names.append(name)
    return names


def _read(picture: Picture) -> Raster:
    return source_of(picture).read()


def _find_spot(view: View, picture: Picture, source: Raster) -> Spot | None:
    """Where the copy is hardest to read, on the picture as it would be before encoding."""
    copy = copy_on(view)
    if copy is None:
        return None
    task = judged_task(view)
    resized = resize(source, picture.cut.area, *task.size)
    shipped = treated(resized, picture.tone, task.css_px)
    judged = judge(copy, shipped, view.slot.behind or average_colour(shipped))
    return Spot(judged.aspect, Point(*judged.place), judged.lowest, judged.scrim)
