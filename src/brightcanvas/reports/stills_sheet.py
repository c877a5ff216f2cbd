"""A sheet of a clip's best stills as PNG."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import TYPE_CHECKING

from brightcanvas.analysis.stills import Marks, Still
from brightcanvas.values.geometry import Rect
from brightcanvas.values.raster import Raster

if TYPE_CHECKING:
    from matplotlib.axes import Axes

COLUMNS_FOR = {1: 1, 2: 2, 4: 2}
"""Columns for so many stills; three for others."""

INK, BEST = "#20262b", "#2f7d4f"
WORDS = {
    "exposed": "exposure",
    "contrasted": "contrast",
    "sharp": "sharpness",
    "coloured": "colour",
    "settled": "stillness",
    "calm": "calm under the copy",
    "clear": "subject",
}


def draw_stills(title: str, stills: Sequence[tuple[Still, Raster]], copy: Rect | None) -> bytes:
    """The stills side by side, the best first, each with its second and its marks."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    columns = COLUMNS_FOR.get(len(stills), 3)
    rows = -(-len(stills) // columns)
    figure = Figure(figsize=(12.8, 8.0), dpi=100, facecolor="white")
    canvas = FigureCanvasAgg(figure)
    figure.text(0.03, 0.955, f"{title}: the best stills", size=15, weight="bold", color=INK)
    wide, high = 0.95 / columns, 0.92 / max(rows, columns - 1)
    for index, (still, picture) in enumerate(stills):
        row, column = divmod(index, columns)
        place = (0.03 + column * wide, 0.93 - (row + 1) * high, wide * 0.94, high * 0.80)
        _draw_one(figure.add_axes(place), still, picture, copy, best=index == 0)
    out = io.BytesIO()
    canvas.print_png(out)  # type: ignore[no-untyped-call]
    return out.getvalue()


def _draw_one(axes: Axes, still: Still, picture: Raster, copy: Rect | None, *, best: bool) -> None:
    from matplotlib.patches import Rectangle

    axes.imshow(picture.pixels, interpolation="bilinear")
    axes.set_axis_off()
    axes.set_anchor("NW")
    width, height = picture.size.width, picture.size.height
    if copy:
        corner = (copy.left * width, copy.top * height)
        box = Rectangle(
            corner, copy.width * width, copy.height * height,
            fill=False, edgecolor="white", linestyle="--",
        )  # fmt: skip
        axes.add_patch(box)
    axes.set_title(
        f"{still.second:.2f} s, {still.marks.figure:.2f}\n{weakest(still.marks)}",
        loc="left", fontsize=9, color=BEST if best else INK,
    )  # fmt: skip


def weakest(marks: Marks) -> str:
    """The two marks that cost a still most, in words."""
    named = {word: getattr(marks, name) for name, word in WORDS.items()}
    lowest = sorted(named.items(), key=lambda item: item[1])[:2]
    told = ", ".join(f"{word} {mark:.2f}" for word, mark in lowest if mark < 0.995)
    return told or "nothing to fault"
