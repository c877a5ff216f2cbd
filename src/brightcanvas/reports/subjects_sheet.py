"""A sheet of sources with the subjects that are suggested in them, as PNG."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import TYPE_CHECKING

from brightcanvas.beginning.draft import LookedAt

if TYPE_CHECKING:
    from matplotlib.axes import Axes

COLUMNS = 3
INK, BOX = "#20262b", "#e4572e"


def draw_subjects(found: Sequence[LookedAt]) -> bytes:
    """The sources side by side, each with its box.

    Args:
        found: the sources; at least one.
    """
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    rows = -(-len(found) // COLUMNS)
    figure = Figure(figsize=(12.8, max(4.6, 3.7 * rows + 0.7)), dpi=100, facecolor="white")
    canvas = FigureCanvasAgg(figure)
    figure.suptitle(
        "What has to stay in view? Suggested subjects", x=0.02, ha="left", size=14, weight="bold",
        color=INK,
    )  # fmt: skip
    grid = figure.subplots(rows, COLUMNS, squeeze=False)
    for axes in grid.flat:
        axes.set_axis_off()
    for axes, one in zip(grid.flat, found, strict=False):
        _draw_one(axes, one)
    figure.tight_layout(rect=(0, 0, 1, 0.97))
    out = io.BytesIO()
    canvas.print_png(out)  # type: ignore[no-untyped-call]
    return out.getvalue()


def _draw_one(axes: Axes, one: LookedAt) -> None:
    from matplotlib.patches import Rectangle

    size, box = one.picture.size, one.suggestion.box
    width, height = size.width, size.height
    axes.imshow(one.picture.pixels)
    axes.set_anchor("NW")
    for colour, line in (("white", 4), (BOX, 2)):
        corner = (box.left * width, box.top * height)
        axes.add_patch(Rectangle(
            corner, box.width * width, box.height * height, fill=False, edgecolor=colour,
            linewidth=line,
        ))  # fmt: skip
    told = "box: what stands out"
    axes.set_title(f"{one.name}\n{told}", loc="left", fontsize=9, color=INK)
