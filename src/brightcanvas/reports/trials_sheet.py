"""A sheet of trials as PNG."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Protocol

from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import Letters
from brightcanvas.values.raster import Raster

if TYPE_CHECKING:
    from matplotlib.axes import Axes

COLUMNS = 3
SAMPLE = "Flour, bread and a bed\nfor the night"
INK = "#20262b"


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
    weight: Callable[[int], str],
) -> bytes:
    """The trials side by side, each with sample copy, its lowest contrast and its bytes."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    rows = -(-len(trials) // COLUMNS)
    figure = Figure(figsize=(12.8, 8.0), dpi=100, facecolor="white")
    canvas = FigureCanvasAgg(figure)
    figure.text(0.03, 0.955, title, size=15, weight="bold", color=INK)
    wide, high = 0.95 / COLUMNS, 0.92 / rows
    for index, trial in enumerate(trials):
        row, column = divmod(index, COLUMNS)
        place = (0.03 + column * wide, 0.93 - (row + 1) * high, wide * 0.94, high * 0.80)
        axes = figure.add_axes(place)
        _draw_one(axes, index + 1, trial, copy, letters)
        _caption(axes, index + 1, trial, letters, weight(trial.bytes))
    out = io.BytesIO()
    canvas.print_png(out)  # type: ignore[no-untyped-call]
    return out.getvalue()


def _draw_one(axes: Axes, number: int, trial: ShownTrial, copy: Rect, letters: Letters) -> None:
    width, height = trial.picture.size.width, trial.picture.size.height
    axes.imshow(trial.picture.pixels, interpolation="bilinear")
    axes.set_axis_off()
    axes.set_anchor("SW")
    across = axes.get_position().width * 1280
    axes.text(
        copy.left * width, copy.top * height, SAMPLE, va="top", color=letters.colour.css,
        size=max(5.0, letters.size * across / width * 0.72), clip_on=True, gid=str(number),
        weight="bold" if letters.bold else "normal",
    )  # fmt: skip


def _caption(axes: Axes, number: int, trial: ShownTrial, letters: Letters, weight: str) -> None:
    enough = trial.lowest >= letters.wanted_contrast
    axes.set_title(
        f"{number}  {trial.name}\n     {trial.lowest:.2f}:1, {weight}",
        loc="left", fontsize=9, color="#2f7d4f" if enough else "#b3261e",
    )  # fmt: skip
