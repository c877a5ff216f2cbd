"""Sheets of a clip's best stills, of suggested subjects and of trials, as PNG."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import TYPE_CHECKING, Protocol

from brightcanvas.analysis.stills import Marks, Still
from brightcanvas.drafting.draft import LookedAt
from brightcanvas.formats.pictures.picture_reading import resampled
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.legible import Letters
from brightcanvas.values.raster import Raster
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

WIDE = 1280
"""Px of a sheet; it is as high as its pictures need."""

EDGE, GAP = 38, 24
"""Px round everything, and between two pictures."""

TITLE, CAPTION = 76, 42
"""Px of height."""

MOST_COLUMNS = 3
COLUMNS_FOR = {4: 2}
"""Columns for so many pictures; else as many as there are, three at most."""

SUBJECT_SIDE = 800
"""Px of a source's longer side on the sheet, at most: no more is drawn there."""

INK, GOOD, BAD, BOX = "#20262b", "#2f7d4f", "#b3261e", "#e4572e"
SAMPLE = "Flour, bread and a bed\nfor the night"
WORDS = {
    "exposed": "exposure",
    "contrasted": "contrast",
    "sharp": "sharpness",
    "coloured": "colour",
    "settled": "stillness",
    "calm": "calm under the copy",
    "clear": "subject",
}


def _grid(title: str, sizes: Sequence[Size]) -> tuple[Figure, list[Axes]]:
    """A sheet with room for pictures of these shapes, each below its caption, the row left."""
    from matplotlib.figure import Figure

    columns = COLUMNS_FOR.get(len(sizes), min(len(sizes), MOST_COLUMNS))
    wide = (WIDE - 2 * EDGE - (columns - 1) * GAP) / columns
    rows = [sizes[start : start + columns] for start in range(0, len(sizes), columns)]
    heights = [min(MOST_HIGH, max(wide / one.aspect for one in row)) for row in rows]
    high = TITLE + sum(heights) + len(rows) * CAPTION + (len(rows) - 1) * GAP + EDGE
    figure = Figure(figsize=(WIDE / 100, high / 100), dpi=100, facecolor="white")
    figure.text(EDGE / WIDE, 1 - EDGE / high, title, size=15, weight="bold", color=INK, va="top")
    grid, top = [], float(TITLE)
    for row, height in zip(rows, heights, strict=True):
        top += CAPTION + height
        for column in range(len(row)):
            left = EDGE + column * (wide + GAP)
            place = (left / WIDE, 1 - top / high, wide / WIDE, height / high)
            grid.append(figure.add_axes(place, anchor="NW"))
        top += GAP
    return figure, grid


MOST_HIGH = 620
"""Px of a picture; upright ones are narrower instead."""


def _png(figure: Figure) -> bytes:
    from matplotlib.backends.backend_agg import FigureCanvasAgg

    out = io.BytesIO()
    FigureCanvasAgg(figure).print_png(out)  # type: ignore[no-untyped-call]
    return out.getvalue()


def draw_stills(title: str, stills: Sequence[tuple[Still, Raster]], copy: Rect | None) -> bytes:
    """The stills side by side, the best first, each with its second and its marks."""
    figure, grid = _grid(f"{title}: the best stills", [picture.size for _, picture in stills])
    for axes, (still, picture) in zip(grid, stills, strict=True):
        _draw_still(axes, still, picture, copy, best=axes is grid[0])
    return _png(figure)


def _draw_still(
    axes: Axes, still: Still, picture: Raster, copy: Rect | None, *, best: bool
) -> None:
    from matplotlib.patches import Rectangle

    axes.imshow(picture.pixels, interpolation="bilinear")
    axes.set_axis_off()
    width, height = picture.size.width, picture.size.height
    if copy:
        corner = (copy.left * width, copy.top * height)
        box = Rectangle(
            corner, copy.width * width, copy.height * height,
            fill=False, edgecolor="white", linestyle="--",
        )  # fmt: skip
        axes.add_patch(box)
    taken = "\N{CHECK MARK} taken: " if best else ""
    axes.set_title(
        f"{taken}{still.second:.2f} s, {still.marks.figure:.2f}\n{weakest(still.marks)}",
        loc="left", fontsize=9, color=GOOD if best else INK,
    )  # fmt: skip


