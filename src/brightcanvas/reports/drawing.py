"""Framing sheets as PNG, drawn with Matplotlib."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

from brightcanvas.promises.verdict import State, Verdict, worth_telling
from brightcanvas.reports.plates import Marked, Plate, SeenBox
from brightcanvas.values.geometry import Rect

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

COLOURS = ("#e4572e", "#2e86ab", "#3a9a5b", "#8e5aa8", "#c98a1b", "#4a5568")
SUBJECT = "#ffe066"
COPY = "#ffffff"
INK = "#20262b"


def draw_plate(plate: Plate, verdicts: Sequence[Verdict]) -> bytes:
    """One plate as a PNG of 1280 x 800 px, with the verdicts of its backdrop."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    figure = Figure(figsize=(12.8, 8.0), dpi=100, facecolor="white")
    canvas = FigureCanvasAgg(figure)
    figure.text(0.03, 0.95, plate.backdrop, size=17, weight="bold", color=INK)
    figure.text(0.03, 0.925, f"{plate.source_name} on {plate.element}", size=10, color="#5b6670")
    _draw_source(figure.add_axes((0.03, 0.42, 0.52, 0.48)), plate)
    _write_verdicts(figure, verdicts)
    extreme = [seen for seen in plate.seen if not seen.spot]
    if not extreme:
        figure.text(0.03, 0.2, "Nothing is cut off here.", size=11, color=INK)
    _draw_row(figure, extreme, Rect(0.03, 0.06, 0.97, 0.30))
    hardest = [seen for seen in plate.seen if seen.spot]
    if hardest:
        figure.text(0.58, 0.595, "Where the copy is hardest to read", size=9.5, weight="bold")
    _draw_row(figure, hardest, Rect(0.58, 0.40, 0.97, 0.52))
    out = io.BytesIO()
    canvas.print_png(out)  # type: ignore[no-untyped-call]
    return out.getvalue()


def _draw_source(axes: Axes, plate: Plate) -> None:
    axes.imshow(plate.source.pixels, interpolation="bilinear")
    axes.set_axis_off()
    axes.set_anchor("NW")
    width, height = plate.source.size.width, plate.source.size.height
    for index, cut in enumerate(plate.cuts):
        colour = COLOURS[index % len(COLOURS)]
        inset = 3 + 5 * index  # equal cuts stay apart
        _outline(axes, cut.area, (width, height), colour, inset=inset, thick=2.2)
    for subject in plate.subjects:
        _mark(axes, subject, (width, height))
    if plate.suggested:
        _outline(axes, plate.suggested, (width, height), SUBJECT, dashed=True)
    _legend(axes, plate.cuts, suggested=plate.suggested is not None)


def _mark(axes: Axes, subject: Rect, size: tuple[float, float]) -> None:
    """A box, or a ring where the subject is a point."""
    if subject.width and subject.height:
        _outline(axes, subject, size, SUBJECT, thick=2.0)
        return
    _ring(axes, subject.left * size[0], subject.top * size[1])


def _ring(axes: Axes, x: float, y: float) -> None:
    axes.plot(
        [x], [y], "o", markersize=11,
        markerfacecolor="none", markeredgecolor=SUBJECT, markeredgewidth=2,
    )  # fmt: skip


def _outline(
    axes: Axes,
    area: Rect,
    size: tuple[float, float],
    colour: str,
    *,
    inset: float = 0.0,
    thick: float = 1.6,
    dashed: bool = False,
) -> None:
    from matplotlib.patches import Rectangle

    axes.add_patch(
        Rectangle(
            (area.left * size[0] + inset, area.top * size[1] + inset),
            area.width * size[0] - 2 * inset,
            area.height * size[1] - 2 * inset,
            fill=False,
            edgecolor=colour,
            linewidth=thick,
            linestyle="--" if dashed else "-",
        )
    )


