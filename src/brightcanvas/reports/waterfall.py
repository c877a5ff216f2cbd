"""Waterfall charts of a rehearsal: which file is on its way when."""

from __future__ import annotations

import io
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from brightcanvas.page.fetch import Fetch
from brightcanvas.rehearsal.rehearsing import Over, Rehearsed, file_name
from brightcanvas.rehearsal.timeline import Waterfall
from brightcanvas.templates.rendering import rendered

if TYPE_CHECKING:
    from matplotlib.axes import Axes

INK, FAINT, HERO, HINT = "#20262b", "#c9d0d6", "#b4582a", "#2f7d4f"
KINDS = {
    "page": "#5b6b7a", "sheet": "#7a5ba0", "script": "#a08a3c", "picture": "#3f7cac",
    "clip": "#8c3f5d", "frame": "#8c3f5d", "font": "#5f7f4f",
}  # fmt: skip


@dataclass(frozen=True)
class ChartLook:
    """How the charts of HTML pages look."""

    hero: str
    """The colour of the first view's picture."""
    waiting: str
    """Of a file that is asked for and not there yet."""
    kinds: Mapping[str, str]
    """Of files, by their kind."""
    other: str
    """Of every other kind."""
    name: Callable[[Fetch], str]


LOOK = ChartLook(HERO, "var(--waiting)", KINDS, KINDS["page"], file_name)

LONGEST = 34
"""Letters of a file's name that are shown."""


def draw_waterfalls(title: str, rehearsed: Rehearsed) -> bytes:
    """One screen over each line, without hints on the left and with them on the right, as PNG."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    rows = len(rehearsed.over)
    figure = Figure(figsize=(12.8, max(4.0, 2.6 * rows + 0.9)), dpi=100, facecolor="white")
    canvas = FigureCanvasAgg(figure)
    device = rehearsed.device
    figure.suptitle(
        f"{title}: {device.name}, {device.figures}", x=0.02, ha="left", size=14, weight="bold",
        color=INK,
    )  # fmt: skip
    panels = figure.subplots(rows, 2, squeeze=False)
    for over, (left, right) in zip(rehearsed.over, panels, strict=True):
        end = max(over.hinted.done, over.plain.done) * 1.02
        _draw_waterfall(left, over.plain, rehearsed, f"{over.line.name}, without hints", end)
        _draw_waterfall(right, over.hinted, rehearsed, f"{over.line.name}, with hints", end)
    figure.tight_layout(rect=(0, 0, 1, 0.96))
    out = io.BytesIO()
    canvas.print_png(out)  # type: ignore[no-untyped-call]
    return out.getvalue()


def _draw_waterfall(
    axes: Axes, waterfall: Waterfall, rehearsed: Rehearsed, title: str, end: float
) -> None:
    hero = set(rehearsed.hero.urls) if rehearsed.hero else set()
    for row, one in enumerate(waterfall.timings):
        colour = HERO if one.fetch.url in hero else KINDS.get(one.fetch.kind, KINDS["page"])
        axes.barh(row, one.begun - one.asked, left=one.asked, height=0.5, color=FAINT)
        axes.barh(row, one.done - one.begun, left=one.begun, height=0.62, color=colour)
    names = [_short(file_name(one.fetch)) for one in waterfall.timings]
    axes.set_yticks(range(len(names)), names, size=7, color=INK)
    axes.invert_yaxis()
    axes.set_xlim(0, end)
    axes.tick_params(axis="x", labelsize=7)
    axes.set_xlabel("seconds", size=7)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    told = title
    if rehearsed.hero:
        at = waterfall.at_hand(rehearsed.hero)
        axes.axvline(at, color=HERO, linewidth=1.2, linestyle="--")
        told += f": picture of {rehearsed.hero.element} after {at:.2f} s"
    axes.set_title(told, size=8.5, loc="left", color=INK)


def _short(name: str) -> str:
    return name if len(name) <= LONGEST else f"{name[: LONGEST - 1]}…"


def rehearsal_page(title: str, told: str, rehearsed: Sequence[Rehearsed]) -> str:
    """All screens and lines as one HTML page that needs nothing but itself."""
    return rendered(
        "rehearsal.html.j2", title=title, told=told, rehearsed=rehearsed, look=LOOK, ends=_end
    )


def _end(over: Over) -> float:
    return max(over.hinted.done, over.plain.done, 0.001)