def weakest(marks: Marks) -> str:
    """The two marks that cost a still most, in words."""
    named = {word: getattr(marks, name) for name, word in WORDS.items()}
    lowest = sorted(named.items(), key=lambda item: item[1])[:2]
    told = ", ".join(f"{word} {mark:.2f}" for word, mark in lowest if mark < 0.995)
    return told or "nothing to fault"


def draw_subjects(found: Sequence[LookedAt]) -> bytes:
    """The sources side by side, each with its box.

    Args:
        found: the sources; at least one.
    """
    sizes = [one.picture.size for one in found]
    figure, grid = _grid("What has to stay in view? Suggested subjects", sizes)
    for axes, one in zip(grid, found, strict=True):
        axes.set_axis_off()
        _draw_subject(axes, one)
    return _png(figure)


def _draw_subject(axes: Axes, one: LookedAt) -> None:
    from matplotlib.patches import Rectangle

    size, box = one.picture.size, one.suggestion.box
    share = min(1.0, SUBJECT_SIDE / max(size.width, size.height))
    width, height = (max(1, round(side * share)) for side in (size.width, size.height))
    axes.imshow(resampled(one.picture, width, height).pixels)
    for colour, line in (("white", 4), (BOX, 2)):
        corner = (box.left * width, box.top * height)
        axes.add_patch(Rectangle(
            corner, box.width * width, box.height * height, fill=False, edgecolor=colour,
            linewidth=line,
        ))  # fmt: skip
    told = "box: what stands out"
    axes.set_title(f"{one.name}\n{told}", loc="left", fontsize=9, color=INK)


class ShownTrial(Protocol):
    """What a sheet shows of one trial."""

    @property
    def name(self) -> str:
        """What was done."""

    @property
    def picture(self) -> Raster:
        """As a visitor sees it."""

    @property
    def lowest(self) -> float:
        """Lowest contrast under the copy."""

    @property
    def bytes(self) -> int:
        """Of the picture."""


def draw_trials(
    title: str,
    trials: Sequence[ShownTrial],
    copy: Rect,
    letters: Letters,
) -> bytes:
    """The trials side by side, each with sample copy, its lowest contrast and its bytes."""
    figure, grid = _grid(title, [trial.picture.size for trial in trials])
    for number, (axes, trial) in enumerate(zip(grid, trials, strict=True), 1):
        _draw_trial(axes, number, trial, copy, letters)
        _caption(axes, number, trial, letters)
    return _png(figure)


def _draw_trial(axes: Axes, number: int, trial: ShownTrial, copy: Rect, letters: Letters) -> None:
    width, height = trial.picture.size.width, trial.picture.size.height
    axes.imshow(trial.picture.pixels, interpolation="bilinear")
    axes.set_axis_off()
    across = axes.get_position().width * WIDE
    axes.text(
        copy.left * width, copy.top * height, SAMPLE, va="top", color=letters.colour.css,
        size=max(5.0, letters.size * across / width * 0.72), clip_on=True, gid=str(number),
        weight="bold" if letters.bold else "normal",
    )  # fmt: skip


def _caption(axes: Axes, number: int, trial: ShownTrial, letters: Letters) -> None:
    enough = trial.lowest >= letters.wanted_contrast
    told = "\N{CHECK MARK} readable," if enough else "\N{MULTIPLICATION X} too low,"
    axes.set_title(
        f"{number}  {trial.name}, {bytes_text(trial.bytes)}\n{told} {trial.lowest:.2f}:1",
        loc="left", fontsize=9, color=GOOD if enough else BAD,
    )  # fmt: skip