def _legend(axes: Axes, cuts: Sequence[Marked], *, suggested: bool) -> None:
    from matplotlib.lines import Line2D

    handles = [
        Line2D([], [], color=COLOURS[index % len(COLOURS)], linewidth=2.2, label=cut.name)
        for index, cut in enumerate(cuts)
    ]
    if handles:
        handles[0].set_label(f"cuts: {cuts[0].name}")
    label = "suggested subject" if suggested else "subject"
    style: Literal["--", "-"] = "--" if suggested else "-"
    handles.append(Line2D([], [], color=SUBJECT, linewidth=2, linestyle=style, label=label))
    axes.legend(
        handles=handles, loc="lower left", bbox_to_anchor=(0.0, -0.13), ncols=len(handles),
        frameon=False, fontsize=9, borderpad=0,
    )  # fmt: skip


def _write_verdicts(figure: Figure, verdicts: Sequence[Verdict]) -> None:
    import textwrap

    top = 0.885
    told = worth_telling(verdicts)
    for index, verdict in enumerate(told):
        lines = textwrap.wrap(f"{verdict.says}; {verdict.remedy}".rstrip("; "), 78)
        if top - 0.03 - 0.0175 * len(lines) < 0.62:
            figure.text(0.58, top, f"and {len(told) - index} more on the page", size=9, color=INK)
            return
        colour = _COLOURS[verdict.state]
        heading = f"{verdict.promise}, {verdict.breakpoint}: {verdict.state.value}"
        figure.text(0.58, top, heading, size=9.5, weight="bold", color=colour)
        figure.text(0.58, top - 0.008, "\n".join(lines), size=8.5, color=INK, va="top")
        top -= 0.036 + 0.0175 * len(lines)


_COLOURS = {
    State.HOLDS: "#2f7d4f",
    State.BROKEN: "#b3261e",
    State.NOTE: "#8a6100",
    State.NOT_MEASURED: "#8a6100",
}


def _draw_row(figure: Figure, seen: Sequence[SeenBox], place: Rect) -> None:
    """Boxes side by side in a part of the figure, each as large as its place allows."""
    for index, one in enumerate(seen):
        across = place.width / len(seen)
        axes = figure.add_axes(
            (place.left + across * index, place.top, across * 0.92, place.height)
        )
        _draw_seen(axes, one, across * figure.get_figwidth() * 72)


LETTER = 0.6
"""Width of a letter of the titles, in sizes of the letters, about."""


def _draw_seen(axes: Axes, seen: SeenBox, room: float) -> None:
    """One box, with a title in letters that fit into the room across (points)."""
    width, height = seen.picture.size.width, seen.picture.size.height
    axes.imshow(seen.picture.pixels, interpolation="bilinear")
    axes.set_xlim(0, width)
    axes.set_ylim(height, 0)
    axes.set_axis_off()
    axes.set_anchor("SW")
    name, _, window = seen.title.partition(", ")
    box = f"box {seen.box.width:.0f} x {seen.box.height:.0f}"
    lines = (name, window, box)
    size = min(8.0, room / max(map(len, lines)) / LETTER)
    axes.set_title("\n".join(lines), loc="left", fontsize=size, color=INK)
    for subject in seen.subjects:
        _mark(axes, subject, (width, height))
    if seen.copy and not seen.spot:
        _shade(axes, seen.copy, (width, height))
    elif seen.copy:
        _outline(axes, seen.copy, (width, height), COPY, thick=1.0)
    if seen.spot:
        _ring(axes, seen.spot.x * width, seen.spot.y * height)


def _shade(axes: Axes, copy: Rect, size: tuple[float, float]) -> None:
    from matplotlib.patches import Rectangle

    axes.add_patch(
        Rectangle(
            (copy.left * size[0], copy.top * size[1]),
            copy.width * size[0],
            copy.height * size[1],
            facecolor=COPY,
            alpha=0.45,
            edgecolor=INK,
            linewidth=0.8,
        )
    )
